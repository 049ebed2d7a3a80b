/* SPDX-License-Identifier: MIT */
/* Where new parts go around those that stay: each into the first gap that it
 * fits, in the order in which they were asked for; the rest into what is the
 * largest gap then. The parts end up in the order of their blocks, and placing
 * them once more gives the same. */
#include <string.h>

#include "draft/place.h"

#define WHOLE_SHARE 1000u

struct around {
    struct slate_draft *draft;
    struct slate_range room; /* what the table leaves */
    uint64_t align, free;    /* blocks */
    uint32_t placed;         /* parts, the first ones of the array */
};

static uint64_t end_of(const struct slate_range *range)
{
    return range->first + range->count;
}

/* Moves a part that is not placed yet to where it belongs by its blocks. */
static void insert(struct around *around, uint32_t from)
{
    struct slate_part *part = around->draft->part, moved = part[from];
    uint32_t to = around->placed;

    memmove(&part[around->placed + 1], &part[around->placed],
            (from - around->placed) * sizeof *part);
    while (to > 0 && part[to - 1].range.first > moved.range.first) {
        part[to] = part[to - 1];
        to--;
    }
    part[to] = moved;
    around->placed++;
}

/* The gap ahead of the index-th placed part, or behind the last one. */
static struct slate_range gap(const struct around *around, uint32_t index)
{
    const struct slate_part *part = around->draft->part;
    uint64_t first = around->room.first, end = end_of(&around->room);
    struct slate_range gap = {0, 0};

    if (index > 0 && end_of(&part[index - 1].range) > first)
        first = end_of(&part[index - 1].range);
    if (index < around->placed && part[index].range.first < end)
        end = part[index].range.first;
    first = (first + around->align - 1) / around->align * around->align;
    gap.first = first;
    gap.count = end > first ? end - first : 0;
    return gap;
}

static enum slate_status place_kept(struct around *around)
{
    struct slate_draft *draft = around->draft;

    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.keep != 0)
            insert(around, i);
    }
    for (uint32_t i = 0; i < around->placed; i++) {
        const struct slate_range *range = &draft->part[i].range;

        draft->refused = i;
        if (range->count == 0 || range->first < around->room.first ||
            range->count > end_of(&around->room) - range->first ||
            (i > 0 && end_of(&draft->part[i - 1].range) > range->first))
            return slate_draft_refuse(
                draft, i, "it shares blocks with another, or lies outside");
    }
    for (uint32_t i = 0; i <= around->placed; i++)
        around->free += gap(around, i).count;
    return SLATE_OK;
}

static uint64_t asked_blocks(const struct around *around,
                             const struct slate_ask *ask)
{
    uint32_t block_bytes = around->draft->basis.geometry.block_bytes;
    uint64_t blocks;

    if (ask->size_kind == SLATE_SIZE_SHARE) {
        blocks = around->free / WHOLE_SHARE * ask->size +
                 around->free % WHOLE_SHARE * ask->size / WHOLE_SHARE;
        return blocks - blocks % around->align;
    }
    return ask->size / block_bytes + (ask->size % block_bytes != 0);
}

/* Up to the next aligned block, where that is free. */
static uint64_t rounded(const struct around *around, uint64_t blocks,
                        uint64_t room)
{
    uint64_t whole = (blocks + around->align - 1) / around->align;

    return whole > room / around->align ? room : whole * around->align;
}

static enum slate_status place_one(struct around *around, uint32_t from)
{
    struct slate_part *part = &around->draft->part[from];
    uint64_t blocks = asked_blocks(around, &part->ask);

    around->draft->refused = from;
    part->range.count = 0;
    for (uint32_t i = 0; i <= around->placed && blocks > 0; i++) {
        struct slate_range there = gap(around, i);

        if (there.count < blocks)
            continue;
        part->range.first = there.first;
        part->range.count = rounded(around, blocks, there.count);
        insert(around, from);
        return SLATE_OK;
    }
    return SLATE_ERR_TOO_SMALL;
}

static enum slate_status place_rest(struct around *around, uint32_t from)
{
    struct slate_range largest = {0, 0};

    for (uint32_t i = 0; i <= around->placed; i++) {
        struct slate_range there = gap(around, i);

        if (there.count > largest.count)
            largest = there;
    }
    around->draft->refused = from;
    around->draft->part[from].range = largest;
    if (largest.count == 0)
        return SLATE_ERR_TOO_SMALL;
    insert(around, from);
    return SLATE_OK;
}

enum slate_status slate_draft_lay_out_around(struct slate_draft *draft,
                                             const struct slate_range *room)
{
    struct around around = {draft, *room, draft->grid.unit, 0, 0};
    enum slate_status status = place_kept(&around);

    for (uint32_t i = around.placed; i < draft->parts && status == SLATE_OK;
         i++) {
        if (draft->part[i].ask.size_kind != SLATE_SIZE_REST)
            status = place_one(&around, i);
    }
    if (status == SLATE_OK && around.placed < draft->parts)
        status = place_rest(&around, around.placed);
    return status;
}
