/* SPDX-License-Identifier: MIT */
/* Reading a table of any kind into the layout model. */

#include "base/base.h"
#include "table/table.h"

void slate_layout_empty(struct slate_layout *layout)
{
    layout->count = 0;
    layout->found = 0;
    layout->end = 0;
}

struct slate_partition *slate_layout_take(struct slate_layout *layout,
                                          uint64_t first, uint64_t count,
                                          uint32_t number)
{
    uint64_t end = count > UINT64_MAX - first ? UINT64_MAX : first + count;
    struct slate_partition *partition;

    layout->found++;
    if (end > layout->end)
        layout->end = end;
    if (layout->count == layout->room)
        return NULL;
    partition = &layout->partition[layout->count++];
    memset(partition, 0, sizeof *partition);
    partition->first = first;
    partition->count = count;
    partition->number = number;
    return partition;
}

/* No protective entry, and nothing else that block 0 would stand for: then a
 * sound GPT behind it has merely lost its protection. */
static bool is_bare(const struct slate_layout *layout, const uint8_t *block)
{
    for (int i = 0; i < 4; i++) {
        if (layout->mbr[i].type != 0)
            return false;
    }
    return layout->kind <= SLATE_TABLE_MBR && !slate_block_begins_volume(block);
}

enum slate_status slate_layout_read(struct slate_media *media, void *work,
                                    struct slate_layout *layout)
{
    struct slate_partition *partition = layout->partition;
    uint32_t room = layout->room;
    bool wanted, glance = layout->glance;

    memset(layout, 0, sizeof *layout);
    layout->partition = partition;
    layout->room = room;
    layout->glance = glance;
    SLATE_TRY(slate_media_read(media, 0, 1, work));
    slate_mbr_read(work, layout);
    wanted = layout->protective || is_bare(layout, work);
    if (!layout->mbr_signed)
        SLATE_TRY(slate_other_read(media, work, layout));
    SLATE_TRY(slate_gpt_read(
        media, work, wanted && layout->kind <= SLATE_TABLE_MBR, layout));
    return layout->kind == SLATE_TABLE_MBR ? slate_mbr_take(media, work, layout)
                                           : SLATE_OK;
}
