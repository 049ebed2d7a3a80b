/* SPDX-License-Identifier: MIT */
/* Composing FAT32: any piece of any block from the plan alone. */
#include <string.h>

#include "base/bytes.h"
#include "volume/fat.h"

#define INFO_BLOCK 1u
#define THIRD_BLOCK 2u
#define BACKUP_BLOCK 6u
#define MEDIUM_FIXED 0xF8u

bool slate_fat32_extent(const struct slate_fat32 *fat, uint32_t index,
                        struct slate_extent *extent)
{
    uint64_t table = fat->first + fat->reserved_blocks;
    uint64_t copy = table + fat->fat_blocks;
    const struct slate_extent all[] = {
        {fat->first + 1, SLATE_FAT32_RESERVED - 1, SLATE_PURPOSE_RESERVED},
        {copy, fat->fat_blocks, SLATE_PURPOSE_FAT_COPY},
        {table, fat->fat_blocks, SLATE_PURPOSE_FAT},
        {copy + fat->fat_blocks, fat->cluster_blocks, SLATE_PURPOSE_ROOT},
        {fat->first, 1, SLATE_PURPOSE_BOOT}};

    if (index >= sizeof all / sizeof all[0])
        return false;
    *extent = all[index];
    return true;
}

/* A label fills its field with spaces. */
static void put_label(uint8_t *field, const char *label)
{
    size_t length = strlen(label);

    memset(field, ' ', 11);
    memcpy(field, label, length < 11 ? length : 11);
}

static void boot_piece(const struct slate_fat32 *fat, uint8_t *piece)
{
    /* Jump over the fields; then ask the firmware for the next device. */
    static const uint8_t jump[] = {0xEB, 0x58, 0x90};
    static const uint8_t code[] = {0xCD, 0x18, 0xF4, 0xEB, 0xFD};

    memcpy(piece, jump, sizeof jump);
    memcpy(piece + 3, "TRUSLATE", 8);
    slate_put_le16(piece + SLATE_FAT_BYTES_PER_BLOCK,
                   (uint16_t)fat->block_bytes);
    piece[SLATE_FAT_BLOCKS_PER_CLUSTER] = (uint8_t)fat->cluster_blocks;
    slate_put_le16(piece + SLATE_FAT_RESERVED_BLOCKS,
                   (uint16_t)fat->reserved_blocks);
    piece[SLATE_FAT_TABLES] = 2;
    piece[SLATE_FAT_MEDIUM] = MEDIUM_FIXED;
    slate_put_le16(piece + SLATE_FAT_TRACK_SECTORS, 63);
    slate_put_le16(piece + SLATE_FAT_HEADS, 255);
    slate_put_le32(piece + SLATE_FAT_HIDDEN_BLOCKS, (uint32_t)fat->first);
    slate_put_le32(piece + SLATE_FAT_BLOCKS_32, fat->blocks);
    slate_put_le32(piece + SLATE_FAT32_TABLE_BLOCKS, fat->fat_blocks);
    slate_put_le32(piece + SLATE_FAT32_ROOT_CLUSTER, 2);
    slate_put_le16(piece + SLATE_FAT32_INFO_BLOCK, INFO_BLOCK);
    slate_put_le16(piece + SLATE_FAT32_BACKUP_BLOCK, BACKUP_BLOCK);
    piece[SLATE_FAT32_DRIVE] = 0x80;
    piece[SLATE_FAT32_EXTENDED] = 0x29;
    slate_put_le32(piece + SLATE_FAT32_SERIAL, fat->serial);
    if (fat->label[0] != '\0')
        put_label(piece + SLATE_FAT32_LABEL, fat->label);
    else
        memcpy(piece + SLATE_FAT32_LABEL, SLATE_FAT_NO_LABEL, 11);
    memcpy(piece + SLATE_FAT32_KIND, "FAT32   ", 8);
    memcpy(piece + SLATE_FAT32_CODE, code, sizeof code);
    slate_put_le16(piece + SLATE_FAT_SIGNATURE, 0xAA55);
}

static void info_piece(const struct slate_fat32 *fat, uint8_t *piece)
{
    slate_put_le32(piece + SLATE_FAT_INFO_LEAD, SLATE_FAT_INFO_LEAD_VALUE);
    slate_put_le32(piece + SLATE_FAT_INFO_MIDDLE, SLATE_FAT_INFO_MIDDLE_VALUE);
    slate_put_le32(piece + SLATE_FAT_INFO_FREE, fat->clusters - 1);
    slate_put_le32(piece + SLATE_FAT_INFO_NEXT, 3);
    slate_put_le32(piece + SLATE_FAT_INFO_TAIL, SLATE_FAT_INFO_TAIL_VALUE);
}

static void reserved_piece(const struct slate_fat32 *fat, uint64_t block,
                           uint8_t *piece)
{
    uint64_t role = block >= BACKUP_BLOCK ? block - BACKUP_BLOCK : block;

    if (role == 0)
        boot_piece(fat, piece);
    else if (role == INFO_BLOCK)
        info_piece(fat, piece);
    else if (role == THIRD_BLOCK)
        slate_put_le16(piece + SLATE_FAT_SIGNATURE, 0xAA55);
}

/* Entries 0 and 1 tell the medium and "closed cleanly"; entry 2 ends the root
 * directory's chain (specification 1.03, 4.2). */
static void table_piece(uint8_t *piece)
{
    slate_put_le32(piece, 0x0FFFFF00u | MEDIUM_FIXED);
    slate_put_le32(piece + 4, 0x0FFFFFFF);
    slate_put_le32(piece + 8, 0x0FFFFFFF);
}

static uint16_t fat_date(const struct slate_stamp *stamp)
{
    if (stamp->month == 0)
        return 1 << 5 | 1; /* 1980-01-01 */
    return (uint16_t)((stamp->year - 1980) << 9 | stamp->month << 5 |
                      stamp->day);
}

static uint16_t fat_time(const struct slate_stamp *stamp)
{
    if (stamp->month == 0)
        return 0;
    return (uint16_t)(stamp->hour << 11 | stamp->minute << 5 |
                      stamp->second / 2);
}

static void root_piece(const struct slate_fat32 *fat, uint8_t *piece)
{
    if (fat->label[0] == '\0')
        return;
    put_label(piece, fat->label);
    piece[11] = SLATE_FAT_LABEL_ATTRIBUTE;
    slate_put_le16(piece + 22, fat_time(&fat->stamp));
    slate_put_le16(piece + 24, fat_date(&fat->stamp));
}

void slate_fat32_piece(const struct slate_fat32 *fat, uint64_t lba,
                       uint32_t offset, uint8_t *piece)
{
    uint64_t block = lba - fat->first;
    uint64_t copy = fat->reserved_blocks + (uint64_t)fat->fat_blocks;

    memset(piece, 0, SLATE_PIECE_BYTES);
    if (offset != 0)
        return;
    if (block < SLATE_FAT32_RESERVED)
        reserved_piece(fat, block, piece);
    else if (block == fat->reserved_blocks || block == copy)
        table_piece(piece);
    else if (block == copy + fat->fat_blocks)
        root_piece(fat, piece);
}
