/* SPDX-License-Identifier: MIT */
/* Changing an MBR: entries of partitions that stay, the code ahead of them and
 * everything else in block 0 are as they were. */

#include "base/base.h"
#include "table/table.h"

enum role {
    ROLE_FIRST,
    ROLE_LINK,    /* new, where nothing valid stands */
    ROLE_CHANGED, /* of the chain as it stands */
};

/* The container of logical partitions that stay as a whole is an entry like
 * any other. */
static bool is_entry(const struct slate_partition *partition)
{
    return partition->number >= 1 && partition->number <= SLATE_MBR_PRIMARIES;
}

static void put_entries(const struct slate_table_plan *plan, uint8_t *block)
{
    uint8_t *entries = block + SLATE_MBR_ENTRIES;

    memset(entries, 0, (size_t)SLATE_MBR_PRIMARIES * SLATE_MBR_ENTRY_BYTES);
    for (uint32_t i = 0; i < plan->count; i++) {
        const struct slate_partition *partition = &plan->partition[i];
        size_t at;

        if (!is_entry(partition) || !slate_edit_shows(plan, partition))
            continue;
        at = SLATE_MBR_ENTRY_BYTES * (size_t)(partition->number - 1);
        if (partition->kept)
            slate_image_copy(plan, SLATE_MBR_ENTRIES + at,
                             SLATE_MBR_ENTRY_BYTES, entries + at);
        else
            slate_mbr_put_entry(plan, partition, entries + at);
    }
}

/* The head of the chain stands in the container's first block; 0: nothing of
 * the chain is changed. */
static uint64_t head_of(const struct slate_table_plan *plan)
{
    struct slate_range container;

    if (slate_image_links(plan) == 0)
        return 0;
    (void)slate_table_image_container(plan, &container);
    return container.first;
}

/* The container, of the chain as it stands or of a new one. */
static uint64_t base_of(const struct slate_table_plan *plan)
{
    for (uint32_t i = 0; i < plan->count; i++) {
        if (plan->partition[i].role == SLATE_ROLE_EXTENDED)
            return plan->partition[i].first;
    }
    return 0;
}

/* The first logical partition in this state whose link is not ahead of a
 * block; NULL: none. Logical ones stand in the order of their links. */
static const struct slate_partition *
shown_from(const struct slate_table_plan *plan, uint64_t lba)
{
    for (uint32_t i = 0; i < plan->count; i++) {
        const struct slate_partition *one = &plan->partition[i];

        if (one->role == SLATE_ROLE_LOGICAL && one->link >= lba &&
            slate_edit_shows(plan, one))
            return one;
    }
    return NULL;
}

/* The partition whose link stands in a block, in this state. */
static const struct slate_partition *
shown_at(const struct slate_table_plan *plan, uint64_t lba)
{
    const struct slate_partition *one = shown_from(plan, lba);

    return one != NULL && one->link == lba ? one : NULL;
}

/* Is the link in a block one of the chain as it stands, that leads elsewhere,
 * or to another partition, than before? */
static bool is_changed(const struct slate_table_plan *plan, uint64_t lba)
{
    const struct slate_partition *here = shown_at(plan, lba);
    const struct slate_partition *next = shown_from(plan, lba + 1);
    uint32_t index = slate_image_link_at(plan, lba);
    struct slate_image_link link;

    if (index == slate_image_links(plan) ||
        (here == NULL && lba != head_of(plan)))
        return false;
    slate_image_link(plan, index, &link);
    if (here == NULL ? link.count != 0 : !here->kept)
        return lba == head_of(plan); /* others are new links */
    return next == NULL ? link.next != 0
                        : !next->kept || link.next != next->link;
}

/* In this state, or ahead of it. */
static bool is_listed(const struct slate_table_plan *plan, uint64_t lba)
{
    struct slate_table_plan dropped = *plan;

    dropped.state = SLATE_TABLE_DROPPED;
    return is_changed(plan, lba) || is_changed(&dropped, lba);
}

static bool is_new(const struct slate_table_plan *plan,
                   const struct slate_partition *one)
{
    return one->role == SLATE_ROLE_LOGICAL && !one->kept &&
           one->link != head_of(plan) && slate_edit_shows(plan, one);
}

