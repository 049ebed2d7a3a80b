/* SPDX-License-Identifier: MIT */
/* Reading the MBR into the layout model, and checking a layout. */
#include <string.h>

#include "base/bytes.h"
#include "base/zero.h"
#include "table/gpt.h"

#define ENTRIES_AT 446
#define ENTRY_BYTES 16
#define ENTRY_COUNT 4
#define SIGNATURE_AT 510

static const uint8_t *entry_of(const uint8_t *block, uint32_t slot)
{
    return block + ENTRIES_AT + (size_t)slot * ENTRY_BYTES;
}

static bool entry_is_empty(const uint8_t *entry)
{
    return entry[4] == 0 || slate_le32(entry + 12) == 0;
}

/* A boot block of a FAT volume ends in the same signature; it differs by its
 * jump and by block sizes that make sense, and its "entries" are code. */
static bool looks_like_boot_block(const uint8_t *block)
{
    uint16_t bytes = slate_le16(block + 11);

    return (block[0] == 0xEB || block[0] == 0xE9) && bytes >= 512 &&
           bytes <= 4096 && (bytes & (bytes - 1)) == 0 && block[13] != 0 &&
           (block[13] & (block[13] - 1)) == 0 && slate_le16(block + 14) != 0;
}

static bool entries_make_sense(const uint8_t *block, bool strict)
{
    bool any = false;

    for (uint32_t slot = 0; slot < ENTRY_COUNT; slot++) {
        const uint8_t *entry = entry_of(block, slot);

        if (entry[0] != 0x00 && entry[0] != 0x80)
            return false;
        if (entry_is_empty(entry)) {
            if (strict && !slate_is_zero(entry, ENTRY_BYTES))
                return false;
            continue;
        }
        if (strict && slate_le32(entry + 8) == 0)
            return false;
        any = true;
    }
    return any || !strict;
}

static bool is_mbr(const uint8_t *block)
{
    return slate_le16(block + SIGNATURE_AT) == 0xAA55 &&
           entries_make_sense(block, looks_like_boot_block(block));
}

static void take_entry(struct slate_layout *layout, const uint8_t *entry,
                       uint32_t slot)
{
    struct slate_partition *partition;

    if (entry_is_empty(entry))
        return;
    if (entry[4] == SLATE_MBR_PROTECTIVE)
        layout->protective = true;
    layout->found++;
    if (layout->count == layout->room)
        return;
    partition = &layout->partition[layout->count++];
    memset(partition, 0, sizeof *partition);
    partition->slot = slot;
    partition->active = entry[0] == 0x80;
    partition->mbr_type = entry[4];
    partition->first = slate_le32(entry + 8);
    partition->count = slate_le32(entry + 12);
}

static void take_mbr(struct slate_layout *layout, const uint8_t *block)
{
    layout->kind = SLATE_TABLE_MBR;
    layout->disk_signature = slate_le32(block + 440);
    layout->boot_code = !slate_is_zero(block, 440);
    for (uint32_t slot = 0; slot < ENTRY_COUNT; slot++)
        take_entry(layout, entry_of(block, slot), slot);
}

enum slate_status slate_layout_read(struct slate_media *media, void *work,
                                    struct slate_layout *layout)
{
    struct slate_partition *partition = layout->partition;
    uint32_t room = layout->room;
    enum slate_status status;

    memset(layout, 0, sizeof *layout);
    layout->partition = partition;
    layout->room = room;
    status = slate_media_read(media, 0, 1, work);
    if (status != SLATE_OK)
        return status;
    if (is_mbr(work))
        take_mbr(layout, work);
    return slate_gpt_read(media, work, layout);
}

static uint64_t end_of(const struct slate_partition *partition)
{
    return partition->count > UINT64_MAX - partition->first
               ? UINT64_MAX
               : partition->first + partition->count;
}

static bool overlap(const struct slate_partition *a,
                    const struct slate_partition *b)
{
    return a->first < end_of(b) && b->first < end_of(a);
}

unsigned slate_layout_check(const struct slate_layout *layout,
                            uint64_t block_count)
{
    unsigned odd = 0, active = 0;

    for (uint32_t i = 0; i < layout->count; i++) {
        const struct slate_partition *one = &layout->partition[i];

        if (end_of(one) > block_count)
            odd |= SLATE_LAYOUT_BEYOND_END;
        active += one->active ? 1u : 0u;
        for (uint32_t j = 0; j < i; j++) {
            if (overlap(one, &layout->partition[j]))
                odd |= SLATE_LAYOUT_OVERLAP;
        }
    }
    return active > 1 ? odd | SLATE_LAYOUT_TWO_ACTIVE : odd;
}

uint64_t slate_layout_end(const struct slate_layout *layout,
                          uint64_t block_count)
{
    uint64_t end = 0;

    for (uint32_t i = 0; i < layout->count; i++) {
        uint64_t mine = end_of(&layout->partition[i]);

        if (mine > end)
            end = mine;
    }
    return end < block_count ? end : block_count;
}
