/* SPDX-License-Identifier: MIT */
/* What a draft writes, in the order in which it is put back. On a device that
 * was set up anew the mark stands in block 0 meanwhile; where partitions stay,
 * a table of these alone; a change in place is gone back over from its end. */

#include "base/base.h"
#include "draft/place/place.h"
#include "enact/enact.h"

/* Where partitions stay, and none went, the old table is that of these alone:
 * it comes first. */
static bool table_first(const struct slate_draft *draft)
{
    return draft->switched && !draft->drops;
}

static bool is_table(const struct slate_extent *extent)
{
    return extent->moment >= SLATE_MOMENT_TABLE_COPY;
}

/* The walk of the draft, twice: the table, then all else. */
static bool next_table_first(const struct slate_draft *draft,
                             struct slate_walk *walk,
                             struct slate_extent *extent)
{
    for (;;) {
        bool second = walk->moment >= SLATE_MOMENTS;
        struct slate_walk inner = *walk;

        inner.moment -= second ? SLATE_MOMENTS : 0;
        if (slate_draft_next(draft, &inner, extent)) {
            *walk = inner;
            walk->moment += second ? SLATE_MOMENTS : 0;
            if (is_table(extent) != second)
                return true;
        } else if (second) {
            return false;
        } else {
            *walk = (struct slate_walk){.moment = SLATE_MOMENTS};
        }
    }
}

/* What is changed in place goes back the way it came: the last moment first,
 * so that the device passes through the same states. */
static bool next_backwards(const struct slate_draft *draft,
                           struct slate_walk *walk, struct slate_extent *extent)
{
    for (; walk->moment < SLATE_MOMENTS; walk->moment++) {
        struct slate_walk inner = *walk;
        uint32_t moment = SLATE_MOMENTS - 1 - walk->moment;

        inner.moment = moment;
        if (slate_draft_next(draft, &inner, extent) &&
            extent->moment == (enum slate_moment)moment) {
            inner.moment = walk->moment;
            *walk = inner;
            return true;
        }
        walk->index = 0;
        walk->at = 0;
    }
    return false;
}

/* All that the draft writes, its mark and the tables in between included. */
static bool next(const void *context, struct slate_walk *walk,
                 struct slate_extent *extent)
{
    const struct slate_draft *draft = context;

    return slate_draft_is_change(draft) ? next_backwards(draft, walk, extent)
           : table_first(draft)         ? next_table_first(draft, walk, extent)
                                        : slate_draft_next(draft, walk, extent);
}

void slate_rewind_order(const struct slate_draft *draft,
                        struct slate_supply *supply)
{
    slate_draft_supply(draft, false, supply);
    supply->next = next;
}
