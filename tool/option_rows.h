/* SPDX-License-Identifier: MIT */
/* The options that there are, and which verbs take them. */
#ifndef TOOL_OPTION_ROWS_H
#define TOOL_OPTION_ROWS_H

#include <argp.h>
#include <stddef.h>
#include <stdint.h>

enum option_key {
    KEY_BENCH = 'b',
    KEY_OUTPUT = 'o',
    KEY_JSON = 0x100,
    KEY_FOR,
    KEY_TABLE,
    KEY_VOLUME,
    KEY_LABEL,
    KEY_CLUSTER,
    KEY_PART,
    KEY_KEEP,
    KEY_BARE,
    KEY_NO_JOURNAL,
    KEY_ACTIVE,
    KEY_LOGICAL,
    KEY_SEED,
    KEY_FILES,
    KEY_FILES_FIRST,
    KEY_START_CODE,
    KEY_BAD,
    KEY_BAD_LIST,
    KEY_SCAN,
    KEY_SCAN_WRITES,
    KEY_SCAN_FROM,
    KEY_BLOCK_SIZE,
    KEY_CONSENT,
    KEY_REMEMBER,
    KEY_FRESH,
    KEY_SECONDS,
    KEY_PICTURE,
    KEY_LIFT,
    KEY_PASSWORD,
    KEY_LASTING,
    KEY_ERASE,
    KEY_REPLACE,
    KEY_GIVE_UP,
    KEY_AFRESH,
    KEY_CLEAR,
    KEY_RELABEL,
    KEY_PARTITION,
    KEY_CYLINDERS,
    KEY_ENTRIES,
    KEY_KEEP_CODE,
    KEY_KEEP_ID,
    KEY_TYPE,
    KEY_NAME,
    KEY_ATTRIBUTES,
    KEY_JOURNAL,
    KEY_NO_REWIND,
    KEY_ANYWAY,
    KEY_DROP,
    KEY_MEND,
    KEY_PUT_BACK,
    KEY_EVERY,
    KEY_FROM,
    KEY_EXPECT,
    KEY_OVERWRITE,
    KEY_READ_BACK,
    KEY_DISCARD,
    KEY_EMPTY,
    KEY_UNHELD,
    KEY_FAILED,
    KEY_WAY,
    KEY_WHOLE_DRIVE,
    KEY_READ_ALL,
    KEY_WITHIN,
    KEY_FULL,
    KEY_EVIDENCE,
    KEY_THEN,
    KEY_THEN_RUN,
    KEY_WRITES,
    KEY_SAME,
    KEY_FORGET_GROWN,
    KEY_UNLOOKED,
    KEY_DRIVE /* and one for each enum drive_word behind it */
};

#define USES                                                                   \
    "anything, camera, player, console, logger, desktop, linux, mac, old-pc, " \
    "startup or vintage"

struct option_row {
    uint64_t takes;
    struct argp_option option;
};

#define OPTIONS_MOST 104

extern const struct option_row option_rows[];
extern const size_t option_row_count;

#endif
