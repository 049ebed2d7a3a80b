/* SPDX-License-Identifier: MIT */
/* Recognising FAT volumes and reading their key figures. */

#include "base/base.h"
#include "volume/fat/fat.h"
#include "volume/common/common.h"

static void take_label(struct slate_volume *volume, const uint8_t *field)
{
    if (memcmp(field, SLATE_FAT_NO_LABEL, 11) != 0)
        slate_label_bytes(volume, field, 11);
}

/* 512 bytes at the start of a block of the volume. */
static const uint8_t *read_block(struct slate_reader *reader,
                                 const struct slate_fat_shape *shape,
                                 uint64_t block)
{
    return slate_reader_at(reader, block * shape->block_bytes,
                           SLATE_PIECE_BYTES);
}

static void take_info(const uint8_t *block, struct slate_volume *volume)
{
    uint32_t free_clusters = slate_le32(block + SLATE_FAT_INFO_FREE);

    if (slate_le32(block + SLATE_FAT_INFO_LEAD) != SLATE_FAT_INFO_LEAD_VALUE ||
        slate_le32(block + SLATE_FAT_INFO_MIDDLE) !=
            SLATE_FAT_INFO_MIDDLE_VALUE ||
        free_clusters > volume->clusters)
        return;
    volume->free_clusters = free_clusters;
    volume->free_known = true;
}

/* The root directory's label entry, when its first 512 bytes hold one, is the
 * one that hosts show; the boot block's copy may be older. */
static void take_root_label(const uint8_t *block, struct slate_volume *volume)
{
    for (uint32_t at = 0; at < 512 && block[at] != 0; at += 32) {
        if (block[at] != 0xE5 && block[at + 11] == SLATE_FAT_LABEL_ATTRIBUTE) {
            take_label(volume, block + at);
            return;
        }
    }
}

static void take_boot(const uint8_t *block, const struct slate_fat_shape *shape,
                      struct slate_volume *volume)
{
    bool large = volume->kind == SLATE_VOLUME_FAT32;

    volume->block_bytes = shape->block_bytes;
    volume->cluster_bytes = shape->cluster_blocks * shape->block_bytes;
    volume->clusters_at = (uint64_t)shape->clusters_at * shape->block_bytes;
    volume->clusters = shape->clusters;
    volume->bytes = (uint64_t)shape->blocks * shape->block_bytes;
    volume->serial =
        slate_le32(block + (large ? SLATE_FAT32_SERIAL : SLATE_FAT16_SERIAL));
    take_label(volume, block + (large ? SLATE_FAT32_LABEL : SLATE_FAT16_LABEL));
}

/* The second entry of a table: its two highest bits are set while all is well
 * (specification 1.03, 4.1). True when one is not. */
static bool is_dirty_table(struct slate_reader *reader,
                           const struct slate_fat_shape *shape, bool large,
                           uint32_t number)
{
    uint8_t want = large ? 0x0C : 0xC0;
    uint32_t at = large ? 7 : 3, block;
    const uint8_t *table;

    block = shape->reserved_blocks + number * shape->table_blocks;
    table = read_block(reader, shape, block);
    if (table == NULL || (table[at] & want) == want)
        return false;
    slate_reader_flag(reader, SLATE_FLAG_DIRTY,
                      (uint64_t)block * shape->block_bytes + at,
                      (uint8_t)(want & ~table[at]), true);
    return true;
}

/* Tables and a bit in the boot block: either may say that the volume was not
 * unmounted. The second table is asked only when it is to be changed. */
static void take_dirt(struct slate_reader *reader, const uint8_t *boot,
                      const struct slate_fat_shape *shape,
                      struct slate_volume *volume)
{
    bool large = volume->kind == SLATE_VOLUME_FAT32;
    uint32_t state = large ? SLATE_FAT32_STATE : SLATE_FAT16_STATE;

    bool small = volume->kind == SLATE_VOLUME_FAT12; /* has no such bits */

    if (reader->flag != NULL && shape->tables > 1 && !small)
        (void)is_dirty_table(reader, shape, large, 1);
    volume->dirty = !small && is_dirty_table(reader, shape, large, 0);
    if ((boot[state] & 0x01) == 0)
        return;
    volume->dirty = true;
    slate_reader_flag(reader, SLATE_FLAG_DIRTY, state, 0x01, false);
}

/* Hosts mark the volume as in use in the first copy alone. */
static bool host_changes(uint32_t at)
{
    return at == SLATE_FAT32_STATE;
}

static uint32_t entry_of(const uint8_t *run, uint32_t index, uint32_t bits)
{
    uint16_t pair = slate_le16(run + (size_t)index * bits / 8);

    if (bits == 16)
        return pair;
    return index % 2 == 0 ? pair & 0x0FFFu : (uint32_t)pair >> 4;
}

/* Runs hold whole entries of 12 and of 16 bits, and whole blocks. */
#define COUNT_RUN 3072u
#define COUNT_MOST 65536u

/* Counts the free clusters of a small table, which has no such number. */
static void count_free(struct slate_reader *reader,
                       const struct slate_fat_shape *shape,
                       struct slate_volume *volume)
{
    uint32_t bits = volume->kind == SLATE_VOLUME_FAT12 ? 12 : 16;
    uint32_t per_run = COUNT_RUN * 8 / bits, end = shape->clusters + 2;
    uint64_t at = (uint64_t)shape->reserved_blocks * shape->block_bytes;
    uint64_t count = 0;

    if ((uint64_t)end * bits / 8 > COUNT_MOST)
        return;
    for (uint32_t first = 0; first < end; first += per_run, at += COUNT_RUN) {
        const uint8_t *run = slate_reader_at(reader, at, COUNT_RUN);

        if (run == NULL)
            return;
        for (uint32_t i = first < 2 ? 2 : 0; i < per_run && first + i < end;
             i++)
            count += entry_of(run, i, bits) == 0 ? 1u : 0u;
    }
    volume->free_clusters = count;
    volume->free_known = true;
}

static void look_closely(struct slate_reader *reader, const uint8_t *boot,
                         const struct slate_fat_shape *shape,
                         struct slate_volume *volume)
{
    take_dirt(reader, boot, shape, volume);
    if (volume->kind != SLATE_VOLUME_FAT32)
        count_free(reader, shape, volume);
    else if (shape->copy_block > 0 &&
             shape->copy_block < shape->reserved_blocks)
        slate_reader_copy(reader,
                          (uint64_t)shape->copy_block * shape->block_bytes,
                          boot, host_changes, volume);
}

bool slate_fat_read(struct slate_reader *reader, const uint8_t *boot,
                    enum slate_depth depth, struct slate_volume *volume)
{
    struct slate_fat_shape shape;
    const uint8_t *block;

    if (!slate_fat_take_shape(boot, &shape))
        return false;
    volume->kind = slate_fat_kind(&shape);
    take_boot(boot, &shape, volume);
    volume->own_known = true; /* of FAT32, the root; else nothing of its own is
                                 in clusters */
    volume->own_clusters = volume->kind == SLATE_VOLUME_FAT32 ? 1 : 0;
    if (volume->kind == SLATE_VOLUME_FAT32) {
        block = read_block(reader, &shape, shape.info_block);
        if (block != NULL)
            take_info(block, volume);
    }
    if (slate_fat_root(&shape) != 0) {
        block = read_block(reader, &shape, slate_fat_root(&shape));
        if (block != NULL)
            take_root_label(block, volume);
    }
    if (depth == SLATE_DEPTH_FULL)
        look_closely(reader, boot, &shape, volume);
    return true;
}
