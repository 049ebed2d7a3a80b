/* SPDX-License-Identifier: MIT */
/* Where new parts go around those that stay: each into the first gap that it
 * fits, in the order in which they were asked for; the rest into what is the
 * largest gap then. Gaps in the container of logical partitions are for logical
 * ones. The parts end up in the order of their blocks, and placing them once
 * more gives the same. */
#include <string.h>

#include "base/base.h"
#include "draft/place/place.h"
#include "table/table.h"

#define WHOLE_SHARE 1000u

struct around {
    struct slate_draft *draft;
    struct slate_range room; /* what the table leaves */
    uint64_t align, free;    /* blocks */
    uint32_t placed;         /* parts, the first ones of the array */
    uint32_t entries;        /* of the table itself, for new parts */
    bool closed;             /* the container stays as a whole */
    bool may_contain;        /* an entry is left out, for a new container */
};

static uint64_t end_of(const struct slate_range *range)
{
    return range->first + range->count;
}

static bool is_inside(const struct around *around, uint32_t index)
{
    return slate_range_holds(&around->draft->container,
                             around->draft->part[index].range.first);
}

/* A logical partition begins with its link. */
static uint64_t begin_of(const struct around *around, uint32_t index)
{
    const struct slate_part *part = &around->draft->part[index];
    struct slate_partition stays;

    if (!is_inside(around, index))
        return part->range.first;
    if (part->ask.keep == 0)
        return part->range.first - around->draft->grid.link;
    return slate_table_image_logical(&around->draft->table, part->ask.keep,
                                     &stays)
               ? stays.link
               : part->range.first;
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

/* Cuts a gap to what lies in the container, or outside. */
static void cut(const struct around *around, bool inside, uint64_t *first,
                uint64_t *end)
{
    const struct slate_range *container = &around->draft->container;
    uint64_t last = end_of(container);

    if (container->count == 0)
        return;
    if (inside && *first < container->first)
        *first = container->first;
    if (inside && *end > last)
        *end = last;
    if (inside || *end <= container->first || *first >= last)
        return;
    if (*first < container->first)
        *end = container->first;
    else
        *first = last;
}

/* The gap ahead of the index-th placed part, or behind the last one, for a
 * logical partition or any other one. */
static struct slate_range gap(const struct around *around, uint32_t index,
                              bool inside)
{
    const struct slate_part *part = around->draft->part;
    uint64_t first = around->room.first, end = end_of(&around->room);
    struct slate_range gap = {0, 0};

    if (index > 0 && end_of(&part[index - 1].range) > first)
        first = end_of(&part[index - 1].range);
    if (index < around->placed && begin_of(around, index) < end)
        end = begin_of(around, index);
    cut(around, inside, &first, &end);
    first = (first + around->align - 1) / around->align * around->align;
    if (inside)
        first += around->draft->grid.link;
    gap.first = first;
    gap.count = end > first ? end - first : 0;
    return gap;
}

/* May a part go inside the container, or outside? */
static bool may_go(const struct around *around, const struct slate_ask *ask,
                   bool inside)
{
    if (inside)
        return around->draft->container.count > 0 && !ask->active &&
               ask->standing != SLATE_STANDING_PRIMARY;
    return around->entries > 0 && ask->standing != SLATE_STANDING_LOGICAL;
}

static struct slate_range largest_gap(const struct around *around,
                                      const struct slate_ask *ask)
{
    struct slate_range largest = {0, 0};

    for (uint32_t i = 0; i < 2 * (around->placed + 1); i++) {
        struct slate_range there = gap(around, i / 2, i % 2 != 0);

        if (may_go(around, ask, i % 2 != 0) && there.count > largest.count)
            largest = there;
    }
    return largest;
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
            (i > 0 && end_of(&draft->part[i - 1].range) > begin_of(around, i)))
            return slate_draft_refuse(
                draft, i, "it shares blocks with another, or lies outside");
    }
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

static void take(struct around *around, uint32_t from,
                 const struct slate_range *range)
{
    struct slate_part *part = &around->draft->part[from];

    part->range = *range;
    if (!is_inside(around, from))
        around->entries--;
    if (around->draft->table.kind == SLATE_TABLE_MBR)
        part->ask.standing = is_inside(around, from) ? SLATE_STANDING_LOGICAL
                                                     : SLATE_STANDING_PRIMARY;
    insert(around, from);
}

static enum slate_status place_one(struct around *around, uint32_t from)
{
    const struct slate_ask *ask = &around->draft->part[from].ask;
    uint64_t blocks = asked_blocks(around, ask);

    for (uint32_t i = 0; i < 2 * (around->placed + 1) && blocks > 0; i++) {
        struct slate_range there = gap(around, i / 2, i % 2 != 0);

        if (!may_go(around, ask, i % 2 != 0) || there.count < blocks)
            continue;
        there.count = rounded(around, blocks, there.count);
        take(around, from, &there);
        return SLATE_OK;
    }
    return SLATE_ERR_TOO_SMALL;
}

