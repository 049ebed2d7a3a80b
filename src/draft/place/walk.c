/* SPDX-License-Identifier: MIT */
/* The extents of a draft in their safe order. */
#include "draft/place/place.h"

/* Tables, volume heads and backup boot blocks of a part's former content. */
#define ENDS_BYTES 1048576u

_Static_assert(SLATE_MOMENT_COMMIT + 1 == SLATE_MOMENTS, "the last moment");

static bool next_moment(struct slate_walk *walk)
{
    walk->moment++;
    walk->index = 0;
    walk->at = 0;
    return walk->moment < SLATE_MOMENTS;
}

/* What is bad is nobody's to erase. */
static bool is_left(const struct slate_draft *draft, uint64_t lba,
                    uint64_t *until)
{
    uint64_t of_bad;
    bool bad = slate_draft_is_bad(draft, lba, &of_bad);
    bool covered = slate_draft_covers(draft, lba, until);

    if (bad && (!covered || of_bad > *until))
        *until = of_bad;
    else if (!bad && !covered && of_bad < *until)
        *until = of_bad;
    return covered || bad;
}

/* A part may begin or end where nobody writes: that is no border. */
static void uncovered_until(const struct slate_draft *draft, uint64_t end,
                            uint64_t *until)
{
    uint64_t next;

    while (*until < end && !is_left(draft, *until, &next))
        *until = next;
}

/* Where a volume that was in the room of a new part would still be known: its
 * tail and its head. */
static void both_ends(const struct slate_draft *draft,
                      const struct slate_range *part, bool head,
                      struct slate_range *range)
{
    uint64_t blocks = ENDS_BYTES / draft->basis.geometry.block_bytes;

    *range = *part;
    if (part->count <= 2 * blocks) {
        range->count = head ? part->count : 0;
        return;
    }
    if (!head)
        range->first = part->first + part->count - blocks;
    range->count = blocks;
}

/* The ranges where old structures are erased, from the last to the first: on a
 * device that is set up anew, wherever there were any; else in the room of new
 * parts alone. */
static bool old_range(const struct slate_draft *draft, uint32_t index,
                      struct slate_range *range)
{
    const struct slate_ranges *old = &draft->basis.old;
    const struct slate_part *part;

    if (!draft->switched) {
        if (index < old->count)
            *range = old->range[old->count - 1 - index];
        return index < old->count;
    }
    if (index / 2 >= draft->parts)
        return false;
    part = &draft->part[draft->parts - 1 - index / 2];
    both_ends(draft, &part->range, index % 2 != 0, range);
    if (part->ask.keep != 0)
        range->count = 0;
    return true;
}

/* The part of an old range, from walk->at on, that new content does not cover.
 * The ranges are taken from the last to the first. */
static bool next_erase(const struct slate_draft *draft, struct slate_walk *walk,
                       struct slate_extent *extent)
{
    struct slate_range old;

    if (draft->goal.overwrite.rounds > 0)
        return false; /* they are gone */
    while (old_range(draft, walk->index, &old)) {
        uint64_t end = old.first + old.count, until;
        uint64_t at = walk->at > old.first ? walk->at : old.first;

        while (at < end && is_left(draft, at, &until))
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
            if (draft->switched || leave_first(extent))
                return true;
        }
        walk->index++;
        walk->at = 0;
    }
    return false;
}

/* A changed table, without what goes, or with what is new: the copy that hosts
 * do not read first is ahead of the other one, and what begins in block 0 is
 * the other one. */
static bool next_change(const struct slate_draft *draft,
                        struct slate_walk *walk, struct slate_extent *extent)
{
    static const enum slate_moment copy[] = {SLATE_MOMENT_TABLE_COPY};
    static const enum slate_moment table[] = {SLATE_MOMENT_TABLE,
                                              SLATE_MOMENT_COMMIT};
    bool drop = walk->moment <= SLATE_MOMENT_DROP;
    bool of_copy = walk->moment == SLATE_MOMENT_DROP_COPY ||
                   walk->moment == SLATE_MOMENT_TABLE_COPY;
    const void *plan;
    const struct slate_composer *composer;

