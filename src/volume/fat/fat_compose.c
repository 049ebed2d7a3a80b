/* SPDX-License-Identifier: MIT */
/* Composing FAT12, FAT16 and FAT32: any block from the plan alone. */

#include "base/base.h"
#include "compose/compose.h"
#include "volume/common/common.h"
#include "volume/fat/fat.h"

#define INFO_BLOCK 1u
#define THIRD_BLOCK 2u
#define BACKUP_BLOCK 6u
#define MEDIUM_FIXED 0xF8u
#define ROWS 7u

const char *const slate_fat_steps[] = {"write the volume's reserved blocks",
                                       "write the second allocation table",
                                       "write the first allocation table",
                                       "write the root directory",
                                       "write files and folders",
                                       "write the volume's boot block"};

static uint64_t behind_tables(const struct slate_fat *fat)
{
    return fat->reserved_blocks + 2 * (uint64_t)fat->fat_blocks;
}

/* Where the root directory is: in a cluster, or ahead of them. */
static uint64_t root_at(const struct slate_fat *fat)
{
    return behind_tables(fat) +
           (fat->bits == 32
                ? (uint64_t)(fat->root_cluster - 2) * fat->cluster_blocks
                : 0);
}

/* Blocks of a table that hold something: all of them may, with bad ones. */
static uint32_t table_head(const struct slate_fat *fat)
{
    uint64_t bits = ((uint64_t)fat->reach + 2) * fat->bits;
    uint64_t bytes = (bits + 7) / 8;

    return fat->bad_clusters == 0
               ? (uint32_t)((bytes + fat->block_bytes - 1) / fat->block_bytes)
               : fat->fat_blocks;
}

static uint32_t root_blocks(const struct slate_fat *fat)
{
    return fat->bits == 32 ? fat->root_clusters * fat->cluster_blocks
                           : fat->root_blocks;
}

static void make_rows(const struct slate_fat *fat, struct slate_row row[ROWS])
{
    uint64_t table = fat->first + fat->reserved_blocks;
    uint64_t copy = table + fat->fat_blocks;
    uint32_t head = table_head(fat), more = fat->fat_blocks - head;
    uint32_t ahead = fat->bits == 32 ? SLATE_FAT32_RESERVED - 1 : 0;
    const struct slate_row rows[ROWS] = {
        {SLATE_MOMENT_COPIES, SLATE_FAT_ROLE_RESERVED, false, fat->first + 1,
         ahead},
        {SLATE_MOMENT_COPIES, SLATE_FAT_ROLE_TABLE_COPY, false, copy, head},
        {SLATE_MOMENT_COPIES, SLATE_FAT_ROLE_TABLE_COPY, true, copy + head,
         more},
        {SLATE_MOMENT_BODY, SLATE_FAT_ROLE_TABLE, false, table, head},
        {SLATE_MOMENT_BODY, SLATE_FAT_ROLE_TABLE, true, table + head, more},
        {SLATE_MOMENT_BODY, SLATE_FAT_ROLE_ROOT, false,
         fat->first + root_at(fat), root_blocks(fat)},
        {SLATE_MOMENT_BIRTH, SLATE_FAT_ROLE_BOOT, false, fat->first, 1}};

    memcpy(row, rows, sizeof rows);
}

SLATE_PLACED_BOTH(slate_fat, ROWS, make_rows)

static void put_volume_label(const struct slate_fat *fat, uint8_t *field)
{
    if (fat->label[0] != '\0')
        slate_fat_put_label(field, fat->label);
    else
        memcpy(field, SLATE_FAT_NO_LABEL, 11);
}

/* What FAT12 and FAT16 have behind the common fields. */
static void boot_tail_16(const struct slate_fat *fat, uint8_t *piece)
{
    piece[SLATE_FAT16_DRIVE] = 0x80;
    piece[SLATE_FAT16_EXTENDED] = 0x29;
    slate_put_le32(piece + SLATE_FAT16_SERIAL, fat->serial);
    put_volume_label(fat, piece + SLATE_FAT16_LABEL);
    memcpy(piece + SLATE_FAT16_KIND, fat->bits == 12 ? "FAT12   " : "FAT16   ",
           8);
    slate_start_put(piece + SLATE_FAT16_CODE);
}

static void boot_tail_32(const struct slate_fat *fat, uint8_t *piece)
{
    slate_put_le32(piece + SLATE_FAT32_TABLE_BLOCKS, fat->fat_blocks);
    slate_put_le32(piece + SLATE_FAT32_ROOT_CLUSTER, fat->root_cluster);
    slate_put_le16(piece + SLATE_FAT32_INFO_BLOCK, INFO_BLOCK);
    slate_put_le16(piece + SLATE_FAT32_BACKUP_BLOCK, BACKUP_BLOCK);
    piece[SLATE_FAT32_DRIVE] = 0x80;
    piece[SLATE_FAT32_EXTENDED] = 0x29;
    slate_put_le32(piece + SLATE_FAT32_SERIAL, fat->serial);
    put_volume_label(fat, piece + SLATE_FAT32_LABEL);
    memcpy(piece + SLATE_FAT32_KIND, "FAT32   ", 8);
    slate_start_put(piece + SLATE_FAT32_CODE);
}

