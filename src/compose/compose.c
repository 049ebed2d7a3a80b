/* SPDX-License-Identifier: MIT */
/* What holds for every composer. */
#include "trueslate/compose.h"

uint64_t slate_compose_blocks(const struct slate_composer *composer,
                              const void *plan)
{
    uint64_t blocks = 0;

    for (int moment = 0; moment < SLATE_MOMENTS; moment++) {
        struct slate_extent extent;
        uint64_t at = 0;

        while (composer->next(plan, (enum slate_moment)moment, &at, &extent))
            blocks += extent.count;
    }
    return blocks;
}
