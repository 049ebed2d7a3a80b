/* SPDX-License-Identifier: MIT */
/* Reading the MBR and the chain of its logical partitions. */

#include "base/base.h"
#include "table/table.h"

static const uint8_t *entry_of(const uint8_t *block, uint32_t slot)
{
    return block + SLATE_MBR_ENTRIES + (size_t)slot * SLATE_MBR_ENTRY_BYTES;
}

static bool entry_is_empty(const uint8_t *entry)
{
    return entry[SLATE_MBR_ENTRY_TYPE] == 0 ||
           slate_le32(entry + SLATE_MBR_ENTRY_COUNT) == 0;
}

static void take_entry(const uint8_t *entry, struct slate_mbr_entry *to)
{
    if (entry_is_empty(entry))
        return;
    to->boot = entry[SLATE_MBR_ENTRY_BOOT];
    to->type = entry[SLATE_MBR_ENTRY_TYPE];
    memcpy(to->chs_first, entry + SLATE_MBR_ENTRY_CHS_FIRST, 3);
    memcpy(to->chs_last, entry + SLATE_MBR_ENTRY_CHS_LAST, 3);
    to->first = slate_le32(entry + SLATE_MBR_ENTRY_FIRST);
    to->count = slate_le32(entry + SLATE_MBR_ENTRY_COUNT);
}

/* A boot block of a FAT volume ends in the same signature; it differs by its
 * jump and by block sizes that make sense, and its "entries" are code. */
static bool looks_like_boot_block(const uint8_t *block)
{
    uint16_t bytes = slate_le16(block + 11);

    return (block[0] == 0xEB || block[0] == 0xE9) && bytes >= 512 &&
           bytes <= 4096 && slate_is_power_of_two(bytes) &&
           slate_is_power_of_two(block[13]) && slate_le16(block + 14) != 0;
}

bool slate_block_begins_volume(const uint8_t *block)
{
    return looks_like_boot_block(block) ||
           memcmp(block + 3, "EXFAT   ", 8) == 0 ||
           memcmp(block + 3, "NTFS    ", 8) == 0 ||
           memcmp(block + 3, "-FVE-FS-", 8) == 0;
}

static bool entries_make_sense(const uint8_t *block, bool strict)
{
    bool any = false;

    for (uint32_t slot = 0; slot < SLATE_MBR_PRIMARIES; slot++) {
        const uint8_t *entry = entry_of(block, slot);

        if (entry[SLATE_MBR_ENTRY_BOOT] != 0x00 &&
            entry[SLATE_MBR_ENTRY_BOOT] != SLATE_MBR_ACTIVE)
            return false;
        if (entry_is_empty(entry)) {
            if (strict && !slate_is_zero(entry, SLATE_MBR_ENTRY_BYTES))
                return false;
            continue;
        }
        if (strict && slate_le32(entry + SLATE_MBR_ENTRY_FIRST) == 0)
            return false;
        any = true;
    }
    return any || !strict;
}

static bool is_signed(const uint8_t *block)
{
    return slate_le16(block + SLATE_MBR_SIGNATURE) == SLATE_MBR_SIGNATURE_VALUE;
}

void slate_mbr_read(const uint8_t *block, struct slate_layout *layout)
{
    uint32_t others = 0;

    /* code where entries would be is told by what empty ones hold */
    bool strict = slate_block_begins_volume(block) || block[0] == 0xEB ||
                  block[0] == 0xE9;

    if (!is_signed(block) || !entries_make_sense(block, strict))
        return;
    layout->kind = SLATE_TABLE_MBR;
    layout->mbr_signed = true;
    layout->disk_signature = slate_le32(block + SLATE_MBR_DISK_SIGNATURE);
    layout->boot_code = !slate_is_zero(block, SLATE_MBR_DISK_SIGNATURE);
    for (uint32_t slot = 0; slot < SLATE_MBR_PRIMARIES; slot++) {
        struct slate_mbr_entry *entry = &layout->mbr[slot];

        take_entry(entry_of(block, slot), entry);
        if (entry->type == SLATE_MBR_PROTECTIVE)
            layout->protective = true;
        else if (entry->type != 0)
            others++;
    }
    layout->hybrid = layout->protective ? others : 0;
}

/* One walk along the logical partitions of one container. */
struct chain {
    uint64_t container, container_end;
    uint64_t at;
    uint32_t links;
    uint32_t seen[SLATE_CHAIN_LINKS]; /* from the container on: 32 bits, as an
                                         entry has it */
};

