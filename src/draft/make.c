/* SPDX-License-Identifier: MIT */
/* Making a draft: goal and basis become a table, a volume and a seal. */
#include <string.h>

#include "base/bits.h"
#include "base/bytes.h"
#include "base/same.h"
#include "draft/types.h"
#include "trueslate/draft.h"

static void seal_u32(struct slate_sha256 *sha, uint32_t value)
{
    uint8_t bytes[4];

    slate_put_le32(bytes, value);
    slate_sha256_add(sha, bytes, sizeof bytes);
}

static void seal_u64(struct slate_sha256 *sha, uint64_t value)
{
    uint8_t bytes[8];

    slate_put_le64(bytes, value);
    slate_sha256_add(sha, bytes, sizeof bytes);
}

static void seal_goal(struct slate_sha256 *sha, const struct slate_goal *goal)
{
    seal_u32(sha, (uint32_t)goal->use);
    seal_u32(sha, goal->table_given ? 1u + (uint32_t)goal->table : 0u);
    seal_u32(sha, (uint32_t)goal->volume);
    seal_u32(sha, goal->cluster_bytes);
    seal_u32(sha, goal->lift);
    seal_u32(sha, goal->lasting ? 1u : 0u);
    slate_sha256_add(sha, goal->label, strlen(goal->label) + 1);
}

static void seal_ranges(struct slate_sha256 *sha,
                        const struct slate_range *range, uint32_t count)
{
    seal_u32(sha, count);
    for (uint32_t i = 0; i < count; i++) {
        seal_u64(sha, range[i].first);
        seal_u64(sha, range[i].count);
    }
}

static void seal_basis(struct slate_sha256 *sha,
                       const struct slate_basis *basis)
{
    slate_sha256_add(sha, basis->tag, strlen(basis->tag) + 1);
    slate_sha256_add(sha, basis->identity, SLATE_DIGEST_BYTES);
    seal_u64(sha, basis->geometry.block_count);
    seal_u32(sha, basis->geometry.block_bytes);
    seal_u32(sha, basis->geometry.physical_bytes);
    seal_u32(sha, basis->geometry.erase_bytes);
    seal_u32(sha, basis->guards);
    seal_u32(sha, basis->firm);
    seal_ranges(sha, basis->old, basis->old_count);
    slate_sha256_add(sha, basis->evidence.first, SLATE_DIGEST_BYTES);
    slate_sha256_add(sha, basis->evidence.rest, SLATE_DIGEST_BYTES);
    seal_ranges(sha, basis->evidence.range, basis->evidence.count);
}

static void seal_choices(struct slate_sha256 *sha,
                         const struct slate_choices *choices)
{
    const struct slate_stamp *stamp = &choices->stamp;

    slate_sha256_add(sha, choices->seed, sizeof choices->seed);
    seal_u32(sha, stamp->year);
    seal_u32(sha, (uint32_t)stamp->month << 8 | stamp->day);
    seal_u32(sha, (uint32_t)stamp->hour << 16 | (uint32_t)stamp->minute << 8 |
                      stamp->second);
}

static void seal_draft(struct slate_draft *draft)
{
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    seal_u32(&sha, SLATE_DRAFT_VERSION);
    seal_goal(&sha, &draft->goal);
    seal_basis(&sha, &draft->basis);
    seal_choices(&sha, &draft->choices);
    slate_sha256_end(&sha, draft->seal);
}

/* 16 bytes for one purpose out of the seed. */
static void derive(const struct slate_draft *draft, const char *purpose,
                   uint8_t out[16])
{
    struct slate_sha256 sha;
    uint8_t digest[SLATE_DIGEST_BYTES];

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, draft->choices.seed, sizeof draft->choices.seed);
    slate_sha256_add(&sha, purpose, strlen(purpose));
    slate_sha256_end(&sha, digest);
    memcpy(out, digest, 16);
}

static uint32_t derive_u32(const struct slate_draft *draft, const char *purpose)
{
    uint8_t bytes[16];

    derive(draft, purpose, bytes);
    return slate_le32(bytes);
}

static void derive_guid(const struct slate_draft *draft, const char *purpose,
                        struct slate_guid *guid)
{
    uint8_t bytes[16];

    derive(draft, purpose, bytes);
    slate_guid_random(bytes, guid);
}

static bool is_within(const struct slate_range *range, uint64_t blocks)
{
    return range->count > 0 && range->first < blocks &&
           range->count <= blocks - range->first;
}

static bool evidence_is_possible(const struct slate_evidence *evidence,
                                 uint64_t blocks)
{
    if (evidence->count > SLATE_EVIDENCE_RANGES)
        return false;
    for (uint32_t i = 0; i < evidence->count; i++) {
        if (!is_within(&evidence->range[i], blocks))
            return false;
    }
    return true;
}

