/* SPDX-License-Identifier: MIT */
/* Composing exFAT: any block from the plan alone (file system specification
 * 1.00). */
#include "volume/exfat.h"

#include <string.h>

#include "base/bytes.h"
#include "compose/rows.h"
#include "volume/bad.h"
#include "volume/start.h"
#include "volume/upcase.h"

#define ROWS 10u
#define REVISION 0x0100u
#define EXTENDED_SIGNATURE 0xAA550000u
#define MEDIUM 0xFFFFFFF8u
#define CHAIN_END 0xFFFFFFFFu
#define BAD 0xFFFFFFF7u
/* What is composed of the boot block; the rest of larger blocks is zeros. */
#define BOOT_BYTES 512u

enum role {
    ROLE_SECOND_REGION,
    ROLE_REGION,
    ROLE_TABLE,
    ROLE_BITMAP,
    ROLE_UPCASE,
    ROLE_ROOT,
    ROLE_BOOT
};

const char *slate_exfat_step(uint8_t role)
{
    static const char *const steps[] = {
        "write the second boot region", "write the first boot region",
        "write the allocation table",   "write the allocation bitmap",
        "write the up-case table",      "write the root directory",
        "write the volume's boot block"};

    return steps[role];
}

static uint64_t blocks_for(const struct slate_exfat *exfat, uint64_t bytes)
{
    return (bytes + exfat->block_bytes - 1) / exfat->block_bytes;
}

/* The volume's own clusters follow one another; behind the end of bitmap and
 * up-case table nobody looks. Bad clusters may have bits and entries anywhere.
 */
static void make_rows(const struct slate_exfat *exfat,
                      struct slate_row row[ROWS])
{
    uint32_t used = slate_exfat_used(exfat), size = exfat->cluster_blocks;
    uint64_t reach = exfat->bad_clusters == 0
                         ? (uint64_t)exfat->own_cluster + used
                         : exfat->clusters;
    uint64_t chained =
        blocks_for(exfat, (reach + SLATE_EXFAT_FIRST_CLUSTER) * 4);
    uint64_t set = blocks_for(exfat, (reach + 7) / 8);
    uint64_t bits = blocks_for(exfat, ((uint64_t)exfat->clusters + 7) / 8);
    uint64_t cased = blocks_for(exfat, slate_upcase_bytes);
    uint64_t table = exfat->first + exfat->table_at;
    uint64_t bitmap =
        exfat->first + exfat->clusters_at + (uint64_t)exfat->own_cluster * size;
    uint64_t upcase = bitmap + (uint64_t)exfat->bitmap_clusters * size;
    uint64_t root = upcase + (uint64_t)exfat->upcase_clusters * size;
    const struct slate_row rows[ROWS] = {
        {SLATE_MOMENT_COPIES, ROLE_SECOND_REGION, false,
         exfat->first + SLATE_EXFAT_REGION_BLOCKS, SLATE_EXFAT_REGION_BLOCKS},
        {SLATE_MOMENT_BODY, ROLE_REGION, false, exfat->first + 1,
         SLATE_EXFAT_REGION_BLOCKS - 1},
        {SLATE_MOMENT_BODY, ROLE_TABLE, false, table, chained},
        {SLATE_MOMENT_BODY, ROLE_TABLE, true, table + chained,
         exfat->table_blocks - chained},
        {SLATE_MOMENT_BODY, ROLE_BITMAP, false, bitmap, set},
        {SLATE_MOMENT_BODY, ROLE_BITMAP, true, bitmap + set, bits - set},
        {SLATE_MOMENT_BODY, ROLE_UPCASE, false, upcase, cased},
        {SLATE_MOMENT_BODY, ROLE_ROOT, false, root, 1},
        {SLATE_MOMENT_BODY, ROLE_ROOT, true, root + 1, size - 1},
        {SLATE_MOMENT_BIRTH, ROLE_BOOT, false, exfat->first, 1}};

