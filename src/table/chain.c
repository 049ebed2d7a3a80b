/* SPDX-License-Identifier: MIT */
/* The chain of logical partitions in the image of an MBR. */

#include "base/base.h"
#include "table/table.h"

/* Of the container; 0: there is none, or more than one. */
static uint32_t container_slot(const struct slate_table_plan *plan,
                               uint8_t entry[SLATE_MBR_ENTRY_BYTES])
{
    uint8_t one[SLATE_MBR_ENTRY_BYTES];
    uint32_t number = 0;

    for (uint32_t slot = 0; slot < SLATE_MBR_PRIMARIES; slot++) {
        slate_image_copy(
            plan, SLATE_MBR_ENTRIES + (uint64_t)slot * SLATE_MBR_ENTRY_BYTES,
            sizeof one, one);
        if (!slate_mbr_is_container(one[SLATE_MBR_ENTRY_TYPE]))
            continue;
        if (number != 0)
            return 0;
        number = slot + 1;
        memcpy(entry, one, sizeof one);
    }
    return number;
}

uint32_t slate_table_image_container(const struct slate_table_plan *plan,
                                     struct slate_range *range)
{
    uint8_t entry[SLATE_MBR_ENTRY_BYTES] = {0};
    uint32_t number =
        plan->kind == SLATE_TABLE_MBR ? container_slot(plan, entry) : 0;

    range->first = slate_le32(entry + SLATE_MBR_ENTRY_FIRST);
    range->count = slate_le32(entry + SLATE_MBR_ENTRY_COUNT);
    return number;
}

uint32_t slate_image_links(const struct slate_table_plan *plan)
{
    uint32_t blocks = plan->image_bytes / plan->block_bytes +
                      (plan->image_bytes % plan->block_bytes != 0 ? 1u : 0u);

    return plan->kind == SLATE_TABLE_MBR && blocks > 1 ? blocks - 1 : 0;
}

bool slate_table_image_holds_links(const struct slate_table_plan *plan)
{
    return slate_image_links(plan) > 0;
}

static uint64_t block_of(const struct slate_table_plan *plan, uint32_t index)
{
    return (uint64_t)(index + 1) * plan->block_bytes;
}

/* Where the second entry of a link leads: from the container on. */
static uint64_t next_of(const struct slate_table_plan *plan, uint32_t index,
                        uint64_t container)
{
    uint8_t entry[SLATE_MBR_ENTRY_BYTES];

    slate_image_copy(
        plan, block_of(plan, index) + SLATE_MBR_ENTRIES + SLATE_MBR_ENTRY_BYTES,
        sizeof entry, entry);
    return slate_mbr_is_container(entry[SLATE_MBR_ENTRY_TYPE])
               ? container + slate_le32(entry + SLATE_MBR_ENTRY_FIRST)
               : 0;
}

void slate_image_link(const struct slate_table_plan *plan, uint32_t index,
                      struct slate_image_link *link)
{
    struct slate_range container;
    uint8_t entry[SLATE_MBR_ENTRY_BYTES];

    (void)slate_table_image_container(plan, &container);
    slate_image_copy(plan, block_of(plan, index) + SLATE_MBR_ENTRIES,
                     sizeof entry, entry);
    link->lba = index == 0 ? container.first
                           : next_of(plan, index - 1, container.first);
    link->first = link->lba + slate_le32(entry + SLATE_MBR_ENTRY_FIRST);
    link->count = entry[SLATE_MBR_ENTRY_TYPE] == 0
                      ? 0
                      : slate_le32(entry + SLATE_MBR_ENTRY_COUNT);
    link->next = next_of(plan, index, container.first);
}

uint32_t slate_image_link_at(const struct slate_table_plan *plan, uint64_t lba)
{
    uint32_t low = 0, links = slate_image_links(plan), high = links;
    struct slate_image_link link;

    while (low < high) {
        uint32_t middle = low + (high - low) / 2;

        slate_image_link(plan, middle, &link);
        if (link.lba < lba)
            low = middle + 1;
        else
            high = middle;
    }
    if (low == links)
        return links;
    slate_image_link(plan, low, &link);
    return link.lba == lba ? low : links;
}

