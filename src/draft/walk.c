/* SPDX-License-Identifier: MIT */
/* The extents of a draft in their safe order. */
#include "draft/content.h"

static bool next_moment(struct slate_walk *walk)
{
    walk->moment++;
    walk->index = 0;
    walk->at = 0;
    return walk->moment < SLATE_MOMENTS;
}

/* A part may begin or end where nobody writes: that is no border. */
static void uncovered_until(const struct slate_draft *draft, uint64_t end,
                            uint64_t *until)
{
    uint64_t next;

    while (*until < end && !slate_draft_covers(draft, *until, &next))
        *until = next;
}

/* The part of an old range, from walk->at on, that new content does not cover.
 * The ranges are taken from the last to the first. */
static bool next_erase(const struct slate_draft *draft, struct slate_walk *walk,
                       struct slate_extent *extent)
{
    const struct slate_basis *basis = &draft->basis;

    while (walk->index < basis->old.count) {
        const struct slate_range *old =
            &basis->old.range[basis->old.count - 1 - walk->index];
        uint64_t end = old->first + old->count, until;
        uint64_t at = walk->at > old->first ? walk->at : old->first;

        while (at < end && slate_draft_covers(draft, at, &until))
            at = until;
        if (at < end) {
            uncovered_until(draft, end, &until);
            extent->first = at;
            extent->count = (until < end ? until : end) - at;
            extent->part = SLATE_PART_ERASED;
            extent->role = 0;
            extent->zero = true;
            walk->at = at + extent->count;
            return true;
        }
        walk->index++;
        walk->at = 0;
    }
    return false;
}

/* Block 0 comes last of all: what begins there goes without it. */
static bool leave_first(struct slate_extent *extent)
{
    if (extent->first > 0)
        return true;
    extent->first = 1;
    return --extent->count > 0;
}

/* Of the parts, one after the other, then of the table. */
static bool next_content(const struct slate_draft *draft,
                         struct slate_walk *walk, struct slate_extent *extent)
{
    while (walk->index <= draft->parts) {
        uint32_t part =
            walk->index < draft->parts ? walk->index : SLATE_PART_TABLE;
        const void *plan;
        const struct slate_composer *composer =
            slate_draft_composer(draft, part, &plan);

        while (composer != NULL &&
               composer->next(plan, (enum slate_moment)walk->moment, &walk->at,
                              extent)) {
            extent->part = part;
            if (leave_first(extent))
                return true;
        }
        walk->index++;
        walk->at = 0;
    }
    return false;
}

/* The mark, and what replaces it. */
static bool next_first(const struct slate_draft *draft, struct slate_walk *walk,
                       struct slate_extent *extent)
{
    bool mark = walk->moment == SLATE_MOMENT_MARK;

    if (walk->index++ > 0)
        return false;
    extent->first = 0;
    extent->count = 1;
    extent->part = mark ? SLATE_PART_MARK : slate_draft_owner(draft, 0);
    extent->role = SLATE_ROLE_FIRST;
    extent->zero = !mark && extent->part == SLATE_PART_ERASED;
    return true;
}

static bool next_of_moment(const struct slate_draft *draft,
                           struct slate_walk *walk, struct slate_extent *extent)
{
    switch ((enum slate_moment)walk->moment) {
    case SLATE_MOMENT_MARK:
    case SLATE_MOMENT_COMMIT:
        return next_first(draft, walk, extent);
    case SLATE_MOMENT_ERASE:
        return next_erase(draft, walk, extent);
    default:
        return next_content(draft, walk, extent);
    }
}

bool slate_draft_next(const struct slate_draft *draft, struct slate_walk *walk,
                      struct slate_extent *extent)
{
    if (walk->moment >= SLATE_MOMENTS)
        return false;
    do {
        if (!next_of_moment(draft, walk, extent))
            continue;
        extent->moment = (enum slate_moment)walk->moment;
        return true;
    } while (next_moment(walk));
    return false;
}

uint64_t slate_draft_blocks(const struct slate_draft *draft, bool final)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;
    uint64_t blocks = 0;

    while (slate_draft_next(draft, &walk, &extent)) {
        if (!final || extent.moment != SLATE_MOMENT_MARK)
            blocks += extent.count;
    }
    return blocks;
}