    memcpy(row, rows, sizeof rows);
}

bool slate_exfat_next(const void *plan, enum slate_moment moment, uint64_t *at,
                      struct slate_extent *extent)
{
    struct slate_row row[ROWS];

    make_rows(plan, row);
    return slate_rows_next(row, ROWS, moment, at, extent);
}

bool slate_exfat_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    struct slate_row row[ROWS];

    make_rows(plan, row);
    return slate_rows_cover(row, ROWS, lba, until);
}

static uint8_t shift_of(uint32_t value)
{
    uint8_t shift = 0;

    while ((uint32_t)1 << shift < value)
        shift++;
    return shift;
}

/* The whole per cent that the volume itself takes. */
static uint8_t in_use(const struct slate_exfat *exfat)
{
    return (uint8_t)(((uint64_t)slate_exfat_used(exfat) + exfat->bad_clusters) *
                     100 / exfat->clusters);
}

/* data: BOOT_BYTES, zeroed (3.1). */
static void put_boot(const struct slate_exfat *exfat, uint8_t *data)
{
    memcpy(data,
           "\xEB\x76\x90"
           "EXFAT   ",
           11);
    slate_put_le64(data + SLATE_EXFAT_PARTITION_AT, exfat->first);
    slate_put_le64(data + SLATE_EXFAT_BLOCKS, exfat->blocks);
    slate_put_le32(data + SLATE_EXFAT_TABLE_AT, exfat->table_at);
    slate_put_le32(data + SLATE_EXFAT_TABLE_BLOCKS, exfat->table_blocks);
    slate_put_le32(data + SLATE_EXFAT_CLUSTERS_AT, exfat->clusters_at);
    slate_put_le32(data + SLATE_EXFAT_CLUSTERS, exfat->clusters);
    slate_put_le32(data + SLATE_EXFAT_ROOT_CLUSTER,
                   SLATE_EXFAT_FIRST_CLUSTER + exfat->own_cluster +
                       slate_exfat_used(exfat) - 1);
    slate_put_le32(data + SLATE_EXFAT_SERIAL, exfat->serial);
    slate_put_le16(data + SLATE_EXFAT_REVISION, REVISION);
    data[SLATE_EXFAT_BLOCK_SHIFT] = shift_of(exfat->block_bytes);
    data[SLATE_EXFAT_CLUSTER_SHIFT] = shift_of(exfat->cluster_blocks);
    data[SLATE_EXFAT_TABLES] = 1;
    data[SLATE_EXFAT_DRIVE] = 0x80;
    data[SLATE_EXFAT_IN_USE] = in_use(exfat);
    slate_start_put(data + SLATE_EXFAT_CODE);
    slate_put_le16(data + SLATE_EXFAT_SIGNATURE, 0xAA55);
}

/* Of the first eleven blocks, but for what hosts change (3.4): boot block,
 * eight that are zeros with a signature at their end, two of zeros. */
static uint32_t region_sum(const struct slate_exfat *exfat)
{
    static const uint8_t tail[4] = {0x00, 0x00, 0x55, 0xAA};
    uint8_t boot[BOOT_BYTES] = {0};
    uint32_t block = exfat->block_bytes, sum = 0;

    put_boot(exfat, boot);
    for (uint32_t at = 0; at < BOOT_BYTES; at++)
        if (!slate_exfat_is_changing(at))
            sum = slate_exfat_sum(sum, boot + at, 1);
    sum = slate_exfat_sum_zeros(sum, block - BOOT_BYTES);
    for (uint32_t i = SLATE_EXFAT_MORE_BOOT; i < SLATE_EXFAT_PARAMETERS; i++) {
        sum = slate_exfat_sum_zeros(sum, block - sizeof tail);
        sum = slate_exfat_sum(sum, tail, sizeof tail);
    }
    return slate_exfat_sum_zeros(
        sum, (uint64_t)block * (SLATE_EXFAT_CHECKSUM - SLATE_EXFAT_PARAMETERS));
}

