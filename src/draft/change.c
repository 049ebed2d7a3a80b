/* SPDX-License-Identifier: MIT */
/* The changed table: which entries stay, which go, and which become those of
 * new parts. */
#include <string.h>

#include "draft/place.h"

static bool is_kept(const struct slate_draft *draft, uint32_t number)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.keep == number)
            return true;
    }
    return false;
}

enum slate_status slate_draft_check_kept(struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        uint32_t keep = draft->part[i].ask.keep;

        if (keep == 0)
            continue;
        if (!slate_table_image_entry(&draft->table, keep, NULL))
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
    return false;
}

enum slate_status slate_draft_change_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    uint32_t slots, number = 1;
    bool any_new = false;

    (void)slate_table_image_entry(table, 1, &slots);
    table->count = draft->parts;
    for (uint32_t i = 0; i < draft->parts; i++) {
        struct slate_partition *partition = &draft->room.partition[i];

        if (draft->part[i].ask.keep != 0) {
            fill_kept(&draft->part[i], partition);
            continue;
        }
        if (!find_free(draft, slots, &number))
            return slate_draft_refuse(draft, i,
                                      "the table has no entry left for it");
        slate_draft_fill_partition(draft, i, partition);
        partition->number = number++;
        any_new = true;
    }
    draft->drops = any_new && any_goes(draft, slots);
    draft->dropped = *table;
    draft->dropped.state = SLATE_TABLE_DROPPED;
    draft->former = *table;
    draft->former.state = SLATE_TABLE_FORMER;
    return SLATE_OK;
}