/* The first link from a block on that is new, or else that is changed. */
static uint64_t link_from(const struct slate_table_plan *plan, uint64_t lba,
                          bool fresh)
{
    uint64_t head = head_of(plan);

    if (!fresh && head >= lba && head != 0 && is_listed(plan, head))
        return head;
    for (uint32_t i = 0; i < plan->count; i++) {
        const struct slate_partition *one = &plan->partition[i];

        if (one->role == SLATE_ROLE_LOGICAL && one->link >= lba &&
            (fresh ? is_new(plan, one)
                   : one->kept && is_listed(plan, one->link)))
            return one->link;
    }
    return UINT64_MAX;
}

static bool edit_next(const void *plan, enum slate_moment moment, uint64_t *at,
                      struct slate_extent *extent)
{
    static const enum role roles[SLATE_MOMENTS] = {
        [SLATE_MOMENT_BIRTH] = ROLE_LINK, [SLATE_MOMENT_TABLE] = ROLE_CHANGED};
    uint64_t lba = UINT64_MAX;

    if (moment == SLATE_MOMENT_COMMIT && *at == 0)
        lba = 0;
    if (roles[moment] != ROLE_FIRST)
        lba = link_from(plan, *at, moment == SLATE_MOMENT_BIRTH);
    if (lba == UINT64_MAX)
        return false;
    extent->first = lba;
    extent->count = 1;
    extent->role = (uint8_t)roles[moment];
    extent->zero = false;
    *at = lba + 1;
    return true;
}

static bool edit_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    uint64_t fresh = link_from(plan, lba, true);
    uint64_t changed = link_from(plan, lba, false);
    uint64_t next = fresh < changed ? fresh : changed;

    *until = lba == 0 || lba == next ? lba + 1 : next;
    return lba == 0 || lba == next;
}

/* What leads nowhere else than before stays to the last bit. */
static void put_way(const struct slate_table_plan *plan, uint64_t lba,
                    const struct slate_image_link *former, uint8_t *entry)
{
    const struct slate_partition *next = shown_from(plan, lba + 1);

    if (next == NULL ? former->next == 0
                     : next->kept && next->link == former->next)
        return;
    memset(entry, 0, SLATE_MBR_ENTRY_BYTES);
    if (next != NULL)
        slate_mbr_put_next(plan, next, base_of(plan), entry);
}

/* Where a link stands that stays, or the head of the chain, that is what is
 * changed; any other one is made from nothing. */
static void put_link(const struct slate_table_plan *plan, uint64_t lba,
                     uint8_t *block)
{
    const struct slate_partition *here = shown_at(plan, lba);
    uint32_t index = slate_image_link_at(plan, lba);
    bool stays = index < slate_image_links(plan) &&
                 (plan->state == SLATE_TABLE_FORMER || lba == head_of(plan) ||
                  (here != NULL && here->kept));
    struct slate_image_link former = {.next = 0};
    uint8_t *entry = block + SLATE_MBR_ENTRIES;

    if (stays) {
        slate_image_link(plan, index, &former);
        slate_image_copy(plan, (uint64_t)(index + 1) * plan->block_bytes,
                         plan->block_bytes, block);
    }
    if (stays && plan->state == SLATE_TABLE_FORMER)
        return;
    if (here == NULL || !here->kept)
        memset(entry, 0, SLATE_MBR_ENTRY_BYTES);
    if (here != NULL && !here->kept)
        slate_mbr_put_logical(plan, here, entry);
    put_way(plan, lba, &former, entry + SLATE_MBR_ENTRY_BYTES);
    slate_put_le16(block + SLATE_MBR_SIGNATURE, SLATE_MBR_SIGNATURE_VALUE);
}

static enum slate_status edit_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    const struct slate_table_plan *table = plan;

    if (count != 1) /* as each extent has */
        return SLATE_ERR_INTERNAL;
    memset(data, 0, table->block_bytes);
    if (first != 0) {
        put_link(table, first, data);
        return SLATE_OK;
    }
    slate_image_copy(table, 0, table->block_bytes, data);
    if (table->state != SLATE_TABLE_FORMER)
        put_entries(table, data);
    return SLATE_OK;
}

static const char *const steps[] = {"write the changed table in block 0",
                                    "write the links to new partitions",
                                    "change the links between partitions"};

const struct slate_composer slate_mbr_edit_composer = {
    "mbr", edit_next, edit_covers, edit_fill, steps};