/* data: a block, zeroed. The parameters are none: zeros (3.3). */
static void put_region(const struct slate_exfat *exfat, uint64_t block,
                       uint8_t *data)
{
    uint32_t sum;

    if (block == 0)
        put_boot(exfat, data);
    else if (block < SLATE_EXFAT_PARAMETERS)
        slate_put_le32(data + exfat->block_bytes - 4, EXTENDED_SIGNATURE);
    if (block != SLATE_EXFAT_CHECKSUM)
        return;
    sum = region_sum(exfat);
    for (uint32_t at = 0; at < exfat->block_bytes; at += 4)
        slate_put_le32(data + at, sum);
}

static struct slate_clusters clusters_of(const struct slate_exfat *exfat)
{
    return (struct slate_clusters){exfat->first + exfat->clusters_at,
                                   exfat->cluster_blocks, exfat->clusters};
}

/* Is a cluster the last one of its chain? Counted from the first own one. */
static bool ends_chain(const struct slate_exfat *exfat, uint32_t index)
{
    return index + 1 == exfat->bitmap_clusters ||
           index + 1 == exfat->bitmap_clusters + exfat->upcase_clusters ||
           index + 1 == slate_exfat_used(exfat);
}

static uint32_t table_entry(const struct slate_exfat *exfat, uint64_t entry)
{
    uint64_t own = (uint64_t)SLATE_EXFAT_FIRST_CLUSTER + exfat->own_cluster;

    if (entry == 0)
        return MEDIUM;
    if (entry == 1)
        return CHAIN_END;
    if (entry < own || entry - own >= slate_exfat_used(exfat))
        return 0;
    return ends_chain(exfat, (uint32_t)(entry - own)) ? CHAIN_END
                                                      : (uint32_t)entry + 1;
}

/* block: of the table */
static void put_table(const struct slate_exfat *exfat, uint64_t block,
                      uint8_t *data)
{
    const struct slate_clusters clusters = clusters_of(exfat);
    uint32_t entries = exfat->block_bytes / 4;
    uint64_t first = block * entries;
    uint32_t bad;

    for (uint32_t i = 0; i < entries; i++)
        slate_put_le32(data + (size_t)4 * i, table_entry(exfat, first + i));
    if (exfat->bad_clusters == 0)
        return;
    bad = slate_bad_cluster(exfat->bad, &clusters,
                            first < 2 ? 0 : (uint32_t)(first - 2));
    while (bad < exfat->clusters && (uint64_t)bad + 2 < first + entries) {
        slate_put_le32(data + 4 * ((uint64_t)bad + 2 - first), BAD);
        bad = slate_bad_cluster(exfat->bad, &clusters, bad + 1);
    }
}

/* block: of the bitmap; its own clusters and the bad ones are in use. */
static void put_bitmap(const struct slate_exfat *exfat, uint64_t block,
                       uint8_t *data)
{
    const struct slate_clusters clusters = clusters_of(exfat);
    uint64_t bits = (uint64_t)exfat->block_bytes * 8, first = block * bits;
    uint64_t own = exfat->own_cluster, end = own + slate_exfat_used(exfat);
    uint64_t at = own > first ? own : first;
    uint32_t bad;

    for (; at < end && at < first + bits; at++)
        data[(at - first) / 8] |= (uint8_t)(1u << at % 8);
    if (exfat->bad_clusters == 0 || first >= exfat->clusters)
        return;
    bad = slate_bad_cluster(exfat->bad, &clusters, (uint32_t)first);
    while (bad < exfat->clusters && bad < first + bits) {
        data[(bad - first) / 8] |= (uint8_t)(1u << bad % 8);
        bad = slate_bad_cluster(exfat->bad, &clusters, bad + 1);
    }
}

static uint32_t upcase_sum(void)
{
    uint32_t sum = 0;
    uint8_t byte;

    for (uint32_t at = 0; at < slate_upcase_bytes; at++) {
        slate_upcase_put(at, &byte, 1);
        sum = slate_exfat_sum(sum, &byte, 1);
    }
    return sum;
}

