/* SPDX-License-Identifier: MIT */
/* Composing the MBR, and what stands in its place under a GPT. */
#include <string.h>

#include "base/bytes.h"
#include "compose/rows.h"
#include "table/compose.h"
#include "table/mbr.h"

static uint32_t heads_of(const struct slate_table_plan *plan)
{
    return plan->heads == 0 ? SLATE_CHS_HEADS : plan->heads;
}

static uint32_t sectors_of(const struct slate_table_plan *plan)
{
    return plan->track_sectors == 0 ? SLATE_CHS_SECTORS : plan->track_sectors;
}

static void put_chs(const struct slate_table_plan *plan, uint8_t *field,
                    uint64_t lba)
{
    slate_chs_put(field, slate_chs_of(lba, heads_of(plan), sectors_of(plan)));
}

static void put_range(const struct slate_table_plan *plan, uint8_t *entry,
                      uint64_t first, uint64_t count)
{
    put_chs(plan, entry + SLATE_MBR_ENTRY_CHS_FIRST, first);
    put_chs(plan, entry + SLATE_MBR_ENTRY_CHS_LAST, first + count - 1);
    slate_put_le32(entry + SLATE_MBR_ENTRY_FIRST, (uint32_t)first);
    slate_put_le32(entry + SLATE_MBR_ENTRY_COUNT,
                   count > UINT32_MAX ? UINT32_MAX : (uint32_t)count);
}

void slate_mbr_put(const struct slate_table_plan *plan, uint8_t *block)
{
    /* A machine started from this device asks its firmware for the next one:
     * INT 18h, then halt for ever. */
    static const uint8_t code[] = {0xCD, 0x18, 0xF4, 0xEB, 0xFD};

    memcpy(block, code, sizeof code);
    slate_put_le32(block + SLATE_MBR_DISK_SIGNATURE, plan->disk_signature);
    for (uint32_t i = 0; i < plan->count; i++) {
        const struct slate_partition *partition = &plan->partition[i];
        size_t slot = partition->number - 1;
        uint8_t *entry =
            block + SLATE_MBR_ENTRIES + SLATE_MBR_ENTRY_BYTES * slot;

        if (partition->number > SLATE_MBR_PRIMARIES)
            continue;
        entry[SLATE_MBR_ENTRY_BOOT] = partition->active ? SLATE_MBR_ACTIVE : 0;
        entry[SLATE_MBR_ENTRY_TYPE] = partition->mbr_type;
        put_range(plan, entry, partition->first, partition->count);
    }
    slate_put_le16(block + SLATE_MBR_SIGNATURE, SLATE_MBR_SIGNATURE_VALUE);
}

/* UEFI 2.10, table 5.4 */
void slate_mbr_put_protective(const struct slate_table_plan *plan,
                              uint8_t *block)
{
    uint8_t *entry = block + SLATE_MBR_ENTRIES;

    entry[SLATE_MBR_ENTRY_TYPE] = SLATE_MBR_PROTECTIVE;
    put_range(plan, entry, 1, plan->block_count - 1);
    slate_put_le16(block + SLATE_MBR_SIGNATURE, SLATE_MBR_SIGNATURE_VALUE);
}

static const struct slate_row row = {SLATE_MOMENT_COMMIT, 0, false, 0, 1};

static bool mbr_next(const void *plan, enum slate_moment moment, uint64_t *at,
                     struct slate_extent *extent)
{
    (void)plan;
    return slate_rows_next(&row, 1, moment, at, extent);
}

static bool mbr_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    (void)plan;
    return slate_rows_cover(&row, 1, lba, until);
}

static enum slate_status mbr_fill(const void *plan, uint64_t first,
                                  uint32_t count, void *data)
{
    const struct slate_table_plan *table = plan;

    memset(data, 0, (size_t)count * table->block_bytes);
    if (first == 0)
        slate_mbr_put(table, data);
    return SLATE_OK;
}

static const char *mbr_step(uint8_t role)
{
    (void)role;
    return "write the true block 0";
}

const struct slate_composer slate_mbr_composer = {"mbr", mbr_next, mbr_covers,
                                                  mbr_fill, mbr_step};
