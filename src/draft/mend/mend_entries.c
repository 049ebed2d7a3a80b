/* SPDX-License-Identifier: MIT */
/* Mending entries of a table: their types, their order, their ends. */

#include "base/base.h"
#include "draft/mend/mend.h"
#include "draft/place/place.h"
#include "table/table.h"
#include "volume/common/common.h"
#include "assess/judge/judge.h"

/* The entry of a primary partition in block 0, or of a logical one in its
 * link. */
static enum slate_status put_mbr_type(const struct slate_mending *mending,
                                      const struct slate_partition *partition,
                                      uint8_t type)
{
    bool logical = partition->role == SLATE_ROLE_LOGICAL;
    uint32_t number = logical ? 0 : partition->number - 1;
    uint8_t *block, *entry;

    SLATE_TRY(slate_mend_block(mending, logical ? partition->link : 0,
                               SLATE_MOMENT_TABLE, SLATE_PATCH_TABLE, &block));
    entry = block + SLATE_MBR_ENTRIES + (size_t)number * SLATE_MBR_ENTRY_BYTES;
    if (entry[SLATE_MBR_ENTRY_TYPE] != partition->mbr_type)
        return SLATE_ERR_CHANGED;
    entry[SLATE_MBR_ENTRY_TYPE] = type;
    return SLATE_OK;
}

/* What a new partition with this volume would get. */
enum slate_status slate_mend_type(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    const struct slate_partition *partition =
        &facts->partition[mending->partition];
    const enum slate_volume_kind kind = facts->volume[mending->partition].kind;
    const struct slate_part part = {
        .range = {partition->first, partition->count},
        .format = slate_format_of(kind)};
    const struct slate_gpt_change change = {.number = partition->number,
                                            .type = slate_gpt_type_for(kind)};

    if (facts->layout.kind == SLATE_TABLE_MBR)
        return put_mbr_type(
            mending, partition,
            slate_draft_mbr_type(mending->patching.draft, &part));
    return slate_patch_gpt(&mending->patching, partition, &change);
}

/* Cylinders, heads and sectors by the geometry that the entry has. */
static void put_end(uint8_t *entry, uint64_t first, uint64_t count)
{
    struct slate_mbr_entry old = {
        .first = slate_le32(entry + SLATE_MBR_ENTRY_FIRST),
        .count = slate_le32(entry + SLATE_MBR_ENTRY_COUNT)};
    uint32_t heads = 0, sectors = 0;

    memcpy(old.chs_first, entry + SLATE_MBR_ENTRY_CHS_FIRST, 3);
    memcpy(old.chs_last, entry + SLATE_MBR_ENTRY_CHS_LAST, 3);
    if (!slate_mbr_chs_agrees(&old, &heads, &sectors) || heads == 0) {
        heads = SLATE_CHS_HEADS;
        sectors = SLATE_CHS_SECTORS;
    }
    slate_chs_put(entry + SLATE_MBR_ENTRY_CHS_LAST,
                  slate_chs_of(first + count - 1, heads, sectors));
    slate_put_le32(entry + SLATE_MBR_ENTRY_COUNT, (uint32_t)count);
}

enum slate_status slate_mend_grow(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    const struct slate_partition *partition =
        &facts->partition[mending->partition];
    uint64_t count =
        partition->count + slate_mend_room(facts, mending->partition);
    const struct slate_gpt_change change = {
        .number = partition->number, .last = partition->first + count - 1};
    uint8_t *block;
    enum slate_status status;

    if (facts->layout.kind == SLATE_TABLE_GPT)
        return slate_patch_gpt(&mending->patching, partition, &change);
    status = slate_mend_block(mending, 0, SLATE_MOMENT_TABLE, SLATE_PATCH_TABLE,
                              &block);
    if (status == SLATE_OK)
        put_end(block + SLATE_MBR_ENTRIES +
                    (size_t)(partition->number - 1) * SLATE_MBR_ENTRY_BYTES,
                partition->first, count);
    return status;
}

static uint64_t mbr_first(const uint8_t *entry)
{
    return entry[SLATE_MBR_ENTRY_TYPE] == 0
               ? UINT64_MAX
               : slate_le32(entry + SLATE_MBR_ENTRY_FIRST);
}

/* Each of the four moves ahead until it is in its place. */
static void sort(uint8_t *entries)
{
    uint8_t moved[SLATE_MBR_ENTRY_BYTES];

    for (uint32_t i = 1; i < SLATE_MBR_PRIMARIES; i++) {
        uint8_t *at = entries + i * sizeof moved;

        memcpy(moved, at, sizeof moved);
        for (; at > entries && mbr_first(at - sizeof moved) > mbr_first(moved);
             at -= sizeof moved)
            memcpy(at, at - sizeof moved, sizeof moved);
        memcpy(at, moved, sizeof moved);
    }
}

enum slate_status slate_mend_order(const struct slate_mending *mending)
{
    uint8_t *block;
    enum slate_status status;

    if (mending->facts->layout.kind == SLATE_TABLE_GPT)
        return slate_patch_gpt_order(&mending->patching);
    status = slate_mend_block(mending, 0, SLATE_MOMENT_TABLE, SLATE_PATCH_TABLE,
                              &block);
    if (status == SLATE_OK)
        sort(block + SLATE_MBR_ENTRIES);
    return status;
}
