/* SPDX-License-Identifier: MIT */
/* FAT12, FAT16 and FAT32: their rows. */
#include "volume/fat/fat.h"

static const struct slate_family family = {
    .words = "FAT", .judge = slate_fat_read, SLATE_FAMILY_PARTS(slate_fat)};

#define FAT_FORMAT(bits)                                                       \
    {                                                                          \
        SLATE_FORMAT_ROW(slate_fat, "fat" #bits),                              \
            .kind = SLATE_VOLUME_FAT##bits, .plan = slate_fat##bits##_plan,    \
            .limits = slate_fat##bits##_limits,                                \
            .label_rule = "keeps 11 upper-case characters of ASCII",           \
            .files = true                                                      \
    }

static const struct slate_format fat12 = FAT_FORMAT(12);
static const struct slate_format fat16 = FAT_FORMAT(16);
static const struct slate_format fat32 = FAT_FORMAT(32);

/* As far as FAT12 and the first FAT16 type were meant to go: 32 MiB. */
#define SMALL_BLOCKS 65536u

static uint8_t fat12_type(const struct slate_reach *reach)
{
    return reach->whole ? SLATE_MBR_FAT12 : SLATE_MBR_FAT16_LBA;
}

static uint8_t fat16_type(const struct slate_reach *reach)
{
    if (!reach->whole)
        return SLATE_MBR_FAT16_LBA;
    return reach->blocks < SMALL_BLOCKS ? SLATE_MBR_FAT16_SMALL
                                        : SLATE_MBR_FAT16;
}

static uint8_t fat32_type(const struct slate_reach *reach)
{
    return reach->by_cylinder ? SLATE_MBR_FAT32 : SLATE_MBR_FAT32_LBA;
}

/* Hosts tell the three apart by themselves, whatever the type; those from 11h
 * on are hidden. */
#define FAT_TYPES                                                              \
    0x01, 0x04, 0x06, 0x0B, 0x0C, 0x0E, 0x11, 0x14, 0x16, 0x1B, 0x1C, 0x1E,    \
        SLATE_MBR_EFI_SYSTEM

#define FAT_ROW(bits, usual, is_flagged)                                       \
    {                                                                          \
        .words = "FAT" #bits, .family = &family, .format = &fat##bits,         \
        .mbr = {usual, FAT_TYPES},                                             \
        .gpt = {&slate_basic_data, &slate_efi_data},                           \
        .mbr_type = fat##bits##_type, .known = true, .tells_block = true,      \
        .flagged = (is_flagged), .sought = true                                \
    }

const struct slate_kind slate_kind_fat12 =
    FAT_ROW(12, SLATE_MBR_FAT16_LBA, false);
const struct slate_kind slate_kind_fat16 =
    FAT_ROW(16, SLATE_MBR_FAT16_LBA, true);
const struct slate_kind slate_kind_fat32 =
    FAT_ROW(32, SLATE_MBR_FAT32_LBA, true);
