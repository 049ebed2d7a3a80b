/* SPDX-License-Identifier: MIT */
/* How a partition's type tells of its volume: MBR types as hosts use them. */
#include "draft/place/types.h"

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
    case SLATE_VOLUME_EXFAT:
    case SLATE_VOLUME_NTFS:
        return SLATE_MBR_EXFAT;
    case SLATE_VOLUME_EXT4:
        return SLATE_MBR_LINUX;
    case SLATE_VOLUME_FAT32:
    default:
        return slate_draft_is_by_cylinder(draft, end) ? SLATE_MBR_FAT32
                                                      : SLATE_MBR_FAT32_LBA;
    }
}

static const struct slate_guid efi_system = {
    {0x28, 0x73, 0x2A, 0xC1, 0x1F, 0xF8, 0xD2, 0x11, 0xBA, 0x4B, 0x00, 0xA0,
     0xC9, 0x3E, 0xC9, 0x3B}};
static const struct slate_guid linux_data = {
    {0xAF, 0x3D, 0xC6, 0x0F, 0x83, 0x84, 0x72, 0x47, 0x8E, 0x79, 0x3D, 0x69,
     0xD8, 0x47, 0x7D, 0xE4}};

const struct slate_guid *slate_draft_gpt_type_of(enum slate_volume_kind kind)
{
    return kind == SLATE_VOLUME_EXT4 ? &linux_data : &slate_basic_data;
}

const struct slate_guid *slate_draft_gpt_type(const struct slate_draft *draft,
                                              uint32_t part)
{
    const struct slate_format *format = draft->part[part].format;

    if (format != NULL && part == 0 && !draft->switched &&
        draft->goal.use == SLATE_USE_STARTUP &&
        format->kind <= SLATE_VOLUME_FAT32)
        return &efi_system;
    return slate_draft_gpt_type_of(format == NULL ? SLATE_VOLUME_NONE
                                                  : format->kind);
}