/* FAT32 keeps its counts in the wide fields; the others do so only where the
 * narrow one is too small. */
static void put_counts(const struct slate_fat *fat, uint8_t *piece)
{
    bool narrow = fat->bits != 32 && fat->blocks <= UINT16_MAX;

    if (narrow)
        slate_put_le16(piece + SLATE_FAT_BLOCKS_16, (uint16_t)fat->blocks);
    else
        slate_put_le32(piece + SLATE_FAT_BLOCKS_32, fat->blocks);
    if (fat->bits == 32)
        return;
    slate_put_le16(piece + SLATE_FAT_ROOT_ENTRIES,
                   (uint16_t)(fat->root_blocks * fat->block_bytes /
                              SLATE_FAT_ENTRY_BYTES));
    slate_put_le16(piece + SLATE_FAT_TABLE_BLOCKS_16,
                   (uint16_t)fat->fat_blocks);
}

static void put_boot(const struct slate_fat *fat, uint8_t *piece)
{
    piece[0] = 0xEB; /* jump over the fields */
    piece[1] = fat->bits == 32 ? SLATE_FAT32_CODE - 2 : SLATE_FAT16_CODE - 2;
    piece[2] = 0x90;
    memcpy(piece + 3, "TRUSLATE", 8);
    slate_put_le16(piece + SLATE_FAT_BYTES_PER_BLOCK,
                   (uint16_t)fat->block_bytes);
    piece[SLATE_FAT_BLOCKS_PER_CLUSTER] = (uint8_t)fat->cluster_blocks;
    slate_put_le16(piece + SLATE_FAT_RESERVED_BLOCKS,
                   (uint16_t)fat->reserved_blocks);
    piece[SLATE_FAT_TABLES] = 2;
    piece[SLATE_FAT_MEDIUM] = MEDIUM_FIXED;
    slate_put_le16(piece + SLATE_FAT_TRACK_SECTORS, fat->track_sectors);
    slate_put_le16(piece + SLATE_FAT_HEADS, fat->heads);
    slate_put_le32(piece + SLATE_FAT_HIDDEN_BLOCKS, (uint32_t)fat->first);
    put_counts(fat, piece);
    if (fat->bits == 32)
        boot_tail_32(fat, piece);
    else
        boot_tail_16(fat, piece);
    slate_put_le16(piece + SLATE_FAT_SIGNATURE, 0xAA55);
    slate_fat_put_start(fat, piece);
}

static void put_info(const struct slate_fat *fat, uint8_t *piece)
{
    slate_put_le32(piece + SLATE_FAT_INFO_LEAD, SLATE_FAT_INFO_LEAD_VALUE);
    slate_put_le32(piece + SLATE_FAT_INFO_MIDDLE, SLATE_FAT_INFO_MIDDLE_VALUE);
    slate_put_le32(piece + SLATE_FAT_INFO_FREE,
                   fat->clusters - fat->used_clusters - fat->bad_clusters);
    slate_put_le32(piece + SLATE_FAT_INFO_NEXT,
                   fat->reach < fat->clusters ? 2 + fat->reach : UINT32_MAX);
    slate_put_le32(piece + SLATE_FAT_INFO_TAIL, SLATE_FAT_INFO_TAIL_VALUE);
}

static void put_reserved(const struct slate_fat *fat, uint64_t block,
                         uint8_t *piece)
{
    uint64_t role = block >= BACKUP_BLOCK ? block - BACKUP_BLOCK : block;

    if (role == 0)
        put_boot(fat, piece);
    else if (role == INFO_BLOCK)
        put_info(fat, piece);
    else if (role == THIRD_BLOCK)
        slate_fat_put_third(fat, piece);
}

/* An entry of a block of a table; one of 12 bits may reach into the next block,
 * of which only this one's part is put. */
static void put_entry(const struct slate_fat *fat, uint64_t block,
                      uint32_t entry, uint32_t value, uint8_t *data)
{
    uint64_t bit = (uint64_t)entry * fat->bits;
    uint64_t start = block * fat->block_bytes;
    uint32_t mask = fat->bits == 12   ? 0x0FFFu
                    : fat->bits == 16 ? 0xFFFFu
                                      : 0x0FFFFFFFu;

    value = (value & mask) << bit % 8;
    for (uint64_t byte = bit / 8; value != 0; byte++, value >>= 8)
        if (byte >= start && byte - start < fat->block_bytes)
            data[byte - start] |= (uint8_t)value;
}

/* The clusters whose entries are in a block of a table, wholly or in part,
 * counted from 0. */
static void clusters_in(const struct slate_fat *fat, uint64_t block,
                        uint32_t *first, uint64_t *end)
{
    uint64_t bits = (uint64_t)fat->block_bytes * 8;
    uint64_t entry = block * bits / fat->bits;

    *first = entry < 2 ? 0 : (uint32_t)(entry - 2);
    *end = ((block + 1) * bits + fat->bits - 1) / fat->bits - 2;
    if (*end > fat->clusters)
        *end = fat->clusters;
}

