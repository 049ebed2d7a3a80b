/* SPDX-License-Identifier: MIT */
/* Every verb that changes a device, and the reader that it is tried on. */
#include "verb_rows.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define BYTES 41943040u /* of either medium */

static unsigned bytes_of_block;

const struct row rows[ROWS] = {
    {"renew", "renew % --label NEXT --no-probe", MBR, true},
    {"renew", "renew % --keep all --part rest", MBR, true},
    {"relabel", "relabel % --label NEXT", MBR, true},
    {"mend", "mend %", DAMAGED, true},
    {"convert", "convert % --table gpt", MBR, true},
    {"guards", "guards % --lift gpt-no-letter", GPT, true},
    {"renew", "renew % --label NEXT", MBR, false},
    {"overwrite", "overwrite % --with zero", MBR, false},
    {"probe", "probe %", MBR, false},
    {"probe", "probe % --full", MBR, false},
    {"scan", "scan % --writes", MBR, false},
    {"enact", "enact $/draft.json --bench $/bench", MBR, false},
    {"rewind", "rewind $/kept %", MBR, false},
    {"erase", "erase % --way format-unit", MBR, false},
};

static void lay_reader(const char *more)
{
    char members[600];

    snprintf(members, sizeof members,
             "{\"blocks\": %u, \"block_bytes\": %u, \"content\": [], "
             "\"erases\": {\"ways\": [\"format\"], \"steps\": 2}%s}",
             BYTES / bytes_of_block, bytes_of_block, more);
    lay_device(READER, members);
}

int lay_bases_of(void **state, unsigned block_bytes)
{
    char members[100], bytes[16], last[16];

    bytes_of_block = block_bytes;
    snprintf(bytes, sizeof bytes, "%u", block_bytes);
    snprintf(last, sizeof last, "%u", BYTES / block_bytes - 1);
    setenv("BYTES", bytes, 1);
    setenv("LAST", last, 1);
    assert_int_equal(fresh_bench(state), 0);
    lay_reader("");
    expect("assess sim:" READER " --json", 0, "tag");
    take_tag();
    setenv("TAG", tag, 1);
    sh("cd $FOLDER && $TOOL renew sim:" READER
       " --table gpt --part 20MB --label WAVES --attributes gpt-no-letter "
       "--consent $TAG && cp --sparse=always bench/" READER
       ".blocks gpt.blocks && cp --sparse=always gpt.blocks damaged.blocks && "
       "dd if=/dev/zero of=damaged.blocks bs=$BYTES seek=$LAST count=1 "
       "conv=notrunc",
       0);
    lay_reader("");
    sh("cd $FOLDER && rm -f kept draft.json && $TOOL renew sim:" READER
       " --table mbr --part 20MB --label WAVES --journal kept --consent $TAG "
       "&& cp --sparse=always bench/" READER
       ".blocks mbr.blocks && $TOOL draft sim:" READER
       " --label NEXT -o draft.json",
       0);
    snprintf(members, sizeof members,
             "{\"blocks\": %u, \"block_bytes\": %u, \"content\": []}",
             BYTES / block_bytes, block_bytes);
    lay_device(OTHER, members);
    sh("cd $FOLDER && $TOOL renew sim:" OTHER
       " --table mbr --part 20MB --label OTHER --consent $($TOOL guards "
       "sim:" OTHER " | head -c 8) && printf DEEP | dd of=bench/" OTHER
       ".blocks bs=1 seek=30000000 conv=notrunc && cp --sparse=always "
       "bench/" OTHER ".blocks other.blocks",
       0);
    return 0;
}

int lay_bases(void **state)
{
    return lay_bases_of(state, 512);
}

void fill_in(const struct row *row, const char *device, char line[400])
{
    const char *at = strchr(row->line, '%');

    if (at == NULL)
        snprintf(line, 400, "%s --consent %s", row->line, tag);
    else
        snprintf(line, 400, "%.*s%s%s --consent %s", (int)(at - row->line),
                 row->line, device, at + 1, tag);
}

static const char *name_of(const struct row *row)
{
    static const char *const names[] = {"mbr", "gpt", "damaged"};

    return names[row->base];
}

void begin(const struct row *row, const char *members)
{
    char line[200];

    lay_reader(members);
    snprintf(line, sizeof line,
             "cd $FOLDER && cp --sparse=always %s.blocks bench/" READER
             ".blocks && rm -rf bench/*.state state/*",
             name_of(row));
    sh(line, 0);
}

/* A power cut that comes later stops nothing. */
unsigned commands_of(const struct row *row, const char *line)
{
    unsigned low = 1, high = 16384;

    while (low < high) {
        unsigned middle = low + (high - low) / 2;
        char cut[80];

        snprintf(cut, sizeof cut, ", \"power_cut_at_command\": %u", middle);
        begin(row, cut);
        if (tool_run(&p, line) == 0)
            high = middle;
        else
            low = middle + 1;
    }
    return low;
}

bool is_as_before(const struct row *row)
{
    char line[200];

    snprintf(line, sizeof line,
             "cmp -s $FOLDER/bench/" READER ".blocks $FOLDER/%s.blocks",
             name_of(row));
    return shell_run(&shell, line) == 0;
}