/* Either of both counts for some hosts. */
static bool is_whole(const uint8_t *entry)
{
    return (entry[SLATE_MBR_ENTRY_TYPE] == 0) ==
           (slate_le32(entry + SLATE_MBR_ENTRY_COUNT) == 0);
}

/* Nothing but one partition and the way to the next link. */
static bool block_is_plain(const struct slate_table_plan *plan, uint32_t index)
{
    uint8_t block[SLATE_PIECE_BYTES];
    const uint8_t *entry = block + SLATE_MBR_ENTRIES;
    const uint8_t *next = entry + SLATE_MBR_ENTRY_BYTES;

    slate_image_copy(plan, block_of(plan, index), sizeof block, block);
    return slate_le16(block + SLATE_MBR_SIGNATURE) ==
               SLATE_MBR_SIGNATURE_VALUE &&
           !slate_mbr_is_container(entry[SLATE_MBR_ENTRY_TYPE]) &&
           is_whole(entry) && is_whole(next) &&
           (next[SLATE_MBR_ENTRY_TYPE] == 0 ||
            slate_mbr_is_container(next[SLATE_MBR_ENTRY_TYPE])) &&
           slate_is_zero(next + SLATE_MBR_ENTRY_BYTES,
                         2 * (size_t)SLATE_MBR_ENTRY_BYTES);
}

bool slate_image_chain_is_sound(const struct slate_table_plan *plan)
{
    uint32_t links = slate_image_links(plan);
    struct slate_range container;
    uint64_t reached, end;

    if (links == 0)
        return true;
    if (slate_table_image_container(plan, &container) == 0 ||
        container.first == 0 || links > SLATE_CHAIN_LINKS)
        return false;
    reached = container.first;
    end = container.first + container.count;
    for (uint32_t i = 0; i < links; i++) {
        struct slate_image_link link;

        slate_image_link(plan, i, &link);
        if (!block_is_plain(plan, i) || link.lba < reached || link.lba >= end ||
            (link.count == 0 && i > 0) || (link.next == 0) != (i + 1 == links))
            return false;
        reached = link.lba + 1;
        if (link.count == 0)
            continue;
        if (link.first <= link.lba || link.first >= end ||
            link.count > end - link.first)
            return false;
        reached = link.first + link.count;
    }
    return end <= plan->block_count;
}

/* Of the first logical partition: the head of the chain may have none. */
static uint32_t first_index(const struct slate_table_plan *plan)
{
    struct slate_image_link head;

    slate_image_link(plan, 0, &head);
    return head.count == 0 ? 1 : 0;
}

bool slate_table_image_logical(const struct slate_table_plan *plan,
                               uint32_t number, struct slate_partition *logical)
{
    uint32_t links = slate_image_links(plan);
    struct slate_image_link link;
    uint64_t index;

    if (links == 0 || number < SLATE_FIRST_LOGICAL)
        return false;
    index = (uint64_t)number - SLATE_FIRST_LOGICAL + first_index(plan);
    if (index >= links)
        return false;
    slate_image_link(plan, (uint32_t)index, &link);
    memset(logical, 0, sizeof *logical);
    logical->role = SLATE_ROLE_LOGICAL;
    logical->number = number;
    logical->link = link.lba;
    logical->first = link.first;
    logical->count = link.count;
    return true;
}

bool slate_table_image_block(const struct slate_table_plan *plan,
                             uint32_t index, uint64_t *lba)
{
    struct slate_range container;
    uint32_t number = slate_table_image_container(plan, &container);

    *lba = container.first;
    if (number == 0 || index > slate_image_links(plan))
        return false;
    if (index > 0)
        *lba = next_of(plan, index - 1, container.first);
    return *lba != 0 && index < SLATE_CHAIN_LINKS;
}
