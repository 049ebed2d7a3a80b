/* SPDX-License-Identifier: MIT */
/* How a partition's type tells of its volume: MBR types as hosts use them. */
#include "draft/types.h"

#include "table/mbr.h"

/* As far as FAT12 and the first FAT16 type were meant to go: 32 MiB. */
#define SMALL_BLOCKS 65536u

/* Does a block lie where cylinder, head and sector reach? */
static bool is_in_reach(const struct slate_draft *draft, uint64_t end)
{
    bool cylinders = draft->grid.heads != 0;
    uint32_t heads = cylinders ? draft->grid.heads : SLATE_CHS_HEADS;
    uint32_t sectors =
        cylinders ? draft->grid.track_sectors : SLATE_CHS_SECTORS;

    return end <= (uint64_t)SLATE_CHS_CYLINDERS * heads * sectors;
}

bool slate_draft_is_by_cylinder(const struct slate_draft *draft, uint64_t end)
{
    return draft->grid.heads != 0 && is_in_reach(draft, end);
}

uint8_t slate_draft_mbr_type(const struct slate_draft *draft,
                             const struct slate_part *part)
{
    uint64_t end = part->range.first + part->range.count;

    if (part->format == NULL)
        return SLATE_MBR_LINUX;
    switch (part->format->kind) {
    case SLATE_VOLUME_FAT12:
        return is_in_reach(draft, end) ? SLATE_MBR_FAT12 : SLATE_MBR_FAT16_LBA;
    case SLATE_VOLUME_FAT16:
        if (!is_in_reach(draft, end))
            return SLATE_MBR_FAT16_LBA;
        return part->range.count < SMALL_BLOCKS ? SLATE_MBR_FAT16_SMALL
                                                : SLATE_MBR_FAT16;
    case SLATE_VOLUME_FAT32:
    default:
        return slate_draft_is_by_cylinder(draft, end) ? SLATE_MBR_FAT32
                                                      : SLATE_MBR_FAT32_LBA;
    }
}
