/* SPDX-License-Identifier: MIT */
/* What a FAT boot block says of the volume's shape (FAT32 specification 1.03,
 * 3). */
#include "base/base.h"
#include "volume/fat/fat.h"

static bool fields_make_sense(const uint8_t *block)
{
    uint32_t bytes = slate_le16(block + SLATE_FAT_BYTES_PER_BLOCK);
    uint8_t medium = block[SLATE_FAT_MEDIUM];

    return (block[0] == 0xEB || block[0] == 0xE9) && bytes >= 512 &&
           bytes <= 4096 && slate_is_power_of_two(bytes) &&
           slate_is_power_of_two(block[SLATE_FAT_BLOCKS_PER_CLUSTER]) &&
           slate_le16(block + SLATE_FAT_RESERVED_BLOCKS) != 0 &&
           (block[SLATE_FAT_TABLES] == 1 || block[SLATE_FAT_TABLES] == 2) &&
           (medium == 0xF0 || medium >= 0xF8) &&
           slate_le16(block + SLATE_FAT_SIGNATURE) == 0xAA55;
}

static uint32_t either(uint16_t small, uint32_t large)
{
    return small != 0 ? small : large;
}

bool slate_fat_take_shape(const uint8_t *block, struct slate_fat_shape *shape)
{
    uint64_t ahead, root_blocks;

    if (!fields_make_sense(block))
        return false;
    shape->block_bytes = slate_le16(block + SLATE_FAT_BYTES_PER_BLOCK);
    shape->reserved_blocks = slate_le16(block + SLATE_FAT_RESERVED_BLOCKS);
    shape->cluster_blocks = block[SLATE_FAT_BLOCKS_PER_CLUSTER];
    shape->tables = block[SLATE_FAT_TABLES];
    shape->root_entries = slate_le16(block + SLATE_FAT_ROOT_ENTRIES);
    shape->table_blocks = either(slate_le16(block + SLATE_FAT_TABLE_BLOCKS_16),
                                 slate_le32(block + SLATE_FAT32_TABLE_BLOCKS));
    shape->blocks = either(slate_le16(block + SLATE_FAT_BLOCKS_16),
                           slate_le32(block + SLATE_FAT_BLOCKS_32));
    shape->root_cluster = slate_le32(block + SLATE_FAT32_ROOT_CLUSTER);
    shape->info_block = slate_le16(block + SLATE_FAT32_INFO_BLOCK);
    shape->copy_block = slate_le16(block + SLATE_FAT32_BACKUP_BLOCK);
    root_blocks = (shape->root_entries * 32u + shape->block_bytes - 1) /
                  shape->block_bytes;
    ahead =
        shape->reserved_blocks + (uint64_t)shape->tables * shape->table_blocks;
    if (shape->table_blocks == 0 || ahead + root_blocks >= shape->blocks)
        return false;
    shape->root_at = (uint32_t)ahead;
    shape->clusters_at = (uint32_t)(ahead + root_blocks);
    shape->clusters =
        (shape->blocks - shape->clusters_at) / shape->cluster_blocks;
    return shape->clusters > 0;
}

enum slate_volume_kind slate_fat_kind(const struct slate_fat_shape *shape)
{
    if (shape->root_entries == 0)
        return SLATE_VOLUME_FAT32;
    return shape->clusters < 4085 ? SLATE_VOLUME_FAT12 : SLATE_VOLUME_FAT16;
}

uint64_t slate_fat_root(const struct slate_fat_shape *shape)
{
    if (shape->root_entries != 0)
        return shape->root_at;
    return shape->root_cluster < 2
               ? 0
               : shape->clusters_at + (uint64_t)(shape->root_cluster - 2) *
                                          shape->cluster_blocks;
}