    if (draft->table_stays || (drop && !draft->drops))
        return false;
    extent->part = drop ? SLATE_PART_DROPPED : SLATE_PART_TABLE;
    composer = slate_draft_composer(draft, extent->part, &plan);
    for (; walk->index < (of_copy ? 1u : 2u); walk->index++, walk->at = 0) {
        if (composer->next(plan, of_copy ? copy[0] : table[walk->index],
                           &walk->at, extent))
            return true;
    }
    return false;
}

/* Where the mark stands while the work goes on: in block 0, or in the first
 * block of each partition that is emptied. */
static bool next_marked(const struct slate_draft *draft,
                        struct slate_walk *walk, uint64_t *block)
{
    *block = 0;
    if (!draft->switched)
        return walk->index++ == 0;
    while (walk->index < draft->parts) {
        const struct slate_part *part = &draft->part[walk->index++];
        uint64_t until;

        *block = part->range.first;
        if (part->ask.emptied && !slate_draft_is_bad(draft, *block, &until))
            return true;
    }
    return false;
}

/* The mark, and what replaces it. */
static bool next_first(const struct slate_draft *draft, struct slate_walk *walk,
                       struct slate_extent *extent)
{
    uint32_t rounds = draft->goal.overwrite.rounds;
    bool mark = walk->moment == SLATE_MOMENT_MARK;

    if (!next_marked(draft, walk, &extent->first))
        return false;
    extent->count = 1;
    extent->part =
        mark ? SLATE_PART_MARK : slate_draft_owner(draft, extent->first);
    extent->role = SLATE_ROLE_FIRST;
    extent->zero = !mark && extent->part == SLATE_PART_ERASED && rounds == 0;
    if (mark || extent->part != SLATE_PART_ERASED || rounds == 0)
        return true;
    extent->part = SLATE_PART_OVERWRITTEN; /* nothing comes over it */
    extent->role = (uint8_t)(rounds - 1);
    return true;
}

static bool next_of_moment(const struct slate_draft *draft,
                           struct slate_walk *walk, struct slate_extent *extent)
{
    if (slate_draft_is_change(draft)) /* the table is one plan */
        return walk->moment == SLATE_MOMENT_ERASE
                   ? next_erase(draft, walk, extent)
                   : next_content(draft, walk, extent);
    switch ((enum slate_moment)walk->moment) {
    case SLATE_MOMENT_MARK:
    case SLATE_MOMENT_COMMIT:
        return next_first(draft, walk, extent);
    case SLATE_MOMENT_DROP_COPY:
    case SLATE_MOMENT_DROP:
        return draft->switched && next_change(draft, walk, extent);
    case SLATE_MOMENT_TABLE_COPY:
    case SLATE_MOMENT_TABLE:
        return draft->switched ? next_change(draft, walk, extent)
                               : next_content(draft, walk, extent);
    case SLATE_MOMENT_OVERWRITE:
        return slate_draft_next_overwrite(draft, walk, extent);
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
    extent->deed = SLATE_DEED_WRITE;
    do {
        if (!next_of_moment(draft, walk, extent))
            continue;
        extent->moment = (enum slate_moment)walk->moment;
        return true;
    } while (next_moment(walk));
    return false;
}

/* Of the rounds, what the last one leaves stays; all that was dropped does not,
 * nor does the mark. */
bool slate_draft_next_final(const struct slate_draft *draft,
                            struct slate_walk *walk,
                            struct slate_extent *extent)
{
    while (walk->moment < SLATE_MOMENT_OVERWRITE)
        (void)next_moment(walk);
    if (walk->moment == SLATE_MOMENT_OVERWRITE) {
        if (slate_draft_next_left(draft, walk, extent)) {
            extent->moment = SLATE_MOMENT_OVERWRITE;
            return true;
        }
        (void)next_moment(walk);
    }
    return slate_draft_next(draft, walk, extent);
}

uint64_t slate_draft_blocks(const struct slate_draft *draft, bool final)
{
    struct slate_supply supply;

    slate_draft_supply(draft, final, &supply);
    return slate_supply_blocks(&supply);
}
