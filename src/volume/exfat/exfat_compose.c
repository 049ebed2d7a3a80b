/* SPDX-License-Identifier: MIT */
/* Composing exFAT: any block from the plan alone (file system specification
 * 1.00). */
#include "volume/exfat/exfat.h"

#include "base/base.h"
#include "compose/compose.h"
#include "volume/common/common.h"

#define ROWS 10u
#define REVISION 0x0100u
#define EXTENDED_SIGNATURE 0xAA550000u
#define MEDIUM 0xFFFFFFF8u
#define CHAIN_END 0xFFFFFFFFu
#define BAD 0xFFFFFFF7u
/* What is composed of the boot block; the rest of larger blocks is zeros. */
#define BOOT_BYTES 512u

const char *const slate_exfat_steps[] = {
    "write the second boot region", "write the first boot region",
    "write the allocation table",   "write the allocation bitmap",
    "write the up-case table",      "write the root directory",
    "write files and folders",      "write the volume's boot block"};

static uint64_t blocks_for(const struct slate_exfat *exfat, uint64_t bytes)
{
    return (bytes + exfat->block_bytes - 1) / exfat->block_bytes;
}

/* The root directory's blocks that hold something. */
static uint64_t root_written(const struct slate_exfat *exfat)
{
    struct slate_placed placed;

    if (exfat->files == NULL)
        return 1;
    slate_exfat_placed(exfat, &placed);
    return blocks_for(
        exfat, (uint64_t)SLATE_EXFAT_ENTRY_BYTES *
                   slate_files_entries(exfat->files, &placed.folders, 0));
}

/* The volume's own clusters follow one another; behind the end of bitmap and
 * up-case table nobody looks. What is placed has bits, but no chains; bad
 * clusters may have bits and entries anywhere. */
static void make_rows(const struct slate_exfat *exfat,
                      struct slate_row row[ROWS])
{
    uint32_t used = slate_exfat_used(exfat), size = exfat->cluster_blocks;
    bool any_bad = exfat->bad_clusters > 0;
    uint64_t own_end = (uint64_t)exfat->own_cluster + used;
    uint64_t reach = any_bad ? exfat->clusters : exfat->reach;
    uint64_t chained =
        blocks_for(exfat, ((any_bad ? exfat->clusters : own_end) +
                           SLATE_EXFAT_FIRST_CLUSTER) *
                              4);
    uint64_t set = blocks_for(exfat, (reach + 7) / 8);
    uint64_t bits = blocks_for(exfat, ((uint64_t)exfat->clusters + 7) / 8);
    uint64_t cased = blocks_for(exfat, slate_upcase_bytes);
    uint64_t table = exfat->first + exfat->table_at;
    uint64_t bitmap =
        exfat->first + exfat->clusters_at + (uint64_t)exfat->own_cluster * size;
    uint64_t upcase = bitmap + (uint64_t)exfat->bitmap_clusters * size;
    uint64_t root = upcase + (uint64_t)exfat->upcase_clusters * size;
    uint64_t entered = root_written(exfat);
    const struct slate_row rows[ROWS] = {
        {SLATE_MOMENT_COPIES, SLATE_EXFAT_ROLE_SECOND_REGION, false,
         exfat->first + SLATE_EXFAT_REGION_BLOCKS, SLATE_EXFAT_REGION_BLOCKS},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_REGION, false, exfat->first + 1,
         SLATE_EXFAT_REGION_BLOCKS - 1},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_TABLE, false, table, chained},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_TABLE, true, table + chained,
         exfat->table_blocks - chained},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_BITMAP, false, bitmap, set},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_BITMAP, true, bitmap + set,
         bits - set},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_UPCASE, false, upcase, cased},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_ROOT, false, root, entered},
        {SLATE_MOMENT_BODY, SLATE_EXFAT_ROLE_ROOT, true, root + entered,
         (uint64_t)exfat->root_clusters * size - entered},
        {SLATE_MOMENT_BIRTH, SLATE_EXFAT_ROLE_BOOT, false, exfat->first, 1}};

    memcpy(row, rows, sizeof rows);
}

SLATE_PLACED_BOTH(slate_exfat, ROWS, make_rows)

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
    uint64_t used = (uint64_t)slate_exfat_used(exfat) + exfat->placed_clusters;

    return (uint8_t)((used + exfat->bad_clusters) * 100 / exfat->clusters);
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
                       slate_exfat_used(exfat) - exfat->root_clusters);
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

