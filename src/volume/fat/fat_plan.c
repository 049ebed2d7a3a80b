/* SPDX-License-Identifier: MIT */
/* The geometry of a FAT volume: clusters, tables, alignment, limits. The three
 * kinds are one row each. */
#include "base/base.h"
#include "volume/common/common.h"
#include "volume/fat/fat.h"

#define CLUSTER_BYTES_MAX 65536u
#define CLUSTER_BYTES_USUAL 32768u /* larger ones are for who asks */
/* Clusters that one FAT32 table of 8 MiB covers. */
#define CLUSTERS_COMFORTABLE 2097152u
#define LARGE_VOLUME_BYTES 1000000000000u
/* Volumes from here on afford to align their clusters to the erase unit. */
#define ALIGNED_VOLUME_BYTES 536870912u

struct variant {
    uint8_t bits;
    uint32_t reserved; /* blocks */
    uint32_t clusters_min, clusters_max;
};

static const struct variant fat12 = {12, SLATE_FAT16_RESERVED, 1,
                                     SLATE_FAT12_CLUSTERS_MAX};
static const struct variant fat16 = {16, SLATE_FAT16_RESERVED,
                                     SLATE_FAT12_CLUSTERS_MAX + 1,
                                     SLATE_FAT16_CLUSTERS_MAX};
static const struct variant fat32 = {32, SLATE_FAT32_RESERVED,
                                     SLATE_FAT16_CLUSTERS_MAX + 1,
                                     SLATE_FAT32_CLUSTERS_MAX};

static uint64_t bytes_of(const struct slate_fat *fat)
{
    return (uint64_t)fat->blocks * fat->block_bytes;
}

static uint64_t ahead_of_data(const struct slate_fat *fat)
{
    return fat->reserved_blocks + 2 * (uint64_t)fat->fat_blocks +
           fat->root_blocks;
}

static uint32_t count_clusters(const struct slate_fat *fat)
{
    uint64_t ahead = ahead_of_data(fat);

    return fat->blocks < ahead
               ? 0
               : (uint32_t)((fat->blocks - ahead) / fat->cluster_blocks);
}

/* The fewest table blocks F whose entries are enough for the clusters that F
 * leaves: (clusters(F) + 2) * bits <= 8 * F * block_bytes. */
static uint32_t table_blocks(const struct slate_fat *fat)
{
    uint64_t data =
        (uint64_t)fat->blocks - fat->reserved_blocks - fat->root_blocks;
    uint64_t spread = 8 * (uint64_t)fat->block_bytes * fat->cluster_blocks +
                      2 * (uint64_t)fat->bits;

    return (uint32_t)(((data + 2 * (uint64_t)fat->cluster_blocks) * fat->bits +
                       spread - 1) /
                      spread);
}

/* Pads the reserved blocks, of which there are at least so many, so that
 * clusters begin at a multiple of align. */
static void pad(struct slate_fat *fat, uint32_t reserved, uint32_t align_blocks)
{
    uint64_t data;

    fat->reserved_blocks = reserved;
    fat->clusters = 0;
    if (fat->blocks <= (uint64_t)reserved + fat->root_blocks)
        return;
    fat->fat_blocks = table_blocks(fat);
    data = fat->first + ahead_of_data(fat);
    if (data % align_blocks != 0)
        fat->reserved_blocks += align_blocks - (uint32_t)(data % align_blocks);
    fat->clusters = count_clusters(fat);
}

/* Tables and the fixed root directory stand behind the last bad block that
 * would be in them: in the reserved blocks ahead nothing is written. When there
 * is no place for them, there are no reserved blocks. */
static void lay_out(struct slate_fat *fat, const struct variant *variant,
                    uint32_t align_blocks)
{
    uint64_t reserved = variant->reserved, block = 0;

    for (;;) {
        struct slate_range tables;

        pad(fat, (uint32_t)reserved, align_blocks);
        tables.first = fat->first + fat->reserved_blocks;
        tables.count = ahead_of_data(fat) - fat->reserved_blocks;
        if (fat->clusters == 0 || fat->reserved_blocks > UINT16_MAX ||
            !slate_bad_last(fat->bad, &tables, &block))
            break;
        reserved = block - fat->first + 1;
        if (reserved > UINT16_MAX)
            break;
    }
    if (fat->reserved_blocks > UINT16_MAX || reserved > UINT16_MAX)
        fat->reserved_blocks = 0;
}

static struct slate_clusters clusters_of(const struct slate_fat *fat)
{
    return (struct slate_clusters){fat->first + ahead_of_data(fat),
                                   fat->cluster_blocks, fat->clusters};
}

void slate_fat_placed(const struct slate_fat *fat, struct slate_placed *placed)
{
    placed->files = fat->files;
    placed->role = SLATE_FAT_ROLE_FILES;
    placed->clusters = clusters_of(fat);
    placed->block_bytes = fat->block_bytes;
    slate_fat_folders(fat, &placed->folders);
}

