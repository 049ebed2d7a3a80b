/* SPDX-License-Identifier: MIT */
/* The device that a command names, opened. */
#ifndef TOOL_TARGET_H
#define TOOL_TARGET_H

#include <trueslate/port_file.h>
#include <trueslate/port_sim.h>
#include <trueslate/trueslate.h>

/* One work buffer serves all that a command does with its device. */
#define WORK_BYTES 1048576u

struct target {
    char address[4200]; /* "sim:NAME" or "file:PATH" */
    struct slate_sim *sim;
    struct slate_file file;
    bool is_file;
    struct slate_media media;
    struct slate_facts facts; /* after target_look */
    uint8_t *work;
};

/* Opens sim:NAME, file:PATH or a tag on the bench. Says on stderr what is
 * wrong. Returns an exit code, 0 for success; close the target either way. */
int target_open(struct target *target, const char *word, const char *bench,
                uint32_t block_bytes);

/* Looks at the device (slate_assess_look); returns an exit code. */
int target_look(struct target *target);

void target_close(struct target *target);

#endif