static void put_placed_bits(const struct slate_exfat *exfat,
                            const struct slate_bits *bits)
{
    const struct slate_files *files = exfat->files;

    for (uint32_t i = slate_files_find(files, (uint32_t)bits->first);
         i < files->count && files->spot[i].cluster < bits->first + bits->count;
         i++)
        slate_bits_set(bits, files->spot[i].cluster, files->spot[i].clusters);
}

/* block: of the bitmap; its own clusters, those that are placed and the bad
 * ones are in use. */
static void put_bitmap(const struct slate_exfat *exfat, uint64_t block,
                       uint8_t *data)
{
    const struct slate_clusters clusters = clusters_of(exfat);
    uint64_t count = (uint64_t)exfat->block_bytes * 8;
    const struct slate_bits bits = {data, block * count, count};

    slate_bits_set(&bits, exfat->own_cluster, slate_exfat_used(exfat));
    if (exfat->files != NULL && bits.first < exfat->clusters)
        put_placed_bits(exfat, &bits);
    slate_bits_set_bad(&bits, exfat->bad, &clusters);
}

/* Label, bitmap, up-case table (7.1 to 7.3). */
void slate_exfat_put_head(const struct slate_exfat *exfat, uint32_t k,
                          uint8_t *entry)
{
    uint32_t first = SLATE_EXFAT_FIRST_CLUSTER + exfat->own_cluster;

    if (k == 0) {
        slate_exfat_put_label(entry, exfat->label);
    } else if (k == 1) {
        entry[0] = SLATE_EXFAT_ENTRY_BITMAP;
        slate_put_le32(entry + SLATE_EXFAT_ENTRY_CLUSTER, first);
        slate_put_le64(entry + SLATE_EXFAT_ENTRY_LENGTH,
                       ((uint64_t)exfat->clusters + 7) / 8);
    } else {
        entry[0] = SLATE_EXFAT_ENTRY_UPCASE;
        slate_put_le32(entry + SLATE_EXFAT_UPCASE_CHECKSUM,
                       slate_upcase_checksum);
        slate_put_le32(entry + SLATE_EXFAT_ENTRY_CLUSTER,
                       first + exfat->bitmap_clusters);
        slate_put_le64(entry + SLATE_EXFAT_ENTRY_LENGTH, slate_upcase_bytes);
    }
}

/* block: of the root directory */
static void put_root(const struct slate_exfat *exfat, uint64_t block,
                     uint8_t *data)
{
    uint32_t entries = exfat->block_bytes / SLATE_EXFAT_ENTRY_BYTES;
    struct slate_placed placed;

    if (exfat->files != NULL) {
        slate_exfat_placed(exfat, &placed);
        slate_folder_put(&placed, 0, (uint32_t)block * entries, entries, data);
        return;
    }
    for (uint32_t k = 0; block == 0 && k < SLATE_EXFAT_ROOT_HEAD; k++)
        slate_exfat_put_head(exfat, k,
                             data + (size_t)k * SLATE_EXFAT_ENTRY_BYTES);
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
    else if (block >= root)
        put_root(exfat, block - root, data);
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
    struct slate_placed placed;

    slate_exfat_placed(exfat, &placed);
    if (slate_files_own(&placed, first))
        return slate_files_fill(&placed, first, count, data);
    slate_blocks_fill(plan, put_block, first - exfat->first, count,
                      exfat->block_bytes, data);
    return SLATE_OK;
}

void slate_exfat_figures(const union slate_volume_plan *plan,
                         struct slate_figures *figures)
{
    const struct slate_exfat *exfat = (const void *)plan;

    memset(figures, 0, sizeof *figures);
    memcpy(figures->label, exfat->label, sizeof exfat->label);
    figures->serial = exfat->serial;
    figures->cluster_bytes = exfat->cluster_blocks * exfat->block_bytes;
    figures->clusters = exfat->clusters;
    figures->clusters_at = exfat->clusters_at;
    figures->bad_clusters = exfat->bad_clusters;
    figures->placed_clusters = exfat->placed_clusters;
    figures->room_bytes =
        (uint64_t)(exfat->clusters - slate_exfat_used(exfat) -
                   exfat->placed_clusters - exfat->bad_clusters) *
        figures->cluster_bytes;
    figures->file_most = figures->room_bytes;
    figures->whole.first = exfat->first;
    figures->whole.count = exfat->blocks;
}