/* What cannot go elsewhere is whole, and what can is where it can. */
static enum slate_status avoid_bad(struct slate_fat *fat,
                                   const struct variant *variant)
{
    const struct slate_range head = {fat->first, variant->reserved};
    const struct slate_clusters clusters = clusters_of(fat);
    uint32_t root = 0;
    uint64_t block;

    if (fat->reserved_blocks == 0 || slate_bad_first(fat->bad, &head, &block) ||
        (fat->bits == 32 &&
         !slate_bad_run(fat->bad, &clusters, fat->root_clusters, &root)))
        return SLATE_ERR_BAD_BLOCK;
    fat->root_cluster = 2 + root;
    fat->used_clusters = fat->root_clusters;
    fat->reach = root + fat->root_clusters;
    fat->bad_clusters = slate_bad_count(fat->bad, &clusters);
    return SLATE_OK;
}

/* What the clusters shall be aligned to, in bytes. FAT12 and FAT16 have one
 * reserved block, and old firmware counts on it: small volumes keep to that. */
static uint32_t alignment(const struct slate_fat *fat,
                          const struct slate_wish *wish, uint32_t cluster_bytes)
{
    bool large = bytes_of(fat) >= ALIGNED_VOLUME_BYTES;
    uint32_t erase = wish->align_bytes;

    if (fat->bits != 32 && (!large || erase == 0))
        return fat->block_bytes;
    if (large && erase > cluster_bytes &&
        erase / fat->block_bytes < UINT16_MAX - SLATE_FAT32_RESERVED)
        return erase - erase % cluster_bytes;
    return cluster_bytes;
}

static bool try_cluster(struct slate_fat *fat, const struct variant *variant,
                        const struct slate_wish *wish, uint32_t cluster_bytes)
{
    fat->cluster_blocks = cluster_bytes / fat->block_bytes;
    lay_out(fat, variant,
            alignment(fat, wish, cluster_bytes) / fat->block_bytes);
    if (fat->clusters < variant->clusters_min)
        lay_out(fat, variant, 1);
    return fat->clusters >= variant->clusters_min;
}

/* Cluster sizes of FAT16 up to a volume size in MiB (specification 1.03, 3.5,
 * its table for 512-byte sectors). */
static const struct {
    uint32_t mebibytes, cluster_bytes;
} fat16_sizes[] = {
    {16, 1024}, {128, 2048}, {256, 4096}, {512, 8192}, {1024, 16384}};

static uint32_t usual_fat16(uint64_t bytes)
{
    for (size_t i = 0; i < sizeof fat16_sizes / sizeof fat16_sizes[0]; i++) {
        if (bytes <= (uint64_t)fat16_sizes[i].mebibytes << 20)
            return fat16_sizes[i].cluster_bytes;
    }
    return CLUSTER_BYTES_USUAL;
}

static uint32_t usual_fat32(uint64_t bytes)
{
    uint32_t most =
        bytes > LARGE_VOLUME_BYTES ? CLUSTER_BYTES_MAX : CLUSTER_BYTES_USUAL;
    uint32_t cluster = 4096;

    while (cluster < most && bytes / cluster > CLUSTERS_COMFORTABLE)
        cluster *= 2;
    return cluster;
}

/* Where the search for a cluster size begins. */
static uint32_t usual_cluster(const struct slate_fat *fat)
{
    uint32_t cluster = fat->bits == 12   ? 512
                       : fat->bits == 16 ? usual_fat16(bytes_of(fat))
                                         : usual_fat32(bytes_of(fat));

    return cluster < fat->block_bytes ? fat->block_bytes : cluster;
}

static enum slate_status take_cluster(struct slate_fat *fat,
                                      const struct variant *variant,
                                      const struct slate_wish *wish)
{
    uint32_t cluster = wish->cluster_bytes;

    if (!slate_is_power_of_two(cluster) || cluster < fat->block_bytes ||
        cluster > CLUSTER_BYTES_MAX)
        return SLATE_ERR_CLUSTER;
    return try_cluster(fat, variant, wish, cluster) ? SLATE_OK
                                                    : SLATE_ERR_TOO_SMALL;
}

/* From the usual size on: smaller ones make more clusters, larger ones fewer.
 */
static enum slate_status find_cluster(struct slate_fat *fat,
                                      const struct variant *variant,
                                      const struct slate_wish *wish)
{
    uint32_t cluster = usual_cluster(fat);

    while (!try_cluster(fat, variant, wish, cluster)) {
        if (cluster == fat->block_bytes)
            return SLATE_ERR_TOO_SMALL;
        cluster /= 2;
    }
    while (fat->clusters > variant->clusters_max &&
           cluster < CLUSTER_BYTES_USUAL) {
        cluster *= 2;
        (void)try_cluster(fat, variant, wish, cluster);
    }
    return SLATE_OK;
}

/* A whole number of blocks of 32-byte entries: few on the media that had few.
 */
static uint32_t root_blocks(const struct slate_fat *fat)
{
    uint32_t entries = bytes_of(fat) <= 737280    ? 112
                       : bytes_of(fat) <= 2949120 ? 224
                                                  : 512;

    if (fat->bits == 32)
        return 0;
    return (entries * SLATE_FAT_ENTRY_BYTES + fat->block_bytes - 1) /
           fat->block_bytes;
}

