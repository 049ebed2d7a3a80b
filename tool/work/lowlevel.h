/* SPDX-License-Identifier: MIT */
/* A low-level format: what is there, what is wished, doing it, and what came of
 * it. */
#ifndef TOOL_LOWLEVEL_H
#define TOOL_LOWLEVEL_H

#include <jansson.h>

#include "base/options.h"
#include "device/target.h"

#define LOWLEVEL_RANGES 32u

struct lowlevel {
    const struct options *options;
    struct target *target;
    struct slate_lowlevel_facts facts; /* before */
    bool measured;                     /* the interleave is to be found */
    struct slate_defect *sticker;
    uint32_t stickers;
    uint64_t first_blocks;
    uint32_t block_bytes;                      /* wished; 0: as they are */
    struct slate_reformat work;                /* its drive: as it will be */
    bool formatted;                            /* to the end */
    struct slate_range range[LOWLEVEL_RANGES]; /* to be reassigned */
    struct slate_ranges blocks;
    uint64_t reassigned;      /* so many of them */
    char tag[SLATE_TAG_ROOM]; /* before */
};

/* Each says on stderr what goes wrong and returns an exit code. */

/* What is below the device's blocks. */
int lowlevel_find(struct lowlevel *job);

/* What the options wish for. */
int lowlevel_plan(struct lowlevel *job);

/* All of it, having the device for itself meanwhile: the present state is read,
 * the interleave is measured, it is formatted, and read. */
int lowlevel_do(struct lowlevel *job);

/* Blocks that the options name; they are put elsewhere by the device, one by
 * one.
 */
int lowlevel_take_blocks(struct lowlevel *job);
int lowlevel_reassign(struct lowlevel *job);

/* What came of it, as an exit code. */
int lowlevel_judge(const struct lowlevel *job);

/* Gives back what it holds. */
void lowlevel_end(struct lowlevel *job);

/* Can something be read of it as it is? */
bool lowlevel_is_readable(const struct lowlevel *job);

/* For people: what is there; what is wished; what came of it. */
void lowlevel_tell_facts(const struct lowlevel *job);
void lowlevel_tell_plan(const struct lowlevel *job);
void lowlevel_tell(const struct lowlevel *job);

/* The same for programs; a new reference. */
json_t *lowlevel_report(const struct lowlevel *job);

#endif
