/* SPDX-License-Identifier: MIT */
/* What a draft puts on its device: whose a block is, and every block of it. */
#include "base/base.h"
#include "draft/place/place.h"

#include <string.h>

const struct slate_composer *
slate_draft_composer(const struct slate_draft *draft, uint32_t part,
                     const void **plan)
{
    const struct slate_table_plan *table =
        part == SLATE_PART_DROPPED  ? &draft->dropped
        : part == SLATE_PART_FORMER ? &draft->former
                                    : &draft->table;

    if (slate_draft_is_change(draft) && part >= draft->parts) {
        *plan = part == SLATE_PART_TABLE ? &draft->patched : &draft->unpatched;
        return part == SLATE_PART_ERASED ? NULL : &slate_patch_composer;
    }
    *plan = table;
    if (part == SLATE_PART_TABLE || part == SLATE_PART_DROPPED ||
        part == SLATE_PART_FORMER)
        return slate_table_composer(table);
    if (part >= draft->parts || draft->part[part].format == NULL)
        return NULL;
    *plan = &draft->part[part].volume;
    return &draft->part[part].format->composer;
}

uint32_t slate_draft_part_from(const struct slate_draft *draft, uint64_t lba)
{
    uint32_t low = 0, high = draft->parts;

    SLATE_BISECT(low, high, i,
                 draft->part[i].range.first + draft->part[i].range.count <=
                     lba);
    return low;
}

/* A part without a volume covers nothing; up to its end, nobody does. */
static bool part_covers(const struct slate_draft *draft, uint32_t part,
                        uint64_t lba, uint64_t *until)
{
    const struct slate_range *range = &draft->part[part].range;
    const void *plan;
    const struct slate_composer *composer =
        slate_draft_composer(draft, part, &plan);
    uint64_t end = range->first + range->count;
    bool covers;

    *until = range->first;
    if (lba < range->first)
        return false;
    *until = end;
    if (composer == NULL) /* what stays is nobody's to erase */
        return draft->part[part].ask.keep != 0 &&
               !draft->part[part].ask.emptied;
    covers = composer->covers(plan, lba, until);
    if (*until > end)
        *until = end;
    return covers;
}

uint32_t slate_draft_owner(const struct slate_draft *draft, uint64_t lba)
{
    const void *plan;
    const struct slate_composer *table =
        slate_draft_composer(draft, SLATE_PART_TABLE, &plan);
    uint32_t part = slate_draft_part_from(draft, lba);
    uint64_t until;

    if (table != NULL && table->covers(plan, lba, &until))
        return SLATE_PART_TABLE;
    return part < draft->parts && part_covers(draft, part, lba, &until)
               ? part
               : SLATE_PART_ERASED;
}

bool slate_draft_covers(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until)
{
    const void *plan;
    const struct slate_composer *table =
        slate_draft_composer(draft, SLATE_PART_TABLE, &plan);
    uint64_t of_table = UINT64_MAX, of_part = UINT64_MAX;
    uint32_t part = slate_draft_part_from(draft, lba);
    bool covers;

    *until = UINT64_MAX;
    if (table != NULL && table->covers(plan, lba, &of_table)) {
        *until = of_table;
        return true;
    }
    covers = part < draft->parts && part_covers(draft, part, lba, &of_part);
    *until = of_part;
    if (!covers && of_table < of_part)
        *until = of_table;
    return covers;
}

bool slate_draft_touches(const struct slate_draft *draft, uint64_t first,
                         uint64_t count)
{
    const void *plan;
    const struct slate_composer *table =
        slate_draft_composer(draft, SLATE_PART_TABLE, &plan);
    uint64_t until;

    if (!draft->switched)
        return true;
    if (table->covers(plan, first, &until) || until - first < count)
        return true;
    for (uint32_t i = slate_draft_part_from(draft, first);
         i < draft->parts && draft->part[i].range.first < first + count; i++) {
        if (draft->part[i].ask.keep == 0 || draft->part[i].ask.emptied)
            return true;
    }
    return slate_draft_overwrites(draft, first, &until) ||
           (draft->goal.overwrite.rounds > 0 && until - first < count);
}

