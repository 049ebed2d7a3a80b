/* SPDX-License-Identifier: MIT */
/* A device that erases itself: its ways, doing it, and what came of it. */
#ifndef TOOL_ERASING_H
#define TOOL_ERASING_H

#include <jansson.h>

#include "base/options.h"
#include "device/target.h"

/* Places that are compared. */
#define ERASING_PLACES 512u

struct erasing {
    struct slate_erase_way way[SLATE_ERASE_WAYS_MAX];
    uint32_t ways;
    uint32_t chosen;                /* index; ways: none */
    struct slate_erase_state state; /* before anything was sent */
    struct slate_erase erase;
    struct slate_erase_place place[ERASING_PLACES];
    bool begun; /* erase is filled in */
};

/* Each says on stderr what goes wrong and returns an exit code. */

/* The ways of an opened device, and whether it is at it already. */
int erasing_find(struct erasing *erasing, struct target *target);

/* The way that the options name. */
int erasing_choose(struct erasing *erasing, const struct options *options,
                   const struct target *target);

/* Sends the command, or waits for one that is under way, and looks what came of
 * it, having the device for itself meanwhile. */
int erasing_claimed(struct erasing *erasing, struct target *target,
                    bool read_all);

/* What came of it, as an exit code. */
int erasing_judge(const struct erasing *erasing, const struct target *target);

/* The ways, and which suits whom; how the chosen one works; what came of it. */
void erasing_tell_ways(const struct erasing *erasing,
                       const struct target *target);
void erasing_tell_chosen(const struct erasing *erasing);
void erasing_tell(const struct erasing *erasing);

/* The same for programs; new references. */
json_t *erasing_report_ways(const struct erasing *erasing,
                            const struct target *target);
json_t *erasing_report(const struct erasing *erasing);

#endif
