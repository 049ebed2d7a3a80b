/* SPDX-License-Identifier: MIT */
/* Composing the GPT (UEFI 2.10, 5.3): both copies and the protective MBR. */

#include "base/base.h"
#include "compose/compose.h"
#include "table/table.h"

#define ROWS 3u

enum role {
    ROLE_BACKUP,
    ROLE_TABLE,
    ROLE_FIRST
};

static uint32_t entries_of(const struct slate_table_plan *plan)
{
    return plan->entries == 0 ? SLATE_GPT_ENTRIES : plan->entries;
}

static uint32_t array_blocks(const struct slate_table_plan *plan)
{
    return (uint32_t)slate_gpt_array_blocks(plan->entries, plan->block_bytes);
}

static void make_rows(const struct slate_table_plan *plan,
                      struct slate_row row[ROWS])
{
    uint64_t copy = 1 + (uint64_t)array_blocks(plan);
    const struct slate_row rows[ROWS] = {
        {SLATE_MOMENT_TABLE_COPY, ROLE_BACKUP, false, plan->block_count - copy,
         copy},
        {SLATE_MOMENT_TABLE, ROLE_TABLE, false, 1, copy},
        {SLATE_MOMENT_COMMIT, ROLE_FIRST, false, 0, 1}};

    memcpy(row, rows, sizeof rows);
}

SLATE_ROWS_BOTH(static, gpt, ROWS, make_rows)

void slate_gpt_put_entry(const struct slate_partition *partition,
                         uint8_t *entry)
{
    memcpy(entry + SLATE_GPT_ENTRY_TYPE, partition->type.bytes, 16);
    memcpy(entry + SLATE_GPT_ENTRY_ID, partition->id.bytes, 16);
    slate_put_le64(entry + SLATE_GPT_ENTRY_FIRST, partition->first);
    slate_put_le64(entry + SLATE_GPT_ENTRY_LAST,
                   partition->first + partition->count - 1);
    slate_put_le64(entry + SLATE_GPT_ENTRY_ATTRIBUTES, partition->attributes);
    slate_utf8_to_utf16(partition->name, entry + SLATE_GPT_ENTRY_NAME,
                        SLATE_GPT_NAME_UNITS);
}

/* The entries of a piece of the array, which comes zeroed: partitions have the
 * numbers from 1 on. */
static void put_entries(const struct slate_table_plan *plan, uint32_t at,
                        uint32_t bytes, uint8_t *piece)
{
    uint32_t first = at / SLATE_GPT_ENTRY_BYTES;
    uint32_t end = (at + bytes) / SLATE_GPT_ENTRY_BYTES;

    for (uint32_t i = first; i < end && i < plan->count; i++)
        slate_gpt_put_entry(&plan->partition[i],
                            piece +
                                (size_t)(i - first) * SLATE_GPT_ENTRY_BYTES);
}

/* Over the entries alone, not over what fills their last block. */
static uint32_t array_crc(const struct slate_table_plan *plan)
{
    uint32_t all = entries_of(plan) * SLATE_GPT_ENTRY_BYTES, crc = 0;

    for (uint32_t at = 0; at < all; at += SLATE_PIECE_BYTES) {
        uint8_t piece[SLATE_PIECE_BYTES] = {0};

        put_entries(plan, at, sizeof piece, piece);
        crc = slate_crc32(crc, piece,
                          all - at < sizeof piece ? all - at : sizeof piece);
    }
    return crc;
}

static void put_header(const struct slate_table_plan *plan, uint64_t lba,
                       uint8_t *piece)
{
    uint64_t last = plan->block_count - 1;
    uint32_t array = array_blocks(plan);

    memcpy(piece, SLATE_GPT_SIGNATURE, 8);
    slate_put_le32(piece + SLATE_GPT_REVISION, 0x00010000);
    slate_put_le32(piece + SLATE_GPT_HEADER_SIZE, SLATE_GPT_HEADER_BYTES);
    slate_put_le64(piece + SLATE_GPT_MY_LBA, lba);
    slate_put_le64(piece + SLATE_GPT_OTHER_LBA, lba == 1 ? last : 1);
    slate_put_le64(piece + SLATE_GPT_FIRST_USABLE, 2 + (uint64_t)array);
    slate_put_le64(piece + SLATE_GPT_LAST_USABLE, last - array - 1);
    memcpy(piece + SLATE_GPT_DISK_ID, plan->disk_id.bytes, 16);
    slate_put_le64(piece + SLATE_GPT_ARRAY_LBA, lba == 1 ? 2 : last - array);
    slate_put_le32(piece + SLATE_GPT_ARRAY_COUNT, entries_of(plan));
    slate_put_le32(piece + SLATE_GPT_ENTRY_SIZE, SLATE_GPT_ENTRY_BYTES);
    slate_put_le32(piece + SLATE_GPT_ARRAY_CRC, array_crc(plan));
    slate_put_le32(piece + SLATE_GPT_HEADER_CRC,
                   slate_crc32(0, piece, SLATE_GPT_HEADER_BYTES));
}

/* data: the block, zeroed. */
static void put_block(const struct slate_table_plan *plan, uint64_t lba,
                      uint8_t *data)
{
    uint64_t last = plan->block_count - 1;
    uint32_t array = array_blocks(plan);

    if (lba == 0)
        slate_mbr_put_protective(plan, data);
    else if (lba == 1 || lba == last)
        put_header(plan, lba, data);
    else
        put_entries(
            plan,
            (uint32_t)(lba < last - array ? lba - 2 : lba - (last - array)) *
                plan->block_bytes,
            plan->block_bytes, data);
}

static enum slate_status gpt_fill(const void *plan, uint64_t first,
                                  uint32_t count, void *data)
{
    const struct slate_table_plan *table = plan;
    uint8_t *to = data;

    memset(data, 0, (size_t)count * table->block_bytes);
    for (uint32_t i = 0; i < count; i++) {
        put_block(table, first + i, to);
        to += table->block_bytes;
    }
    return SLATE_OK;
}

static const char *const steps[] = {"write the backup partition table",
                                    "write the partition table",
                                    "write the true block 0"};

const struct slate_composer slate_gpt_composer = {"gpt", gpt_next, gpt_covers,
                                                  gpt_fill, steps};