/* How large the root directory has to be. */
static enum slate_status size_root(struct slate_fat *fat,
                                   struct slate_files *files)
{
    struct slate_folders folders;

    fat->root_clusters = fat->bits == 32 ? 1 : 0;
    if (files == NULL)
        return SLATE_OK;
    slate_fat_folders(fat, &folders);
    slate_fat_shorten(files);
    SLATE_TRY(slate_files_count(files, &folders));
    if (fat->bits == 32)
        fat->root_clusters = slate_files_root_clusters(
            files, &folders, fat->cluster_blocks * fat->block_bytes);
    else if (slate_files_entries(files, &folders, 0) >
             fat->root_blocks * fat->block_bytes / SLATE_FAT_ENTRY_BYTES)
        return SLATE_ERR_ROOT_FULL;
    return SLATE_OK;
}

static enum slate_status place(struct slate_fat *fat, struct slate_files *files)
{
    struct slate_placed placed;
    enum slate_status status;
    uint32_t used;

    if (files == NULL)
        return SLATE_OK;
    if (fat->root_clusters > 0)
        files->spot[0].cluster = fat->root_cluster - 2;
    files->spot[0].clusters = fat->root_clusters;
    fat->files = files;
    slate_fat_placed(fat, &placed);
    status = slate_files_place(files, &placed, fat->bad, fat->reach,
                               &fat->reach, &used);
    fat->used_clusters += used;
    return status;
}

static enum slate_status plan(const struct variant *variant,
                              const struct slate_wish *wish,
                              struct slate_fat *fat)
{
    enum slate_status status;

    if (!slate_is_block_size(wish->block_bytes))
        return SLATE_ERR_BLOCK_SIZE;
    if (wish->range.count > UINT32_MAX)
        return SLATE_ERR_TOO_LARGE;
    memset(fat, 0, sizeof *fat);
    fat->first = wish->range.first;
    fat->blocks = (uint32_t)wish->range.count;
    fat->block_bytes = wish->block_bytes;
    fat->bits = variant->bits;
    fat->root_blocks = root_blocks(fat);
    fat->heads = wish->heads == 0 ? 255 : wish->heads;
    fat->track_sectors = wish->track_sectors == 0 ? 63 : wish->track_sectors;
    fat->serial = slate_le32(wish->id);
    fat->stamp = wish->stamp;
    fat->bad = wish->bad;
    fat->start = wish->start;
    if (!slate_fat_start_fits(fat))
        return SLATE_ERR_START;
    status = wish->cluster_bytes != 0 ? take_cluster(fat, variant, wish)
                                      : find_cluster(fat, variant, wish);
    if (status == SLATE_OK && fat->clusters > variant->clusters_max)
        status = SLATE_ERR_TOO_LARGE;
    if (status == SLATE_OK && wish->label != NULL)
        status = slate_fat_label(wish->label, fat->label);
    SLATE_THEN(status, size_root(fat, wish->files));
    SLATE_THEN(status, avoid_bad(fat, variant));
    return status == SLATE_OK ? place(fat, wish->files) : status;
}

enum slate_status slate_fat12_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan_made)
{
    return plan(&fat12, wish, (void *)plan_made);
}

enum slate_status slate_fat16_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan_made)
{
    return plan(&fat16, wish, (void *)plan_made);
}

enum slate_status slate_fat32_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan_made)
{
    return plan(&fat32, wish, (void *)plan_made);
}

/* Blocks of a volume with so many clusters of so many blocks. */
static uint64_t blocks_with(const struct variant *variant, uint32_t block_bytes,
                            uint64_t clusters, uint32_t cluster_blocks)
{
    struct slate_fat fat = {.block_bytes = block_bytes, .bits = variant->bits};
    uint64_t table =
        ((clusters + 2) * variant->bits + 8 * (uint64_t)block_bytes - 1) / 8 /
        block_bytes;

    fat.blocks = (uint32_t)(clusters * cluster_blocks); /* nearly */
    return variant->reserved + 2 * table + root_blocks(&fat) +
           clusters * cluster_blocks;
}

static void limits(const struct variant *variant, uint32_t block_bytes,
                   uint64_t *least, uint64_t *most)
{
    uint32_t largest =
        variant->bits == 32 ? CLUSTER_BYTES_MAX : CLUSTER_BYTES_USUAL;
    uint64_t blocks = blocks_with(variant, block_bytes, variant->clusters_max,
                                  largest / block_bytes);

    *least = blocks_with(variant, block_bytes, variant->clusters_min, 1) *
             block_bytes;
    *most = (blocks > UINT32_MAX ? UINT32_MAX : blocks) * block_bytes;
}

void slate_fat12_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)
{
    limits(&fat12, block_bytes, least, most);
}

void slate_fat16_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)
{
    limits(&fat16, block_bytes, least, most);
}

void slate_fat32_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)
{
    limits(&fat32, block_bytes, least, most);
}

/* What a FAT boot block says of the volume's shape (FAT32 specification 1.03,
 * 3). */

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
