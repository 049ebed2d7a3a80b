/* SPDX-License-Identifier: MIT */
/* Making a draft: its input becomes a table, volumes and a seal. */
#include <string.h>

#include "base/bits.h"
#include "base/bytes.h"
#include "base/same.h"
#include "draft/place.h"
#include "draft/store.h"
#include "draft/types.h"
#include "table/mbr.h"
#include "trueslate/draft.h"

/* 16 bytes out of the seed, for one purpose and part. */
static void derive(const struct slate_draft *draft, const char *purpose,
                   uint32_t part, uint8_t out[16])
{
    struct slate_sha256 sha;
    uint8_t digest[SLATE_DIGEST_BYTES], number[4];

    slate_put_le32(number, part);
    slate_sha256_start(&sha);
    slate_sha256_add(&sha, draft->choices.seed, sizeof draft->choices.seed);
    slate_sha256_add(&sha, purpose, strlen(purpose));
    if (part > 0) /* the first one has the purpose to itself */
        slate_sha256_add(&sha, number, sizeof number);
    slate_sha256_end(&sha, digest);
    memcpy(out, digest, 16);
}

static void derive_guid(const struct slate_draft *draft, const char *purpose,
                        uint32_t part, struct slate_guid *guid)
{
    uint8_t bytes[16];

    derive(draft, purpose, part, bytes);
    slate_guid_random(bytes, guid);
}

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
    return true;
}

static bool block_size_is_possible(uint32_t block_bytes)
{
    return slate_is_power_of_two(block_bytes) &&
           block_bytes >= SLATE_PIECE_BYTES && block_bytes <= SLATE_BLOCK_MAX;
}

static bool input_is_possible(const struct slate_draft *draft)
{
    const struct slate_goal *goal = &draft->goal;

    if ((unsigned)goal->use >= SLATE_USE_COUNT ||
        (unsigned)goal->table > SLATE_TABLE_GPT || goal->heads > 255 ||
        goal->track_sectors > 63 ||
        (goal->heads == 0) != (goal->track_sectors == 0))
        return false;
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_ask *ask = &draft->part[i].ask;

        if ((unsigned)ask->size_kind >= SLATE_SIZES ||
            !slate_ends_within(ask->label, sizeof ask->label))
            return false;
    }
    return true;
}

/* The first volume that is advised, can be composed, and fits. */
static bool take_advice(const struct slate_draft *draft,
                        struct slate_part *part, const struct slate_wish *wish)
{
    const struct slate_advice *advice =
        slate_use_advice(draft->goal.use, draft->basis.device,
                         part->range.count * draft->basis.geometry.block_bytes);

    for (uint32_t i = 0; i < SLATE_WAYS; i++) {
        const struct slate_way *way = &advice->way[i];

        if (way->volume == SLATE_VOLUME_NONE)
            break;
        if (slate_format_plan(way->volume, wish, &part->format,
                              &part->volume) != SLATE_OK)
            continue;
        part->way = way;
        return true;
    }
    return false;
}

static enum slate_status fill_volume(struct slate_draft *draft, uint32_t i)
{
    struct slate_part *part = &draft->part[i];
    struct slate_wish wish = {
        .range = part->range,
        .block_bytes = draft->basis.geometry.block_bytes,
        .cluster_bytes = part->ask.cluster_bytes,
        .align_bytes = draft->grid.heads != 0
                           ? 0
                           : slate_table_align(&draft->basis.geometry),
        .heads = draft->grid.heads,
        .track_sectors = draft->grid.track_sectors,
        .stamp = draft->choices.stamp,
        .label = part->ask.label};

    part->format = NULL;
    part->way = NULL;
    draft->refused = i;
    if (part->ask.bare || part->ask.keep != 0)
        return SLATE_OK;
    derive(draft, "volume serial", i, wish.id);
    if (part->ask.volume == SLATE_VOLUME_NONE &&
        take_advice(draft, part, &wish))
        return SLATE_OK;
    return slate_format_plan(part->ask.volume, &wish, &part->format,
                             &part->volume);
}

