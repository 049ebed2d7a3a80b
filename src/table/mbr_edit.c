/* SPDX-License-Identifier: MIT */
/* Changing an MBR: entries of partitions that stay, the code ahead of them and
 * everything else in block 0 are as they were. */
#include <string.h>

#include "compose/rows.h"
#include "table/compose.h"
#include "table/edit.h"
#include "table/mbr.h"

static const struct slate_row row = {SLATE_MOMENT_COMMIT, 0, false, 0, 1};

static bool edit_next(const void *plan, enum slate_moment moment, uint64_t *at,
                      struct slate_extent *extent)
{
    (void)plan;
    return slate_rows_next(&row, 1, moment, at, extent);
}

static bool edit_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    (void)plan;
    return slate_rows_cover(&row, 1, lba, until);
}

/* The container of logical partitions stays with them. */
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

static enum slate_status edit_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    const struct slate_table_plan *table = plan;

    if (first != 0 || count != 1)
        return SLATE_ERR_INTERNAL;
    slate_image_copy(table, 0, table->block_bytes, data);
    if (table->state != SLATE_TABLE_FORMER)
        put_entries(table, data);
    return SLATE_OK;
}

static const char *edit_step(uint8_t role)
{
    (void)role;
    return "write the changed table in block 0";
}

const struct slate_composer slate_mbr_edit_composer = {
    "mbr", edit_next, edit_covers, edit_fill, edit_step};
