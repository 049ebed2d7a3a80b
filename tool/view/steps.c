/* SPDX-License-Identifier: MIT */
/* The extents of a draft as the steps that people and programs are told. */
#include "view/steps.h"

#include <string.h>

bool next_step(const struct slate_draft *draft, struct slate_walk *walk,
               struct step *step)
{
    struct slate_walk ahead = *walk;
    struct slate_extent extent;
    uint64_t end = UINT64_MAX;

    memset(step, 0, sizeof *step);
    step->first = UINT64_MAX;
    while (slate_draft_next(draft, &ahead, &extent)) {
        const char *words = slate_draft_step(draft, &extent);

        if (step->words != NULL && strcmp(words, step->words) != 0)
            break;
        step->words = words;
        step->blocks += extent.count;
        step->places += extent.first == end ? 0 : 1;
        if (extent.first < step->first)
            step->first = extent.first;
        end = extent.first + extent.count;
        *walk = ahead;
    }
    return step->words != NULL;
}
