/* SPDX-License-Identifier: MIT */
/* The geometry of an exFAT volume (file system specification 1.00, 3):
 * clusters, table, alignment, limits. */

#include "base/base.h"
#include "volume/common/common.h"
#include "volume/exfat/exfat.h"

#define VOLUME_BYTES_MIN 1048576u
#define CLUSTER_BYTES_MAX 33554432u
#define CLUSTERS_MAX UINT64_C(0xFFFFFFF5)
/* Larger volumes get larger clusters: a table of 64 MiB at most. */
#define CLUSTERS_COMFORTABLE UINT64_C(16777216)
/* A volume that has so many erase units affords to align its clusters to one.
 */
#define UNITS_TO_ALIGN 64u
#define TABLE_ALIGN_BYTES 4096u
/* Volumes with the smallest clusters, and with those that are next. */
#define SMALL_KIBIBYTES UINT64_C(262144)
#define MIDDLE_KIBIBYTES UINT64_C(33554432)

static uint64_t round_up(uint64_t value, uint64_t to)
{
    return value + (to - value % to) % to;
}

static uint64_t table_blocks(uint64_t clusters, uint32_t block_bytes)
{
    return ((clusters + SLATE_EXFAT_FIRST_CLUSTER) * 4 + block_bytes - 1) /
           block_bytes;
}

uint32_t slate_exfat_used(const struct slate_exfat *exfat)
{
    return exfat->bitmap_clusters + exfat->upcase_clusters +
           exfat->root_clusters;
}

void slate_exfat_placed(const struct slate_exfat *exfat,
                        struct slate_placed *placed)
{
    placed->files = exfat->files;
    placed->role = SLATE_EXFAT_ROLE_FILES;
    placed->clusters =
        (struct slate_clusters){exfat->first + exfat->clusters_at,
                                exfat->cluster_blocks, exfat->clusters};
    placed->block_bytes = exfat->block_bytes;
    slate_exfat_folders(exfat, &placed->folders);
}

/* Clusters of what the volume itself keeps in clusters. */
static void take_own(struct slate_exfat *exfat)
{
    uint64_t cluster = (uint64_t)exfat->cluster_blocks * exfat->block_bytes;
    uint64_t bitmap = ((uint64_t)exfat->clusters + 7) / 8;

    exfat->bitmap_clusters = (uint32_t)((bitmap + cluster - 1) / cluster);
    exfat->upcase_clusters =
        (uint32_t)((slate_upcase_bytes + cluster - 1) / cluster);
}

/* The table is as long as the clusters need that would be there without it,
 * then as those that are there need: a few blocks less. */
static bool lay_out_from(struct slate_exfat *exfat, uint64_t align_blocks)
{
    uint64_t most, table, end, clusters;

    if (exfat->table_at >= exfat->blocks)
        return false;
    most = (exfat->blocks - exfat->table_at) / exfat->cluster_blocks;
    table = table_blocks(most < CLUSTERS_MAX ? most : CLUSTERS_MAX,
                         exfat->block_bytes);
    end = round_up(exfat->first + exfat->table_at + table, align_blocks) -
          exfat->first;
    if (end >= exfat->blocks || end > UINT32_MAX)
        return false;
    clusters = (exfat->blocks - end) / exfat->cluster_blocks;
    if (clusters > CLUSTERS_MAX)
        return false; /* larger clusters are needed */
    exfat->clusters_at = (uint32_t)end;
    exfat->clusters = (uint32_t)clusters;
    exfat->table_blocks = (uint32_t)table_blocks(clusters, exfat->block_bytes);
    take_own(exfat);
    return clusters >= slate_exfat_used(exfat);
}

/* The table stands behind the last bad block that would be in it. */
static bool lay_out(struct slate_exfat *exfat, uint32_t table_at,
                    uint64_t align_blocks)
{
    uint64_t block = 0;

    exfat->table_at = table_at;
    while (lay_out_from(exfat, align_blocks)) {
        struct slate_range table = {exfat->first + exfat->table_at,
                                    exfat->table_blocks};

        if (!slate_bad_last(exfat->bad, &table, &block))
            return true;
        exfat->table_at = (uint32_t)(block - exfat->first + 1);
    }
    return false;
}

/* The boot regions are whole, and the volume's own clusters are where they can
 * be. */
static enum slate_status avoid_bad(struct slate_exfat *exfat)
{
    const struct slate_range regions = {
        exfat->first, (uint64_t)2 * SLATE_EXFAT_REGION_BLOCKS};
    const struct slate_clusters clusters = {exfat->first + exfat->clusters_at,
                                            exfat->cluster_blocks,
                                            exfat->clusters};
    uint64_t block;

    if (slate_bad_first(exfat->bad, &regions, &block) ||
        !slate_bad_run(exfat->bad, &clusters, slate_exfat_used(exfat),
                       &exfat->own_cluster))
        return SLATE_ERR_BAD_BLOCK;
    exfat->bad_clusters = slate_bad_count(exfat->bad, &clusters);
    exfat->reach = exfat->own_cluster + slate_exfat_used(exfat);
    return SLATE_OK;
}

/* How large the root directory has to be. */
static enum slate_status size_root(struct slate_exfat *exfat,
                                   struct slate_files *files)
{
    struct slate_folders folders;

