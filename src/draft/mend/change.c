/* SPDX-License-Identifier: MIT */
/* The changed table: which entries stay, which go, and which become those of
 * new parts. */
#include <string.h>

#include "draft/place/place.h"
#include "table/table.h"

static bool is_kept(const struct slate_draft *draft, uint32_t number)
{
    if (number == draft->container_number)
        return true;
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.keep == number)
            return true;
    }
    return false;
}

/* Is the range of one that stays, which may come from a file, that of its
 * entry? */
static bool is_where(const struct slate_draft *draft,
                     const struct slate_part *part)
{
    struct slate_partition logical;

    if (!slate_table_image_logical(&draft->table, part->ask.keep, &logical))
        return !slate_draft_is_logical(draft, (uint32_t)(part - draft->part));
    return part->range.first == logical.first &&
           part->range.count == logical.count;
}

enum slate_status slate_draft_check_kept(struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        uint32_t keep = draft->part[i].ask.keep;

        if (keep == 0)
            continue;
        if (!slate_table_image_entry(&draft->table, keep, NULL) ||
            !is_where(draft, &draft->part[i]))
            return slate_draft_refuse(draft, i,
                                      "there is no partition of this number");
        for (uint32_t other = 0; other < i; other++) {
            if (draft->part[other].ask.keep == keep)
                return slate_draft_refuse(draft, i,
                                          "this partition is named twice");
        }
    }
    return SLATE_OK;
}

/* The lowest number from *number on that no part that stays has. */
static bool find_free(const struct slate_draft *draft, uint32_t slots,
                      uint32_t *number)
{
    while (*number <= slots && is_kept(draft, *number))
        ++*number;
    return *number <= slots;
}

static void fill_kept(const struct slate_part *part,
                      struct slate_partition *partition)
{
    memset(partition, 0, sizeof *partition);
    partition->number = part->ask.keep;
    partition->first = part->range.first;
    partition->count = part->range.count;
    partition->kept = true;
}

static bool any_goes(const struct slate_draft *draft, uint32_t slots)
{
    for (uint32_t number = 1; number <= slots; number++) {
        if (slate_table_image_entry(&draft->table, number, NULL) &&
            !is_kept(draft, number))
            return true;
    }
    for (uint32_t number = SLATE_FIRST_LOGICAL;
         draft->table.kind == SLATE_TABLE_MBR &&
         slate_table_image_entry(&draft->table, number, NULL);
         number++) {
        if (!is_kept(draft, number))
            return true;
    }
    return false;
}

/* The container of the logical ones, behind all parts in the room. */
static enum slate_status fill_container(struct slate_draft *draft,
                                        uint32_t number)
{
    struct slate_partition *container = &draft->partition[draft->parts];
    bool stays = draft->container_number != 0;

    if (draft->container.count == 0)
        return SLATE_OK;
    if (!stays && !find_free(draft, SLATE_MBR_PRIMARIES, &number))
        return SLATE_ERR_INTERNAL; /* an entry was left out for it */
    if (!stays)
        draft->container_number = number;
    slate_draft_fill_container(draft, &draft->container,
                               draft->container_number, container);
    container->kept = stays;
    draft->table.count++;
    return SLATE_OK;
}

/* One that stays keeps its link, and is counted as it stands in the chain. */
static void make_logical(struct slate_draft *draft, uint32_t i, uint32_t number)
{
    struct slate_partition *partition = &draft->partition[i];
    struct slate_partition former;

    partition->role = SLATE_ROLE_LOGICAL;
    partition->number = number;
    partition->link = partition->first - draft->grid.link;
    if (partition->kept && slate_table_image_logical(
                               &draft->table, draft->part[i].ask.keep, &former))
        partition->link = former.link;
}

static enum slate_status fill_entries(struct slate_draft *draft, uint32_t slots,
                                      bool *any_new)
{
    uint32_t number = 1, logical = SLATE_FIRST_LOGICAL;

    *any_new = false;
    for (uint32_t i = 0; i < draft->parts; i++) {
        struct slate_partition *partition = &draft->partition[i];
        bool is_logical = slate_draft_is_logical(draft, i);

        if (draft->part[i].ask.keep != 0) {
            fill_kept(&draft->part[i], partition);
        } else {
            if (!is_logical && !find_free(draft, slots, &number))
                return slate_draft_refuse(draft, i,
                                          "the table has no entry left for it");
            slate_draft_fill_partition(draft, i, partition);
            if (!is_logical)
                partition->number = number++;
            *any_new = true;
        }
        if (is_logical)
            make_logical(draft, i, logical++);
    }
    return fill_container(draft, number);
}

enum slate_status slate_draft_change_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    enum slate_status status;
    uint32_t slots;
    bool any_new;

    (void)slate_table_image_entry(table, 1, &slots);
    table->count = draft->parts;
    status = fill_entries(draft, slots, &any_new);
    draft->drops = any_new && any_goes(draft, slots);
    draft->table_stays =
        !any_new && !any_goes(draft, slots) && draft->goal.overwrite.rounds > 0;
    draft->dropped = *table;
    draft->dropped.state = SLATE_TABLE_DROPPED;
    draft->former = *table;
    draft->former.state = SLATE_TABLE_FORMER;
    return status;
}