/* Marks the bad clusters (specification 1.03, 4.1). */
static void put_bad(const struct slate_fat *fat, uint64_t block, uint8_t *data)
{
    struct slate_placed placed;
    uint32_t cluster;
    uint64_t end;

    slate_fat_placed(fat, &placed);
    clusters_in(fat, block, &cluster, &end);
    cluster = slate_bad_cluster(fat->bad, &placed.clusters, cluster);
    while (cluster < end) {
        put_entry(fat, block, cluster + 2, 0x0FFFFFF7u, data);
        cluster = slate_bad_cluster(fat->bad, &placed.clusters, cluster + 1);
    }
}

/* The chains of files and folders, which are in a row. */
static void put_chains(const struct slate_fat *fat, uint64_t block,
                       uint8_t *data)
{
    uint32_t cluster;
    uint64_t end;
    bool goes_on;

    clusters_in(fat, block, &cluster, &end);
    for (; cluster < end && cluster < fat->reach; cluster++) {
        if (slate_files_holds(fat->files, cluster, &goes_on))
            put_entry(fat, block, cluster + 2,
                      goes_on ? cluster + 3 : 0x0FFFFFFFu, data);
    }
}

/* Entries 0 and 1 tell the medium and "closed cleanly"; in FAT32 one more ends
 * the root directory's chain (specification 1.03, 4.2). */
static void put_table(const struct slate_fat *fat, uint64_t block,
                      uint8_t *data)
{
    put_entry(fat, block, 0, 0x0FFFFF00u | MEDIUM_FIXED, data);
    put_entry(fat, block, 1, 0x0FFFFFFFu, data);
    if (fat->files != NULL)
        put_chains(fat, block, data);
    else if (fat->bits == 32)
        put_entry(fat, block, fat->root_cluster, 0x0FFFFFFFu, data);
    if (fat->bad_clusters > 0)
        put_bad(fat, block, data);
}

/* block: of the root directory */
static void put_root(const struct slate_fat *fat, uint64_t block, uint8_t *data)
{
    uint32_t entries = fat->block_bytes / SLATE_FAT_ENTRY_BYTES;
    struct slate_placed placed;

    if (fat->files != NULL) {
        slate_fat_placed(fat, &placed);
        slate_folder_put(&placed, 0, (uint32_t)block * entries, entries, data);
    } else if (block == 0 && fat->label[0] != '\0') {
        slate_fat_put_label_entry(data, fat->label, &fat->stamp);
    }
}

/* data: the block, zeroed. */
static void put_block(const void *plan, uint64_t block, uint8_t *data)
{
    const struct slate_fat *fat = plan;
    uint64_t copy = fat->reserved_blocks + (uint64_t)fat->fat_blocks;

    if (block == 0)
        put_boot(fat, data);
    else if (fat->bits == 32 && block < SLATE_FAT32_RESERVED)
        put_reserved(fat, block, data);
    else if (block >= copy && block < behind_tables(fat))
        put_table(fat, block - copy, data);
    else if (block >= fat->reserved_blocks && block < copy)
        put_table(fat, block - fat->reserved_blocks, data);
    else if (block >= root_at(fat) && block < root_at(fat) + root_blocks(fat))
        put_root(fat, block - root_at(fat), data);
}

enum slate_status slate_fat_fill(const void *plan, uint64_t first,
                                 uint32_t count, void *data)
{
    const struct slate_fat *fat = plan;
    struct slate_placed placed;

    slate_fat_placed(fat, &placed);
    if (slate_files_own(&placed, first))
        return slate_files_fill(&placed, first, count, data);
    slate_blocks_fill(plan, put_block, first - fat->first, count,
                      fat->block_bytes, data);
    return SLATE_OK;
}

void slate_fat_figures(const union slate_volume_plan *plan,
                       struct slate_figures *figures)
{
    const struct slate_fat *fat = (const void *)plan;

    memset(figures, 0, sizeof *figures);
    memcpy(figures->label, fat->label, sizeof fat->label);
    figures->serial = fat->serial;
    figures->cluster_bytes = fat->cluster_blocks * fat->block_bytes;
    figures->clusters = fat->clusters;
    figures->clusters_at =
        fat->reserved_blocks + 2 * fat->fat_blocks + fat->root_blocks;
    /* FAT32's root directory takes clusters */
    figures->room_bytes =
        (uint64_t)(fat->clusters - fat->used_clusters - fat->bad_clusters) *
        figures->cluster_bytes;
    figures->bad_clusters = fat->bad_clusters;
    figures->placed_clusters = fat->used_clusters - fat->root_clusters;
    figures->file_most = figures->room_bytes < SLATE_FAT_FILE_MOST
                             ? figures->room_bytes
                             : SLATE_FAT_FILE_MOST;
    figures->whole.first = fat->first;
    figures->whole.count = fat->blocks;
}