    if (files == NULL)
        return SLATE_OK;
    slate_exfat_folders(exfat, &folders);
    SLATE_TRY(slate_files_count(files, &folders));
    exfat->root_clusters = slate_files_root_clusters(
        files, &folders, exfat->cluster_blocks * exfat->block_bytes);
    return exfat->clusters >= slate_exfat_used(exfat) ? SLATE_OK
                                                      : SLATE_ERR_FILES;
}

static enum slate_status place(struct slate_exfat *exfat,
                               struct slate_files *files)
{
    struct slate_placed placed;

    if (files == NULL)
        return SLATE_OK;
    files->spot[0].clusters = exfat->root_clusters;
    files->spot[0].cluster = exfat->reach - exfat->root_clusters;
    exfat->files = files;
    slate_exfat_placed(exfat, &placed);
    return slate_files_place(files, &placed, exfat->bad, exfat->reach,
                             &exfat->reach, &exfat->placed_clusters);
}

static bool has_too_many(const struct slate_exfat *exfat)
{
    return exfat->blocks / exfat->cluster_blocks > CLUSTERS_MAX;
}

/* With clusters on the erase unit, else on their own size, else anywhere. */
static enum slate_status try_cluster(struct slate_exfat *exfat,
                                     const struct slate_wish *wish,
                                     uint32_t cluster_bytes)
{
    uint32_t unit = wish->align_bytes, block = exfat->block_bytes;
    uint32_t table_at = exfat->table_at;
    bool affords = exfat->blocks / UNITS_TO_ALIGN >= unit / block;

    exfat->cluster_blocks = cluster_bytes / block;
    if (unit > cluster_bytes && affords &&
        lay_out(exfat, table_at, (unit - unit % cluster_bytes) / block))
        return SLATE_OK;
    if (lay_out(exfat, table_at, exfat->cluster_blocks) ||
        lay_out(exfat, table_at, 1))
        return SLATE_OK;
    return has_too_many(exfat) ? SLATE_ERR_TOO_LARGE : SLATE_ERR_TOO_SMALL;
}

/* Sizes that hosts choose, and that cards leave their makers with. */
static uint32_t usual_cluster(const struct slate_exfat *exfat)
{
    uint64_t kibibytes =
        exfat->blocks / (1024 / 512) * (exfat->block_bytes / 512);
    uint32_t cluster = kibibytes <= SMALL_KIBIBYTES    ? 4096
                       : kibibytes <= MIDDLE_KIBIBYTES ? 32768
                                                       : 131072;

    while (cluster < CLUSTER_BYTES_MAX &&
           kibibytes / (cluster / 1024) > CLUSTERS_COMFORTABLE)
        cluster *= 2;
    return cluster;
}

static enum slate_status take_cluster(struct slate_exfat *exfat,
                                      const struct slate_wish *wish)
{
    uint32_t cluster = wish->cluster_bytes;

    if (cluster == 0)
        return try_cluster(exfat, wish, usual_cluster(exfat));
    if (!slate_is_power_of_two(cluster) || cluster < exfat->block_bytes ||
        cluster > CLUSTER_BYTES_MAX)
        return SLATE_ERR_CLUSTER;
    return try_cluster(exfat, wish, cluster);
}

/* Behind the boot regions, or where it is wanted. */
static uint32_t table_at(const struct slate_wish *wish)
{
    uint64_t least = (uint64_t)2 * SLATE_EXFAT_REGION_BLOCKS;
    uint64_t wanted = wish->table_bytes / wish->block_bytes;

    return (uint32_t)(wanted > least ? wanted
                                     : round_up(least, TABLE_ALIGN_BYTES /
                                                           wish->block_bytes));
}

enum slate_status slate_exfat_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan)
{
    struct slate_exfat *exfat = (void *)plan;
    uint32_t block = wish->block_bytes;
    enum slate_status status;

    if (!slate_is_block_size(block))
        return SLATE_ERR_BLOCK_SIZE;
    if (wish->start != NULL)
        return SLATE_ERR_START;
    if (wish->range.count < VOLUME_BYTES_MIN / block)
        return SLATE_ERR_TOO_SMALL;
    memset(exfat, 0, sizeof *exfat);
    exfat->first = wish->range.first;
    exfat->blocks = wish->range.count;
    exfat->block_bytes = block;
    exfat->serial = slate_le32(wish->id);
    exfat->table_at = table_at(wish);
    exfat->bad = wish->bad;
    exfat->root_clusters = 1;
    status = take_cluster(exfat, wish);
    if (status == SLATE_OK && wish->label != NULL)
        status = slate_exfat_label(wish->label, exfat->label);
    SLATE_THEN(status, size_root(exfat, wish->files));
    SLATE_THEN(status, avoid_bad(exfat));
    return status == SLATE_OK ? place(exfat, wish->files) : status;
}

void slate_exfat_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most)
{
    uint64_t blocks = (uint64_t)2 * SLATE_EXFAT_REGION_BLOCKS +
                      table_blocks(CLUSTERS_MAX, block_bytes);

    *least = VOLUME_BYTES_MIN;
    *most = blocks * block_bytes + CLUSTERS_MAX * CLUSTER_BYTES_MAX;
}
