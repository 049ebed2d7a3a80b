/* SPDX-License-Identifier: MIT */
/* Blocks that are known to be bad, as input of a draft. */
#include <string.h>

#include "draft/content.h"
#include "volume/bad.h"

enum slate_status slate_draft_bad(struct slate_draft *draft, uint64_t first,
                                  uint64_t count)
{
    struct slate_ranges *bad = &draft->bad;
    /* the first one that touches it or lies behind it */
    uint32_t i = first == 0 ? 0 : slate_bad_from(bad, first - 1), touched = i;
    uint64_t end = first + count;

    if (count == 0 || end < first || end > INT64_MAX)
        return SLATE_ERR_ARGUMENT;
    for (; touched < bad->count && bad->range[touched].first <= end;
         touched++) {
        uint64_t other = bad->range[touched].first + bad->range[touched].count;

        first = bad->range[touched].first < first ? bad->range[touched].first
                                                  : first;
        end = other > end ? other : end;
    }
    if (touched == i && bad->count == bad->room)
        return SLATE_ERR_BUFFER;
    memmove(&bad->range[i + 1], &bad->range[touched],
            (bad->count - touched) * sizeof bad->range[0]);
    bad->count = bad->count + 1 - (touched - i);
    bad->range[i] = (struct slate_range){first, end - first};
    return SLATE_OK;
}

bool slate_draft_is_bad(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until)
{
    const struct slate_ranges *bad = &draft->bad;
    uint32_t i = slate_bad_from(bad, lba);
    bool is_bad = i < bad->count && bad->range[i].first <= lba;

    *until = i == bad->count ? UINT64_MAX
             : is_bad        ? bad->range[i].first + bad->range[i].count
                             : bad->range[i].first;
    return is_bad;
}

/* Is a block that something is written to a bad one? */
static bool holds_bad(const struct slate_draft *draft,
                      const struct slate_extent *extent, uint64_t *block)
{
    *block = extent->first;
    if (slate_draft_is_bad(draft, extent->first, block)) {
        *block = extent->first;
        return true;
    }
    return *block - extent->first < extent->count;
}

bool slate_draft_first_bad(const struct slate_draft *draft, uint64_t *block)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;

    while (draft->bad.count > 0 && slate_draft_next(draft, &walk, &extent)) {
        if (holds_bad(draft, &extent, block))
            return true;
    }
    return false;
}