static void end_chain(struct slate_layout *layout, const struct chain *chain,
                      enum slate_chain how)
{
    if (layout->chain != SLATE_CHAIN_WHOLE)
        return; /* the first one is told */
    layout->chain = how;
    layout->chain_lba = chain->at;
}

/* May the chain go on at its present block? */
static bool may_follow(const struct slate_media *media, struct chain *chain,
                       struct slate_layout *layout)
{
    if (chain->at >= media->geometry.block_count) {
        end_chain(layout, chain, SLATE_CHAIN_BROKEN);
        return false;
    }
    for (uint32_t i = 0; i < chain->links; i++) {
        if (chain->seen[i] == chain->at - chain->container) {
            end_chain(layout, chain, SLATE_CHAIN_LOOP);
            return false;
        }
    }
    if (chain->links == SLATE_CHAIN_LINKS) {
        end_chain(layout, chain, SLATE_CHAIN_LONG);
        return false;
    }
    chain->seen[chain->links++] = (uint32_t)(chain->at - chain->container);
    return true;
}

/* The third and fourth entry of a link count only when they lie inside. */
static bool is_inside(const struct chain *chain, uint64_t first, uint64_t count)
{
    return first >= chain->container && first <= chain->container_end &&
           count <= chain->container_end - first;
}

/* Takes the partitions of one link; false when it is the last one. */
static bool take_link(struct slate_layout *layout, struct chain *chain,
                      const uint8_t *block, uint32_t *number)
{
    uint64_t next = 0;

    for (uint32_t slot = 0; slot < SLATE_MBR_PRIMARIES; slot++) {
        struct slate_mbr_entry entry = {0};
        struct slate_partition *partition;
        uint64_t first;

        take_entry(entry_of(block, slot), &entry);
        first = chain->at + entry.first;
        if (slate_mbr_is_container(entry.type) && next == 0)
            next = chain->container + entry.first;
        if (entry.type == 0 || slate_mbr_is_container(entry.type) ||
            (slot >= 2 && !is_inside(chain, first, entry.count)))
            continue;
        partition = slate_layout_take(layout, first, entry.count, (*number)++);
        if (partition == NULL)
            continue;
        partition->role = SLATE_ROLE_LOGICAL;
        partition->link = chain->at;
        partition->mbr_type = entry.type;
        partition->active = entry.boot == 0x80;
    }
    chain->at = next;
    return next != 0;
}

static enum slate_status follow_chain(struct slate_media *media, uint8_t *work,
                                      struct slate_layout *layout,
                                      const struct slate_mbr_entry *container,
                                      uint32_t *number)
{
    struct chain chain = {.container = container->first,
                          .container_end =
                              (uint64_t)container->first + container->count,
                          .at = container->first};
    bool more = true;

    while (more && may_follow(media, &chain, layout)) {
        SLATE_TRY(slate_media_read(media, chain.at, 1, work));
        if (!is_signed(work)) {
            end_chain(layout, &chain, SLATE_CHAIN_BROKEN);
            return SLATE_OK;
        }
        more = take_link(layout, &chain, work, number);
    }
    return SLATE_OK;
}

enum slate_status slate_mbr_take(struct slate_media *media, uint8_t *work,
                                 struct slate_layout *layout)
{
    enum slate_status status = SLATE_OK;
    uint32_t number = SLATE_FIRST_LOGICAL;

    for (uint32_t slot = 0; slot < SLATE_MBR_PRIMARIES; slot++) {
        const struct slate_mbr_entry *entry = &layout->mbr[slot];
        struct slate_partition *partition;

        if (entry->type == 0)
            continue;
        partition =
            slate_layout_take(layout, entry->first, entry->count, slot + 1);
        if (partition == NULL)
            continue;
        partition->mbr_type = entry->type;
        partition->active = entry->boot == 0x80;
        if (slate_mbr_is_container(entry->type))
            partition->role = SLATE_ROLE_EXTENDED;
    }
    for (uint32_t slot = 0; slot < SLATE_MBR_PRIMARIES && status == SLATE_OK;
         slot++) {
        if (slate_mbr_is_container(layout->mbr[slot].type))
            status =
                follow_chain(media, work, layout, &layout->mbr[slot], &number);
    }
    return status;
}
