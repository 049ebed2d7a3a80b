/* SPDX-License-Identifier: MIT */
/* Blocks that are known to be bad, as input of a draft. */
#include "draft/make/make.h"
#include "draft/place/place.h"
#include "volume/common/common.h"

enum slate_status slate_draft_bad(struct slate_draft *draft, uint64_t first,
                                  uint64_t count)
{
    enum slate_status status = slate_bad_add(&draft->bad, first, count);

    if (status != SLATE_ERR_ROOM)
        return status;
    status = slate_draft_grow_ranges(draft, "bad blocks", &draft->bad,
                                     (uint64_t)draft->bad.count + 1);
    return status == SLATE_OK ? slate_bad_add(&draft->bad, first, count)
                              : status;
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