static enum slate_status place_rest(struct around *around, uint32_t from)
{
    struct slate_range largest =
        largest_gap(around, &around->draft->part[from].ask);

    if (largest.count == 0)
        return SLATE_ERR_TOO_SMALL;
    take(around, from, &largest);
    return SLATE_OK;
}

/* Logical partitions stand together, in what is the largest gap now. */
static void open_container(struct around *around)
{
    static const struct slate_ask any;
    uint32_t entries = around->entries;

    around->entries = 1;
    around->draft->container = largest_gap(around, &any);
    around->entries = entries;
    around->may_contain = false;
}

static enum slate_status place(struct around *around, uint32_t from)
{
    struct slate_draft *draft = around->draft;
    const struct slate_ask *ask = &draft->part[from].ask;

    draft->refused = from;
    if (around->may_contain && !may_go(around, ask, false))
        open_container(around);
    if (!may_go(around, ask, false) && !may_go(around, ask, true))
        return slate_draft_refuse(
            draft, from,
            around->closed
                ? "the container stays as a whole: name the logical partitions "
                  "that stay, one by one, to have room between them"
                : "the table has no entry left for it");
    return ask->size_kind == SLATE_SIZE_REST ? place_rest(around, from)
                                             : place_one(around, from);
}

static bool any_is_logical(const struct around *around)
{
    for (uint32_t i = around->placed; i < around->draft->parts; i++) {
        if (around->draft->part[i].ask.standing == SLATE_STANDING_LOGICAL)
            return true;
    }
    return false;
}

/* How many entries has the table for new parts, and is there a container, or
 * need of one? Those of a GPT are counted when they are given out. */
static void count_entries(struct around *around)
{
    struct slate_draft *draft = around->draft;
    struct slate_range range;
    uint32_t fresh = draft->parts - around->placed, used = 0;
    uint32_t number = slate_table_image_container(&draft->table, &range);

    around->entries = UINT32_MAX;
    if (draft->table.kind == SLATE_TABLE_GPT)
        return;
    for (uint32_t i = 0; i < around->placed; i++) {
        used += is_inside(around, i) ? 0u : 1u;
        around->closed = around->closed || draft->part[i].ask.keep == number;
    }
    around->entries = SLATE_MBR_PRIMARIES - used;
    if (draft->container.count > 0)
        around->entries--;
    around->may_contain = !around->closed && draft->container.count == 0 &&
                          around->entries > 0 &&
                          (fresh > around->entries || any_is_logical(around));
    if (around->may_contain)
        around->entries--;
}

/* A new container holds its partitions and their links, and nothing else. */
static void close_container(struct around *around)
{
    struct slate_draft *draft = around->draft;
    uint64_t first = UINT64_MAX, end = 0;

    for (uint32_t i = 0; i < draft->parts; i++) {
        if (!is_inside(around, i))
            continue;
        if (first == UINT64_MAX)
            first = begin_of(around, i);
        end = end_of(&draft->part[i].range);
    }
    draft->container.first = first;
    draft->container.count = end - first;
}

/* Parts of one standing, but the one that takes the rest. */
static enum slate_status place_all(struct around *around,
                                   enum slate_standing standing)
{
    struct slate_draft *draft = around->draft;
    enum slate_status status = SLATE_OK;

    for (uint32_t i = around->placed; i < draft->parts && status == SLATE_OK;
         i++) {
        const struct slate_ask *ask = &draft->part[i].ask;

        if (ask->size_kind != SLATE_SIZE_REST && ask->standing == standing)
            status = place(around, i);
    }
    return status;
}

static void add_up_gaps(struct around *around)
{
    static const struct slate_ask any;

    for (uint32_t i = 0; i < 2 * (around->placed + 1); i++) {
        if (may_go(around, &any, i % 2 != 0) ||
            (i % 2 == 0 && around->may_contain))
            around->free += gap(around, i / 2, i % 2 != 0).count;
    }
}

enum slate_status slate_draft_lay_out_around(struct slate_draft *draft,
                                             const struct slate_range *room)
{
    /* those whose standing is known leave the others what is left, so that it
     * does not matter which of them were chosen to fit */
    static const enum slate_standing order[] = {
        SLATE_STANDING_PRIMARY, SLATE_STANDING_FITS, SLATE_STANDING_LOGICAL};
    struct around around = {
        .draft = draft, .room = *room, .align = draft->grid.unit};
    bool contained = draft->container.count > 0;
    enum slate_status status = place_kept(&around);

    SLATE_TRY(status);
    count_entries(&around);
    add_up_gaps(&around);
    for (size_t i = 0; i < SLATE_STANDINGS && status == SLATE_OK; i++)
        status = place_all(&around, order[i]);
    if (status == SLATE_OK && around.placed < draft->parts)
        status = place(&around, around.placed);
    if (status == SLATE_OK && !contained && draft->container.count > 0)
        close_container(&around);
    return status;
}
