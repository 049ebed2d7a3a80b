/* SPDX-License-Identifier: MIT */
/* The extents of a draft as the steps that people and programs are told. */
#ifndef TOOL_STEPS_H
#define TOOL_STEPS_H

#include <trueslate/trueslate.h>

struct step {
    const char *words;
    uint64_t first;  /* the lowest block of it */
    uint64_t blocks; /* in all */
    unsigned places; /* runs that do not adjoin */
};

/* The next one: extents of the same step, one after the other. The walk begins
 * all zero; it stands at the next step afterwards. */
bool next_step(const struct slate_draft *draft, struct slate_walk *walk,
               struct step *step);

#endif