bool slate_draft_starts(const struct slate_draft *draft, uint32_t part)
{
    if (part > 0 || !draft->advice->active || draft->switched ||
        draft->table.kind != SLATE_TABLE_MBR)
        return false;
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.active)
            return false;
    }
    return true;
}

void slate_draft_fill_partition(const struct slate_draft *draft, uint32_t i,
                                struct slate_partition *partition)
{
    const struct slate_part *part = &draft->part[i];
    struct slate_figures figures = {.label = ""};

    memset(partition, 0, sizeof *partition);
    partition->number = i + 1;
    partition->first = part->range.first;
    partition->count = part->range.count;
    if (draft->table.kind == SLATE_TABLE_MBR) {
        partition->active = part->ask.active || slate_draft_starts(draft, i);
        partition->mbr_type = slate_draft_mbr_type(draft, part);
        return;
    }
    partition->type = slate_basic_data;
    derive_guid(draft, "partition id", i, &partition->id);
    if (part->format != NULL)
        part->format->figures(&part->volume, &figures);
    memcpy(partition->name, figures.label, sizeof figures.label);
}

/* The container of the logical partitions, which begins with the first one's
 * link and ends with the last one. */
static void fill_container(struct slate_draft *draft)
{
    struct slate_partition *partition = draft->room.partition;
    struct slate_partition *container = &partition[SLATE_MBR_PRIMARIES - 1];
    const struct slate_partition *last = &partition[draft->parts];

    memset(container, 0, sizeof *container);
    container->number = SLATE_MBR_PRIMARIES;
    container->role = SLATE_ROLE_EXTENDED;
    container->first = container[1].first - draft->grid.link;
    container->count = last->first + last->count - container->first;
    container->mbr_type =
        slate_draft_is_by_cylinder(draft, last->first + last->count)
            ? SLATE_MBR_EXTENDED
            : SLATE_MBR_EXTENDED_LBA;
}

static void fill_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    uint32_t logical = slate_draft_logical(draft);
    uint8_t signature[16];

    derive(draft, "disk signature", 0, signature);
    table->disk_signature = slate_le32(signature);
    derive_guid(draft, "disk id", 0, &table->disk_id);
    if (table->kind == SLATE_TABLE_NONE)
        return;
    table->count = draft->parts + (logical > 0 ? 1 : 0);
    for (uint32_t i = 0; i < draft->parts; i++) {
        bool is_logical = slate_draft_is_logical(draft, i);
        struct slate_partition *partition =
            &draft->room.partition[i + (is_logical ? 1 : 0)];

        slate_draft_fill_partition(draft, i, partition);
        if (!is_logical)
            continue;
        partition->number++;
        partition->role = SLATE_ROLE_LOGICAL;
        partition->link = partition->first - draft->grid.link;
    }
    if (logical > 0)
        fill_container(draft);
}

/* What suits the use, where that reaches the whole device. */
static enum slate_table_kind advised_table(const struct slate_draft *draft)
{
    return draft->advice->table == SLATE_TABLE_MBR
               ? slate_table_choose(&draft->basis.geometry)
               : draft->advice->table;
}

static void choose_cylinders(struct slate_draft *draft)
{
    const struct slate_goal *goal = &draft->goal;

    if (!goal->cylinders && goal->heads == 0 && !draft->advice->cylinders)
        return;
    slate_table_cylinders(&draft->basis.geometry, goal->heads,
                          goal->track_sectors, &draft->grid);
    draft->table.heads = draft->grid.heads;
    draft->table.track_sectors = draft->grid.track_sectors;
}

