/* SPDX-License-Identifier: MIT */
/* Memory cards as their specification lays them out (SD specifications, part 2,
 * file system: standard, high and extended capacity): a card that is aligned so
 * keeps the speed class that it bears. */
#include "draft/place/place.h"
#include "volume/common/common.h"

#define BLOCK_BYTES 512u
#define MIB UINT64_C(1048576)
#define GIB (1024 * MIB)
/* Starts of a FAT16 partition that are tried: each changes the table's length,
 * and so the next one. */
#define TRIES 4

static const struct slate_card_shape shapes[] = {
    {8 * MIB, SLATE_VOLUME_FAT12, 16, 16},
    {64 * MIB, SLATE_VOLUME_FAT12, 32, 32},
    {256 * MIB, SLATE_VOLUME_FAT16, 32, 64},
    {1024 * MIB, SLATE_VOLUME_FAT16, 32, 128},
    {2048 * MIB, SLATE_VOLUME_FAT16, 64, 128},
    {32 * GIB, SLATE_VOLUME_FAT32, 64, 8192},
    {128 * GIB, SLATE_VOLUME_EXFAT, 256, 32768},
    {512 * GIB, SLATE_VOLUME_EXFAT, 512, 65536},
    {2048 * GIB, SLATE_VOLUME_EXFAT, 1024, 131072},
};

static const struct slate_card_shape *shape_for(uint64_t bytes)
{
    for (size_t i = 0; i < sizeof shapes / sizeof shapes[0]; i++) {
        if (bytes <= shapes[i].most)
            return &shapes[i];
    }
    return NULL;
}

/* Is it for a card, or for what cards go into? */
static bool is_for_card(const struct slate_draft *draft)
{
    enum slate_device_kind device = draft->basis.device;

    return device == SLATE_DEVICE_CARD ||
           (draft->goal.use == SLATE_USE_CAMERA && device != SLATE_DEVICE_DISK);
}

/* Would the volume be of that kind anyway? Below FAT16 stands FAT12. */
static bool is_wanted(const struct slate_draft *draft,
                      const struct slate_ask *ask,
                      enum slate_volume_kind volume)
{
    enum slate_volume_kind advised = draft->advice->way[0].volume;

    if (ask->volume != SLATE_VOLUME_NONE)
        return ask->volume == volume;
    return volume == advised ||
           (volume == SLATE_VOLUME_FAT12 && advised == SLATE_VOLUME_FAT16);
}

const struct slate_card_shape *slate_draft_card(const struct slate_draft *draft)
{
    const struct slate_geometry *geometry = &draft->basis.geometry;
    const struct slate_ask *ask = &draft->part[0].ask;
    const struct slate_card_shape *shape;

    if (draft->switched || draft->parts != 1 ||
        draft->table.kind != SLATE_TABLE_MBR || draft->grid.heads != 0 ||
        geometry->block_bytes != BLOCK_BYTES || !is_for_card(draft) ||
        ask->bare || ask->size_kind != SLATE_SIZE_REST ||
        ask->cluster_bytes != 0 || ask->standing == SLATE_STANDING_LOGICAL)
        return NULL;
    shape = shape_for(slate_geometry_bytes(geometry));
    return shape != NULL && is_wanted(draft, ask, shape->volume) ? shape : NULL;
}

void slate_draft_card_wish(const struct slate_card_shape *shape,
                           struct slate_wish *wish)
{
    bool small = shape->volume == SLATE_VOLUME_FAT12 ||
                 shape->volume == SLATE_VOLUME_FAT16;

    wish->cluster_bytes = shape->cluster_blocks * BLOCK_BYTES;
    wish->align_bytes = small ? 0 : shape->boundary_blocks * BLOCK_BYTES;
    wish->table_bytes = shape->boundary_blocks / 2 * BLOCK_BYTES;
}

/* FAT12 and FAT16 have one reserved block: that the clusters begin at a
 * boundary is up to where the partition does. */
static uint64_t next_first(const struct slate_card_shape *shape,
                           const struct slate_format *format,
                           const union slate_volume_plan *plan)
{
    uint64_t boundary = shape->boundary_blocks;
    struct slate_figures figures;

    format->figures(plan, &figures);
    return boundary + (boundary - figures.clusters_at % boundary) % boundary;
}

bool slate_draft_card_place(const struct slate_card_shape *shape,
                            const struct slate_draft *draft,
                            struct slate_range *range)
{
    uint64_t blocks = draft->basis.geometry.block_count;
    struct slate_wish wish = {.block_bytes = BLOCK_BYTES, .bad = &draft->bad};
    const struct slate_format *format;
    union slate_volume_plan plan;

    if (blocks <= shape->boundary_blocks)
        return false;
    slate_draft_card_wish(shape, &wish);
    wish.range.first = shape->boundary_blocks;
    for (int i = 0; i < TRIES; i++) {
        uint64_t first = wish.range.first;

        if (blocks <= first)
            return false;
        wish.range.count = blocks - first;
        if (slate_format_plan(shape->volume, &wish, &format, &plan) != SLATE_OK)
            return false;
        if (wish.align_bytes == 0)
            wish.range.first = next_first(shape, format, &plan);
        if (wish.range.first == first) {
            *range = wish.range;
            return true;
        }
    }
    return false;
}
