/* SPDX-License-Identifier: MIT */
/* How a partition's type tells of its volume: MBR types as hosts use them. */
#include "draft/types.h"

/* What cylinder, head and sector can address with 255 heads and 63 sectors. */
#define CHS_BLOCKS ((uint64_t)1024 * 255 * 63)
/* As far as FAT12 and the first FAT16 type were meant to go: 32 MiB. */
#define SMALL_BLOCKS 65536u

uint8_t slate_draft_mbr_type(const struct slate_part *part)
{
    uint64_t end = part->range.first + part->range.count;

    if (part->format == NULL)
        return SLATE_MBR_LINUX;
    switch (part->format->kind) {
    case SLATE_VOLUME_FAT12:
        return end <= CHS_BLOCKS ? SLATE_MBR_FAT12 : SLATE_MBR_FAT16_LBA;
    case SLATE_VOLUME_FAT16:
        if (end > CHS_BLOCKS)
            return SLATE_MBR_FAT16_LBA;
        return part->range.count < SMALL_BLOCKS ? SLATE_MBR_FAT16_SMALL
                                                : SLATE_MBR_FAT16;
    case SLATE_VOLUME_FAT32:
    default:
        return SLATE_MBR_FAT32_LBA;
    }
}