/* Which table, and is it made anew or changed? */
static enum slate_status begin_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    const struct slate_basis *basis = &draft->basis;

    table->block_bytes = basis->geometry.block_bytes;
    table->block_count = basis->geometry.block_count;
    table->partition = draft->room.partition;
    draft->switched = false;
    draft->drops = false;
    for (uint32_t i = 0; i < draft->parts; i++)
        draft->switched = draft->switched || draft->part[i].ask.keep != 0;
    slate_table_grid(&basis->geometry, &draft->grid);
    if (!draft->switched) {
        table->kind =
            draft->goal.table_given ? draft->goal.table : advised_table(draft);
        if (table->kind == SLATE_TABLE_MBR)
            choose_cylinders(draft);
        return SLATE_OK;
    }
    table->kind = basis->image_of;
    table->image = basis->image.byte;
    table->image_bytes = basis->image.count;
    if (basis->image.count == 0 || !slate_table_image_is_sound(table))
        return SLATE_ERR_ARGUMENT;
    if (draft->goal.table_given && draft->goal.table != basis->image_of)
        return slate_draft_refuse(
            draft, 0, "partitions can stay only under the table that is there");
    return slate_draft_check_kept(draft);
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
           (draft->parts == 0 || !slate_draft_is_change(draft)) &&
           change->bytes.count ==
               2 * (uint64_t)change->patches * geometry->block_bytes;
}

/* Data stays, and nothing is composed anew. */
static enum slate_status make_change(struct slate_draft *draft)
{
    const struct slate_change *change = &draft->change;

    draft->patched = (struct slate_patch_plan){
        change->patch, change->patches, draft->basis.geometry.block_bytes,
        change->bytes.byte, false};
    draft->unpatched = draft->patched;
    draft->unpatched.former = true;
    draft->switched = true;
    draft->drops = false;
    slate_draft_seal(draft, draft->seal);
    return SLATE_OK;
}

enum slate_status slate_draft_make(struct slate_draft *draft)
{
    enum slate_status status;

    draft->refused = 0;
    draft->why = NULL;
    memset(&draft->table, 0, sizeof draft->table);
    if (!input_is_possible(draft))
        return SLATE_ERR_USE;
    if (!block_size_is_possible(draft->basis.geometry.block_bytes))
        return SLATE_ERR_BLOCK_SIZE;
    if (!basis_is_possible(&draft->basis) || !change_is_possible(draft))
        return SLATE_ERR_ARGUMENT;
    if (slate_draft_obstacle(draft) != SLATE_GUARD_KINDS)
        return SLATE_ERR_GUARD;
    draft->advice =
        slate_use_advice(draft->goal.use, draft->basis.device,
                         slate_geometry_bytes(&draft->basis.geometry));
    if (slate_draft_is_change(draft))
        return make_change(draft);
    status = begin_table(draft);
    if (status == SLATE_OK)
        status = slate_draft_lay_out(draft);
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++)
        status = fill_volume(draft, i);
    if (status == SLATE_OK && draft->switched)
        status = slate_draft_change_table(draft);
    if (status != SLATE_OK)
        return status;
    if (!draft->switched)
        fill_table(draft);
    slate_draft_seal(draft, draft->seal);
    return SLATE_OK;
}

void slate_draft_place(struct slate_draft *draft,
                       const struct slate_draft_room *room)
{
    memset(draft, 0, sizeof *draft);
    draft->room = *room;
    draft->part = room->part;
    draft->basis.evidence.seen = room->seen;
    draft->basis.evidence.room = room->seen_ranges;
    draft->basis.old.range = room->range;
    draft->basis.old.room = room->ranges;
    draft->basis.image.byte = room->image;
    draft->basis.image.room = room->image == NULL ? 0 : room->image_bytes;
    draft->change.clear = room->clear;
    draft->change.patch = room->patch;
    draft->change.bytes.byte = room->bytes;
    draft->change.bytes.room = room->bytes_room;
}

enum slate_status slate_draft_ask(struct slate_draft *draft,
                                  const struct slate_ask *ask)
{
    if (draft->parts == draft->room.parts)
        return SLATE_ERR_BUFFER;
    memset(&draft->part[draft->parts], 0, sizeof *draft->part);
    draft->part[draft->parts++].ask = *ask;
    return SLATE_OK;
}
