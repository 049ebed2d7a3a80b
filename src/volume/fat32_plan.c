/* SPDX-License-Identifier: MIT */
/* The geometry of a FAT32 volume: clusters, tables, alignment, limits. */
#include <string.h>

#include "base/bits.h"
#include "base/utf.h"
#include "volume/fat.h"

#define CLUSTER_BYTES_MAX 65536u
#define CLUSTER_BYTES_USUAL 4096u
/* Clusters that one table of 8 MiB covers. */
#define CLUSTERS_COMFORTABLE 2097152u
#define LARGE_VOLUME_BYTES 1000000000000u
/* Volumes from here on afford to align their clusters to the erase unit. */
#define ALIGNED_VOLUME_BYTES 536870912u

static uint32_t count_clusters(const struct slate_fat32 *fat)
{
    uint64_t ahead = fat->reserved_blocks + 2 * (uint64_t)fat->fat_blocks;

    return fat->blocks < ahead
               ? 0
               : (uint32_t)((fat->blocks - ahead) / fat->cluster_blocks);
}

/* The fewest table blocks F with (clusters(F) + 2) * 4 <= F * block_bytes:
 * each F both holds entries and takes room from the clusters. */
static uint32_t table_blocks(const struct slate_fat32 *fat)
{
    uint64_t data = fat->blocks - fat->reserved_blocks;
    uint64_t spread = (uint64_t)fat->block_bytes / 4 * fat->cluster_blocks + 2;

    return (uint32_t)((data + 2 * (uint64_t)fat->cluster_blocks + spread - 1) /
                      spread);
}

/* Pads the reserved blocks so that clusters begin at a multiple of align. */
static void lay_out(struct slate_fat32 *fat, uint32_t align_blocks)
{
    uint64_t data;

    fat->reserved_blocks = SLATE_FAT32_RESERVED;
    fat->clusters = 0;
    if (fat->blocks <= SLATE_FAT32_RESERVED)
        return;
    fat->fat_blocks = table_blocks(fat);
    data = fat->first + fat->reserved_blocks + 2 * (uint64_t)fat->fat_blocks;
    if (data % align_blocks != 0)
        fat->reserved_blocks += align_blocks - (uint32_t)(data % align_blocks);
    fat->clusters = count_clusters(fat);
}

static bool try_cluster(struct slate_fat32 *fat, uint32_t cluster_bytes,
                        uint32_t align_bytes)
{
    uint64_t bytes = (uint64_t)fat->blocks * fat->block_bytes;
    uint32_t align = cluster_bytes;

    fat->cluster_blocks = cluster_bytes / fat->block_bytes;
    if (bytes >= ALIGNED_VOLUME_BYTES && align_bytes > align &&
        align_bytes / fat->block_bytes < UINT16_MAX - SLATE_FAT32_RESERVED)
        align = align_bytes - align_bytes % cluster_bytes;
    lay_out(fat, align / fat->block_bytes);
    if (fat->clusters < SLATE_FAT32_CLUSTERS_MIN)
        lay_out(fat, 1);
    return fat->clusters >= SLATE_FAT32_CLUSTERS_MIN;
}

static uint32_t usual_cluster(const struct slate_fat32 *fat)
{
    uint64_t bytes = (uint64_t)fat->blocks * fat->block_bytes;
    uint32_t most = bytes > LARGE_VOLUME_BYTES ? 65536 : 32768;
    uint32_t cluster = CLUSTER_BYTES_USUAL;

    while (cluster < most && bytes / cluster > CLUSTERS_COMFORTABLE)
        cluster *= 2;
    return cluster < fat->block_bytes ? fat->block_bytes : cluster;
}

static enum slate_status choose_cluster(struct slate_fat32 *fat,
                                        const struct slate_fat32_wish *wish)
{
    uint32_t cluster = usual_cluster(fat);

    if (wish->cluster_bytes != 0) {
        cluster = wish->cluster_bytes;
        if (!slate_is_power_of_two(cluster) || cluster < fat->block_bytes ||
            cluster > CLUSTER_BYTES_MAX)
            return SLATE_ERR_CLUSTER;
        return try_cluster(fat, cluster, wish->align_bytes)
                   ? SLATE_OK
                   : SLATE_ERR_TOO_SMALL;
    }
    while (!try_cluster(fat, cluster, wish->align_bytes)) {
        if (cluster == fat->block_bytes)
            return SLATE_ERR_TOO_SMALL;
        cluster /= 2;
    }
    return SLATE_OK;
}

enum slate_status slate_fat32_plan(const struct slate_fat32_wish *wish,
                                   struct slate_fat32 *fat)
{
    enum slate_status status;

    if (wish->block_bytes < 512 || wish->block_bytes > 4096 ||
        !slate_is_power_of_two(wish->block_bytes))
        return SLATE_ERR_BLOCK_SIZE;
    if (wish->range.count > UINT32_MAX)
        return SLATE_ERR_TOO_LARGE;
    fat->first = wish->range.first;
    fat->blocks = (uint32_t)wish->range.count;
    fat->block_bytes = wish->block_bytes;
    status = choose_cluster(fat, wish);
    if (status == SLATE_OK && fat->clusters > SLATE_FAT32_CLUSTERS_MAX)
        return SLATE_ERR_TOO_LARGE;
    return status;
}

uint64_t slate_fat32_smallest(uint32_t block_bytes)
{
    uint64_t table =
        ((SLATE_FAT32_CLUSTERS_MIN + 2) * 4u + block_bytes - 1) / block_bytes;

    return (SLATE_FAT32_RESERVED + 2 * table + SLATE_FAT32_CLUSTERS_MIN) *
           block_bytes;
}

uint64_t slate_fat32_largest(uint32_t block_bytes)
{
    return (uint64_t)UINT32_MAX * block_bytes;
}

/* Short-name characters, and the space (FAT specification 1.03, 6.1). */
static bool is_allowed(uint32_t point)
{
    static const char forbidden[] = "\"*+,./:;<=>?[\\]|";

    for (const char *p = forbidden; *p != '\0'; p++) {
        if (point == (uint32_t)*p)
            return false;
    }
    return point >= 0x20 && point < 0x7F;
}

enum slate_status slate_fat_label(const char *wanted,
                                  char label[SLATE_FAT_LABEL_ROOM])
{
    size_t used = 0;
    uint32_t point;

    while (*wanted == ' ')
        wanted++;
    memset(label, 0, SLATE_FAT_LABEL_ROOM);
    if (*wanted == '\0')
        return SLATE_OK;
    while ((point = slate_utf8_next(&wanted)) != 0) {
        if (point == SLATE_UTF_INVALID)
            return SLATE_ERR_LABEL;
        if (used == SLATE_FAT_LABEL_ROOM - 1)
            continue;
        if (point >= 'a' && point <= 'z')
            point -= 'a' - 'A';
        label[used++] = (char)(is_allowed(point) ? point : '_');
    }
    while (used > 0 && label[used - 1] == ' ')
        label[--used] = '\0';
    return SLATE_OK;
}