/* The mark fills every piece of block 0. */
static void fill_mark(const struct slate_draft *draft, uint8_t *block)
{
    struct slate_mark mark;

    memcpy(mark.seal, draft->seal, sizeof mark.seal);
    memcpy(mark.tag, draft->basis.tag, sizeof mark.tag);
    for (uint32_t at = 0; at < draft->basis.geometry.block_bytes;
         at += SLATE_PIECE_BYTES)
        slate_mark_piece(&mark, block + at);
}

enum slate_status slate_draft_compose(const struct slate_draft *draft,
                                      const struct slate_extent *extent,
                                      uint64_t first, uint32_t count,
                                      void *data)
{
    const struct slate_composer *composer;
    const void *plan;

    if (extent->zero) {
        memset(data, 0, (size_t)count * draft->basis.geometry.block_bytes);
        return SLATE_OK;
    }
    if (extent->part == SLATE_PART_MARK) {
        fill_mark(draft, data);
        return SLATE_OK;
    }
    if (extent->part == SLATE_PART_OVERWRITTEN)
        return slate_draft_fill_round(draft, extent->role, first, count, data);
    composer = slate_draft_composer(draft, extent->part, &plan);
    return composer == NULL ? SLATE_ERR_INTERNAL
                            : composer->fill(plan, first, count, data);
}

static bool supply_next(const void *context, struct slate_walk *walk,
                        struct slate_extent *extent)
{
    return slate_draft_next(context, walk, extent);
}

static bool supply_next_final(const void *context, struct slate_walk *walk,
                              struct slate_extent *extent)
{
    return slate_draft_next_final(context, walk, extent);
}

/* The last round, as it is until something comes over it. */
static bool supply_next_round(const void *context, struct slate_walk *walk,
                              struct slate_extent *extent)
{
    const struct slate_draft *draft = context;

    while (slate_draft_next(draft, walk, extent)) {
        if (extent->moment > SLATE_MOMENT_OVERWRITE)
            return false;
        if (extent->moment == SLATE_MOMENT_OVERWRITE &&
            extent->deed == SLATE_DEED_WRITE &&
            extent->role + 1u == draft->goal.overwrite.rounds)
            return true;
    }
    return false;
}

static enum slate_status supply_compose(const void *context,
                                        const struct slate_extent *extent,
                                        uint64_t first, uint32_t count,
                                        void *data)
{
    return slate_draft_compose(context, extent, first, count, data);
}

static const char *supply_step(const void *context,
                               const struct slate_extent *extent)
{
    return slate_draft_step(context, extent);
}

void slate_draft_supply(const struct slate_draft *draft, bool final,
                        struct slate_supply *supply)
{
    supply->context = draft;
    supply->next = final ? supply_next_final : supply_next;
    supply->compose = supply_compose;
    supply->step = supply_step;
    supply->blocks = 0;
}

void slate_draft_round_supply(const struct slate_draft *draft,
                              struct slate_supply *supply)
{
    slate_draft_supply(draft, false, supply);
    supply->next = supply_next_round;
}

enum slate_status slate_draft_compare(const struct slate_draft *draft,
                                      const struct slate_extent *extent,
                                      uint64_t first, uint32_t count,
                                      const void *data, void *scratch,
                                      struct slate_difference *difference)
{
    struct slate_supply supply;

    slate_draft_supply(draft, false, &supply);
    return slate_supply_compare(&supply, draft->basis.geometry.block_bytes,
                                extent, first, count, data, scratch,
                                difference);
}

size_t slate_draft_work_bytes(const struct slate_draft *draft)
{
    size_t two = 2 * (size_t)draft->basis.geometry.block_bytes;

    return two > SLATE_WORK_MIN ? two : SLATE_WORK_MIN;
}

const char *slate_draft_step(const struct slate_draft *draft,
                             const struct slate_extent *extent)
{
    const void *plan;
    const struct slate_composer *composer =
        slate_draft_composer(draft, extent->part, &plan);

    if (extent->moment == SLATE_MOMENT_MARK)
        return draft->switched ? "put the unfinished mark in its first block"
                               : "put the unfinished mark in block 0";
    if (extent->moment == SLATE_MOMENT_COMMIT && !slate_draft_is_change(draft))
        return draft->switched ? "write its true first block"
                               : "write the true block 0";
    if (extent->part == SLATE_PART_OVERWRITTEN)
        return slate_draft_round_step(draft, extent);
    if (extent->part == SLATE_PART_DROPPED)
        return "take what goes out of the table";
    if (composer == NULL)
        return "erase old structures";
    return composer->steps[extent->role];
}