/* A basis may come from a file: nothing below may divide by zero, overflow or
 * write beyond the device. */
static bool basis_is_possible(const struct slate_basis *basis)
{
    const struct slate_geometry *geometry = &basis->geometry;
    uint64_t reached = 0;

    if (!slate_is_power_of_two(geometry->physical_bytes) ||
        geometry->physical_bytes < geometry->block_bytes ||
        (geometry->erase_bytes != 0 &&
         geometry->erase_bytes % geometry->block_bytes != 0) ||
        geometry->block_count == 0 ||
        geometry->block_count > UINT64_MAX / geometry->block_bytes ||
        basis->old_count > SLATE_BASIS_RANGES ||
        (basis->guards >> SLATE_GUARD_KINDS) != 0 ||
        (basis->firm & ~basis->guards) != 0 ||
        !evidence_is_possible(&basis->evidence, geometry->block_count))
        return false;
    for (uint32_t i = 0; i < basis->old_count; i++) {
        const struct slate_range *old = &basis->old[i];

        if (old->first < reached || !is_within(old, geometry->block_count))
            return false;
        reached = old->first + old->count;
    }
    return true;
}

static bool block_size_is_possible(uint32_t block_bytes)
{
    return slate_is_power_of_two(block_bytes) &&
           block_bytes >= SLATE_PIECE_BYTES && block_bytes <= SLATE_BLOCK_MAX;
}

static bool goal_is_possible(const struct slate_goal *goal)
{
    return (unsigned)goal->use < SLATE_USE_COUNT &&
           (unsigned)goal->table <= SLATE_TABLE_GPT &&
           slate_ends_within(goal->label, sizeof goal->label);
}

static enum slate_table_kind choose_table(const struct slate_draft *draft)
{
    return draft->goal.table_given ? draft->goal.table
                                   : slate_table_choose(&draft->basis.geometry);
}

static void fill_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    const struct slate_part *part = &draft->part[0];
    struct slate_partition *partition = &draft->partition[0];
    struct slate_figures figures;

    table->block_bytes = draft->basis.geometry.block_bytes;
    table->block_count = draft->basis.geometry.block_count;
    table->partition = draft->partition;
    table->disk_signature = derive_u32(draft, "disk signature");
    derive_guid(draft, "disk id", &table->disk_id);
    if (table->kind == SLATE_TABLE_NONE)
        return;
    table->count = 1;
    partition->number = 1;
    partition->first = part->range.first;
    partition->count = part->range.count;
    partition->mbr_type = slate_draft_mbr_type(part);
    partition->type = slate_basic_data;
    derive_guid(draft, "partition id", &partition->id);
    part->format->figures(&part->volume, &figures);
    memcpy(partition->name, figures.label, sizeof figures.label);
}

static enum slate_status fill_volume(struct slate_draft *draft)
{
    struct slate_part *part = &draft->part[0];
    struct slate_wish wish = {.block_bytes = draft->basis.geometry.block_bytes,
                              .cluster_bytes = draft->goal.cluster_bytes,
                              .align_bytes =
                                  slate_table_align(&draft->basis.geometry),
                              .stamp = draft->choices.stamp,
                              .label = draft->goal.label};
    enum slate_status status = slate_table_place(
        draft->table.kind, &draft->basis.geometry, &part->range);

    if (status != SLATE_OK)
        return status;
    draft->parts = 1;
    wish.range = part->range;
    derive(draft, "volume serial", wish.id);
    return slate_format_plan(draft->goal.volume, &wish, &part->format,
                             &part->volume);
}

enum slate_status slate_draft_make(const struct slate_goal *goal,
                                   const struct slate_basis *basis,
                                   const struct slate_choices *choices,
                                   struct slate_draft *draft)
{
    enum slate_status status;

    if (!goal_is_possible(goal))
        return SLATE_ERR_USE;
    if (!block_size_is_possible(basis->geometry.block_bytes))
        return SLATE_ERR_BLOCK_SIZE;
    if (!basis_is_possible(basis))
        return SLATE_ERR_ARGUMENT;
    if (slate_draft_obstacle(goal, basis) != SLATE_GUARD_KINDS)
        return SLATE_ERR_GUARD;
    memset(draft, 0, sizeof *draft);
    draft->goal = *goal;
    draft->basis = *basis;
    draft->choices = *choices;
    draft->table.kind = choose_table(draft);
    status = fill_volume(draft);
    if (status != SLATE_OK)
        return status;
    fill_table(draft);
    seal_draft(draft);
    return SLATE_OK;
}
