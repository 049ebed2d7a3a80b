/* SPDX-License-Identifier: MIT */
/* Can the input of a draft be at all? It may come from a file. */
#include "draft/make/make.h"

#include "base/base.h"
#include "compose/compose.h"

#define KNOWN_ATTRIBUTES                                                       \
    (SLATE_GPT_REQUIRED | SLATE_GPT_NO_BLOCK_IO | SLATE_GPT_READ_ONLY |        \
     SLATE_GPT_HIDDEN | SLATE_GPT_NO_LETTER)

static bool is_within(uint64_t first, uint64_t count, uint64_t blocks)
{
    return count > 0 && first < blocks && count <= blocks - first;
}

static bool was_seen_within(const struct slate_evidence *evidence,
                            uint64_t blocks)
{
    for (uint32_t i = 0; i < evidence->count; i++) {
        if (!is_within(evidence->seen[i].first, evidence->seen[i].count,
                       blocks))
            return false;
    }
    return true;
}

/* New parts beside a change have their places, apart from one another and from
 * the blocks that change; others have not. */
static bool places_are_possible(const struct slate_draft *draft)
{
    bool change = slate_draft_is_change(draft);
    const struct slate_change *patches = &draft->change;
    uint64_t reached = 0;

    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_range *range = &draft->part[i].range;
        uint32_t patch;

        if (draft->part[i].ask.placed != change)
            return false;
        if (!change)
            continue;
        if (draft->part[i].ask.keep != 0 || range->first < reached ||
            !is_within(range->first, range->count,
                       draft->basis.geometry.block_count))
            return false;
        reached = range->first + range->count;
        patch =
            slate_patch_find(patches->patch, patches->patches, range->first);
        if (patch < patches->patches && patches->patch[patch].lba < reached)
            return false;
    }
    return true;
}

/* A change may come from a file, as a basis may. */
static bool change_is_possible(const struct slate_draft *draft)
{
    const struct slate_change *change = &draft->change;
    const struct slate_geometry *geometry = &draft->basis.geometry;

    for (uint32_t i = 0; i < change->patches; i++) {
        if (change->patch[i].lba >= geometry->block_count ||
            (i > 0 && change->patch[i].lba <= change->patch[i - 1].lba))
            return false;
    }
    return (change->patches > 0) == slate_draft_is_change(draft) &&
           ((draft->files.count == 0 && draft->start.count == 0) ||
            !slate_draft_is_change(draft)) &&
           places_are_possible(draft) &&
           change->bytes.count ==
               2 * (uint64_t)change->patches * geometry->block_bytes;
}

/* So may bad blocks. */
static bool bad_is_possible(const struct slate_draft *draft)
{
    const struct slate_ranges *bad = &draft->bad;
    uint64_t reached = 0;

    for (uint32_t i = 0; i < bad->count; i++) {
        const struct slate_range *range = &bad->range[i];

        if (range->count == 0 || range->first > INT64_MAX ||
            range->count > (uint64_t)INT64_MAX - range->first ||
            (i > 0 && range->first <= reached))
            return false;
        reached = range->first + range->count;
    }
    return true;
}

/* A basis may come from a file: nothing below may divide by zero, overflow or
 * write beyond the device. */
bool slate_draft_basis_is_possible(const struct slate_draft *draft)
{
    const struct slate_basis *basis = &draft->basis;
    const struct slate_geometry *geometry = &basis->geometry;
    uint64_t reached = 0;

    if (!slate_is_power_of_two(geometry->physical_bytes) ||
        geometry->physical_bytes < geometry->block_bytes ||
        (geometry->erase_bytes != 0 &&
         geometry->erase_bytes % geometry->block_bytes != 0) ||
        geometry->block_count == 0 ||
        geometry->block_count > UINT64_MAX / geometry->block_bytes ||
        slate_draft_claimed(draft) < geometry->block_count ||
        slate_draft_claimed(draft) > UINT64_MAX / geometry->block_bytes ||
        (basis->guards >> SLATE_GUARD_KINDS) != 0 ||
        (basis->firm & ~basis->guards) != 0 ||
        !was_seen_within(&basis->evidence, geometry->block_count))
        return false;
    for (uint32_t i = 0; i < basis->old.count; i++) {
        const struct slate_range *old = &basis->old.range[i];

        if (old->first < reached ||
            !is_within(old->first, old->count, geometry->block_count))
            return false;
        reached = old->first + old->count;
    }
    return change_is_possible(draft) && bad_is_possible(draft);
}

bool slate_draft_block_size_is_possible(const struct slate_draft *draft)
{
    uint32_t block_bytes = draft->basis.geometry.block_bytes;

    return slate_is_power_of_two(block_bytes) &&
           block_bytes >= SLATE_PIECE_BYTES && block_bytes <= SLATE_BLOCK_MAX;
}

static bool overwrite_is_possible(const struct slate_draft *draft)
{
    const struct slate_overwrite *over = &draft->goal.overwrite;

    if (over->rounds > SLATE_ROUNDS_MOST ||
        (unsigned)over->read_back >= SLATE_READ_BACKS ||
        (unsigned)over->discard >= SLATE_DISCARDS ||
        (over->rounds > 0 && slate_draft_is_change(draft)))
        return false;
    for (uint32_t i = 0; i < over->rounds; i++) {
        if (over->round[i].kind >= SLATE_ROUND_KINDS)
            return false;
    }
    return true;
}

bool slate_draft_input_is_possible(const struct slate_draft *draft)
{
    const struct slate_goal *goal = &draft->goal;

    if ((unsigned)goal->use >= SLATE_USE_COUNT ||
        (unsigned)goal->table > SLATE_TABLE_GPT || goal->heads > 255 ||
        goal->track_sectors > 63 ||
        (goal->heads == 0) != (goal->track_sectors == 0) ||
        (goal->entries != 0 && goal->entries < SLATE_GPT_ENTRIES_LEAST) ||
        goal->entries > SLATE_GPT_ENTRIES_MOST)
        return false;
    if (!overwrite_is_possible(draft))
        return false;
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_ask *ask = &draft->part[i].ask;

        if ((ask->emptied && ask->keep == 0) ||
            (unsigned)ask->size_kind >= SLATE_SIZES ||
            !slate_ends_within(ask->label, sizeof ask->label) ||
            !slate_ends_within(ask->name, sizeof ask->name) ||
            (ask->attributes & ~KNOWN_ATTRIBUTES) != 0)
            return false;
    }
    return true;
}