/* Label, bitmap, up-case table (7.1 to 7.3). */
static void put_root(const struct slate_exfat *exfat, uint8_t *data)
{
    uint8_t *bitmap = data + SLATE_EXFAT_ENTRY_BYTES;
    uint8_t *upcase = bitmap + SLATE_EXFAT_ENTRY_BYTES;

    slate_exfat_put_label(data, exfat->label);
    bitmap[0] = SLATE_EXFAT_ENTRY_BITMAP;
    slate_put_le32(bitmap + SLATE_EXFAT_ENTRY_CLUSTER,
                   SLATE_EXFAT_FIRST_CLUSTER + exfat->own_cluster);
    slate_put_le64(bitmap + SLATE_EXFAT_ENTRY_LENGTH,
                   ((uint64_t)exfat->clusters + 7) / 8);
    upcase[0] = SLATE_EXFAT_ENTRY_UPCASE;
    slate_put_le32(upcase + SLATE_EXFAT_UPCASE_CHECKSUM, upcase_sum());
    slate_put_le32(upcase + SLATE_EXFAT_ENTRY_CLUSTER,
                   SLATE_EXFAT_FIRST_CLUSTER + exfat->own_cluster +
                       exfat->bitmap_clusters);
    slate_put_le64(upcase + SLATE_EXFAT_ENTRY_LENGTH, slate_upcase_bytes);
}

/* block: behind the start of the volume's own clusters; data: zeroed */
static void put_cluster(const struct slate_exfat *exfat, uint64_t block,
                        uint8_t *data)
{
    uint64_t upcase = (uint64_t)exfat->bitmap_clusters * exfat->cluster_blocks;
    uint64_t root =
        upcase + (uint64_t)exfat->upcase_clusters * exfat->cluster_blocks;

    if (block < upcase)
        put_bitmap(exfat, block, data);
    else if (block == root)
        put_root(exfat, data);
    else if (block < root &&
             (block - upcase) * exfat->block_bytes < slate_upcase_bytes)
        slate_upcase_put((uint32_t)(block - upcase) * exfat->block_bytes, data,
                         exfat->block_bytes);
}

static void put_block(const void *plan, uint64_t block, uint8_t *data)
{
    const struct slate_exfat *exfat = plan;
    uint64_t own = exfat->clusters_at +
                   (uint64_t)exfat->own_cluster * exfat->cluster_blocks;

    if (block < (uint64_t)2 * SLATE_EXFAT_REGION_BLOCKS)
        put_region(exfat, block % SLATE_EXFAT_REGION_BLOCKS, data);
    else if (block >= own)
        put_cluster(exfat, block - own, data);
    else if (block >= exfat->table_at)
        put_table(exfat, block - exfat->table_at, data);
}

enum slate_status slate_exfat_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    const struct slate_exfat *exfat = plan;

    slate_blocks_fill(plan, put_block, first - exfat->first, count,
                      exfat->block_bytes, data);
    return SLATE_OK;
}

void slate_exfat_figures(const union slate_volume_plan *plan,
                         struct slate_figures *figures)
{
    const struct slate_exfat *exfat = &plan->exfat;

    memset(figures, 0, sizeof *figures);
    memcpy(figures->label, exfat->label, sizeof exfat->label);
    figures->serial = exfat->serial;
    figures->cluster_bytes = exfat->cluster_blocks * exfat->block_bytes;
    figures->clusters = exfat->clusters;
    figures->bad_clusters = exfat->bad_clusters;
    figures->room_bytes = (uint64_t)(exfat->clusters - slate_exfat_used(exfat) -
                                     exfat->bad_clusters) *
                          figures->cluster_bytes;
    figures->file_most = figures->room_bytes;
    figures->whole.first = exfat->first;
    figures->whole.count = exfat->blocks;
}
