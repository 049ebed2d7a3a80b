/* SPDX-License-Identifier: MIT */
/* Changing a GPT: entries of partitions that stay are as they were, byte for
 * byte, and so are block 0 and the headers but for their checksums. The copy
 * goes first, so that one of the two is whole at any time (UEFI 2.10, 5.3). */

#include "base/base.h"
#include "compose/compose.h"
#include "table/table.h"

#define ROWS 4u

enum role {
    ROLE_COPY,
    ROLE_TABLE
};

static void make_rows(const struct slate_table_plan *plan,
                      struct slate_row row[ROWS])
{
    struct slate_image_place copy, table;

    slate_image_find(plan, SLATE_IMAGE_COPY, &copy);
    slate_image_find(plan, SLATE_IMAGE_HEADER, &table);
    row[0] = (struct slate_row){SLATE_MOMENT_TABLE_COPY, ROLE_COPY, false,
                                copy.array, copy.array_blocks};
    row[1] = (struct slate_row){SLATE_MOMENT_TABLE_COPY, ROLE_COPY, false,
                                copy.header, 1};
    row[2] = (struct slate_row){SLATE_MOMENT_TABLE, ROLE_TABLE, false,
                                table.array, table.array_blocks};
    row[3] = (struct slate_row){SLATE_MOMENT_TABLE, ROLE_TABLE, false,
                                table.header, 1};
}

SLATE_ROWS_BOTH(static, edit, ROWS, make_rows)

/* The entry of a partition, as far as it lies in a piece of the array. */
static void put_part_of(const struct slate_table_plan *plan,
                        const struct slate_image_place *place,
                        const struct slate_partition *partition, uint64_t at,
                        uint8_t *piece)
{
    uint64_t begin = (uint64_t)(partition->number - 1) * place->entry_bytes;
    uint64_t from = begin > at ? begin : at;
    uint64_t end = begin + place->entry_bytes;
    uint8_t entry[SLATE_GPT_ENTRY_BYTES] = {0};

    end = end < at + SLATE_PIECE_BYTES ? end : at + SLATE_PIECE_BYTES;
    if (from >= end || !slate_edit_shows(plan, partition))
        return;
    if (partition->kept) {
        slate_image_copy(plan, slate_image_at(plan, SLATE_IMAGE_ARRAY) + from,
                         (uint32_t)(end - from), piece + (from - at));
        return;
    }
    if (from - begin >= sizeof entry) /* what is behind the known fields */
        return;
    slate_gpt_put_entry(partition, entry);
    if (end > begin + sizeof entry)
        end = begin + sizeof entry;
    memcpy(piece + (from - at), entry + (from - begin), (size_t)(end - from));
}

/* A piece of the array, which comes zeroed. */
static void put_piece(const struct slate_table_plan *plan,
                      const struct slate_image_place *place, uint64_t at,
                      uint8_t *piece)
{
    uint64_t all = (uint64_t)place->entries * place->entry_bytes;

    if (plan->state == SLATE_TABLE_FORMER || at >= all) {
        slate_image_copy(plan, slate_image_at(plan, SLATE_IMAGE_ARRAY) + at,
                         SLATE_PIECE_BYTES, piece);
        return;
    }
    for (uint32_t i = 0; i < plan->count; i++)
        put_part_of(plan, place, &plan->partition[i], at, piece);
}

static uint32_t array_crc(const struct slate_table_plan *plan,
                          const struct slate_image_place *place)
{
    uint64_t all = (uint64_t)place->entries * place->entry_bytes;
    uint32_t crc = 0;

    for (uint64_t at = 0; at < all; at += SLATE_PIECE_BYTES) {
        uint8_t piece[SLATE_PIECE_BYTES] = {0};
        uint64_t left = all - at;

        put_piece(plan, place, at, piece);
        crc = slate_crc32(crc, piece,
                          left < sizeof piece ? (size_t)left : sizeof piece);
    }
    return crc;
}

static void put_header(const struct slate_table_plan *plan,
                       const struct slate_image_place *place, uint8_t *block)
{
    uint32_t length;

    slate_image_copy(plan, slate_image_at(plan, place->part), plan->block_bytes,
                     block);
    if (plan->state == SLATE_TABLE_FORMER)
        return;
    length = slate_le32(block + SLATE_GPT_HEADER_SIZE);
    if (length > plan->block_bytes)
        length = plan->block_bytes;
    slate_put_le32(block + SLATE_GPT_ARRAY_CRC, array_crc(plan, place));
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, 0);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, slate_crc32(0, block, length));
}

/* data: the block, zeroed. */
static void put_block(const struct slate_table_plan *plan,
                      const struct slate_image_place *place, uint64_t lba,
                      uint8_t *data)
{
    uint64_t at = (lba - place->array) * plan->block_bytes;

    if (lba == place->header) {
        put_header(plan, place, data);
        return;
    }
    for (uint32_t i = 0; i < plan->block_bytes; i += SLATE_PIECE_BYTES)
        put_piece(plan, place, at + i, data + i);
}

static bool is_in(const struct slate_image_place *place, uint64_t lba)
{
    return lba == place->header ||
           (lba >= place->array && lba - place->array < place->array_blocks);
}

static enum slate_status edit_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    const struct slate_table_plan *table = plan;
    struct slate_image_place copy, primary;
    uint8_t *to = data;

    slate_image_find(table, SLATE_IMAGE_COPY, &copy);
    slate_image_find(table, SLATE_IMAGE_HEADER, &primary);
    memset(data, 0, (size_t)count * table->block_bytes);
    for (uint32_t i = 0; i < count; i++) {
        if (!is_in(&primary, first + i) && !is_in(&copy, first + i))
            return SLATE_ERR_INTERNAL;
        put_block(table, is_in(&primary, first + i) ? &primary : &copy,
                  first + i, to);
        to += table->block_bytes;
    }
    return SLATE_OK;
}

static const char *const steps[] = {[ROLE_COPY] =
                                        "write the backup of the changed table",
                                    [ROLE_TABLE] = "write the changed table"};

const struct slate_composer slate_gpt_edit_composer = {
    "gpt", edit_next, edit_covers, edit_fill, steps};
