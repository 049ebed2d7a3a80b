/* SPDX-License-Identifier: MIT */
/* Recognising FAT volumes and reading their key figures. */
#include <string.h>

#include "base/bits.h"
#include "base/bytes.h"
#include "volume/fat.h"

/* What the boot block says, in blocks of the volume's own size. */
struct fat_shape {
    uint32_t block_bytes;
    uint32_t cluster_blocks;
    uint32_t tables;
    uint32_t table_blocks;
    uint32_t root_entries;
    uint32_t blocks;
    uint32_t root_at;     /* FAT12/16: first block of the root directory */
    uint32_t clusters_at; /* first block of cluster 2 */
    uint32_t clusters;
    uint32_t root_cluster; /* FAT32 */
    uint32_t info_block;   /* FAT32 */
};

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

static bool take_shape(const uint8_t *block, struct fat_shape *shape)
{
    uint64_t ahead, root_blocks;

    shape->block_bytes = slate_le16(block + SLATE_FAT_BYTES_PER_BLOCK);
    shape->cluster_blocks = block[SLATE_FAT_BLOCKS_PER_CLUSTER];
    shape->tables = block[SLATE_FAT_TABLES];
    shape->root_entries = slate_le16(block + SLATE_FAT_ROOT_ENTRIES);
    shape->table_blocks = either(slate_le16(block + SLATE_FAT_TABLE_BLOCKS_16),
                                 slate_le32(block + SLATE_FAT32_TABLE_BLOCKS));
    shape->blocks = either(slate_le16(block + SLATE_FAT_BLOCKS_16),
                           slate_le32(block + SLATE_FAT_BLOCKS_32));
    shape->root_cluster = slate_le32(block + SLATE_FAT32_ROOT_CLUSTER);
    shape->info_block = slate_le16(block + SLATE_FAT32_INFO_BLOCK);
    root_blocks = (shape->root_entries * 32u + shape->block_bytes - 1) /
                  shape->block_bytes;
    ahead = slate_le16(block + SLATE_FAT_RESERVED_BLOCKS) +
            (uint64_t)shape->tables * shape->table_blocks;
    if (shape->table_blocks == 0 || ahead + root_blocks >= shape->blocks)
        return false;
    shape->root_at = (uint32_t)ahead;
    shape->clusters_at = (uint32_t)(ahead + root_blocks);
    shape->clusters =
        (shape->blocks - shape->clusters_at) / shape->cluster_blocks;
    return shape->clusters > 0;
}

/* The number of clusters alone tells the kind (specification 1.03, 3.5). */
static enum slate_volume_kind kind_of(const struct fat_shape *shape)
{
    if (shape->root_entries == 0)
        return SLATE_VOLUME_FAT32;
    return shape->clusters < 4085 ? SLATE_VOLUME_FAT12 : SLATE_VOLUME_FAT16;
}

static void take_label(struct slate_volume *volume, const uint8_t *field)
{
    size_t used = 11;

    if (memcmp(field, SLATE_FAT_NO_LABEL, 11) == 0)
        return;
    while (used > 0 && (field[used - 1] == ' ' || field[used - 1] == 0))
        used--;
    for (size_t i = 0; i < used; i++)
        volume->label[i] =
            (char)(field[i] >= 0x20 && field[i] < 0x7F ? field[i] : '?');
    volume->label[used] = '\0';
}

/* The start of a block of the volume; NULL when it does not lie in the range
 * or could not be read. At least 512 bytes stand behind the pointer. */
static const uint8_t *read_inside(struct slate_media *media,
                                  const struct slate_range *range,
                                  const struct fat_shape *shape, uint64_t block,
                                  uint8_t *work, enum slate_status *status)
{
    uint64_t byte = block * shape->block_bytes;
    uint64_t lba = byte / media->geometry.block_bytes;

    if (lba >= range->count ||
        lba >= media->geometry.block_count - range->first)
        return NULL;
    *status = slate_media_read(media, range->first + lba, 1, work);
    return *status == SLATE_OK ? work + byte % media->geometry.block_bytes
                               : NULL;
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

static void take_boot(const uint8_t *block, const struct fat_shape *shape,
                      struct slate_volume *volume)
{
    bool large = volume->kind == SLATE_VOLUME_FAT32;

    volume->block_bytes = shape->block_bytes;
    volume->cluster_bytes = shape->cluster_blocks * shape->block_bytes;
    volume->clusters = shape->clusters;
    volume->bytes = (uint64_t)shape->blocks * shape->block_bytes;
    volume->serial =
        slate_le32(block + (large ? SLATE_FAT32_SERIAL : SLATE_FAT16_SERIAL));
    take_label(volume, block + (large ? SLATE_FAT32_LABEL : SLATE_FAT16_LABEL));
}

enum slate_status slate_fat_read(struct slate_media *media,
                                 const struct slate_range *range, uint8_t *work,
                                 struct slate_volume *volume)
{
    struct fat_shape shape;
    enum slate_status status = SLATE_OK;
    const uint8_t *block;
    uint64_t root;
    bool large;

    if (!fields_make_sense(work) || !take_shape(work, &shape))
        return SLATE_OK;
    volume->kind = kind_of(&shape);
    large = volume->kind == SLATE_VOLUME_FAT32;
    take_boot(work, &shape, volume);
    if (large) {
        block =
            read_inside(media, range, &shape, shape.info_block, work, &status);
        if (block != NULL)
            take_info(block, volume);
    }
    if (status != SLATE_OK || (large && shape.root_cluster < 2))
        return status;
    root = large ? shape.clusters_at +
                       (uint64_t)(shape.root_cluster - 2) * shape.cluster_blocks
                 : shape.root_at;
    block = read_inside(media, range, &shape, root, work, &status);
    if (block != NULL)
        take_root_label(block, volume);
    return status;
}
