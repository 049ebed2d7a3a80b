/* SPDX-License-Identifier: MIT */
/* How a partition's type tells of its volume: MBR types as hosts use them. */
#include "draft/place/place.h"

#include "table/table.h"
#include "volume/common/common.h"

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
    const struct slate_reach reach = {is_in_reach(draft, end),
                                      slate_draft_is_by_cylinder(draft, end),
                                      part->range.count};
    const struct slate_kind *kind;

    if (part->format == NULL)
        return SLATE_MBR_LINUX;
    kind = slate_kind_of(part->format->kind);
    return kind->mbr_type == NULL ? kind->mbr[0] : kind->mbr_type(&reach);
}

/* Firmware starts from FAT. */
const struct slate_guid *slate_draft_gpt_type(const struct slate_draft *draft,
                                              uint32_t part)
{
    const struct slate_format *format = draft->part[part].format;

    if (format != NULL && part == 0 && !draft->switched &&
        draft->goal.use == SLATE_USE_STARTUP &&
        slate_kind_is_akin(format->kind, SLATE_VOLUME_FAT32))
        return &slate_efi_data;
    return slate_gpt_type_for(format == NULL ? SLATE_VOLUME_NONE
                                             : format->kind);
}
