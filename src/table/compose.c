/* SPDX-License-Identifier: MIT */
/* Composing MBR and GPT: any piece of any block from the plan alone. */
#include <string.h>

#include "base/bytes.h"
#include "base/utf.h"
#include "table/gpt.h"

/* Geometry that firmware assumes when it translates block numbers. */
#define HEADS 255u
#define TRACK_SECTORS 63u

static uint32_t array_blocks(uint32_t block_bytes)
{
    return SLATE_GPT_ARRAY_BYTES / block_bytes;
}

void slate_table_usable(enum slate_table_kind kind,
                        const struct slate_geometry *geometry,
                        struct slate_range *usable)
{
    uint64_t head = 0, tail = 0, blocks = geometry->block_count;

    if (kind == SLATE_TABLE_MBR && blocks > UINT32_MAX)
        blocks = UINT32_MAX; /* ends, too, are counted in 32 bits by hosts */
    if (kind == SLATE_TABLE_MBR)
        head = 1;
    if (kind == SLATE_TABLE_GPT) {
        tail = 1 + (uint64_t)array_blocks(geometry->block_bytes);
        head = 1 + tail;
    }
    usable->first = head;
    usable->count = blocks > head + tail ? blocks - head - tail : 0;
}

bool slate_table_extent(const struct slate_table_plan *plan, uint32_t index,
                        struct slate_extent *extent)
{
    uint64_t copy = 1 + (uint64_t)array_blocks(plan->block_bytes);

    if (plan->kind == SLATE_TABLE_MBR)
        index += 2; /* no more than block 0 */
    if (plan->kind == SLATE_TABLE_NONE)
        return false;
    extent->count = copy;
    switch (index) {
    case 0:
        extent->first = plan->block_count - copy;
        extent->purpose = SLATE_PURPOSE_TABLE_BACKUP;
        return true;
    case 1:
        extent->first = 1;
        extent->purpose = SLATE_PURPOSE_TABLE;
        return true;
    case 2:
        extent->first = 0;
        extent->count = 1;
        extent->purpose = SLATE_PURPOSE_FIRST;
        return true;
    default:
        return false;
    }
}

/* Cylinder, head, sector of a block, or the "beyond" value (UEFI 2.10,
 * table 5.2; the packing is that of the firmware's disk call). */
static void put_chs(uint8_t *field, uint64_t lba)
{
    uint64_t cylinder = lba / HEADS / TRACK_SECTORS;
    uint32_t head = (uint32_t)(lba / TRACK_SECTORS % HEADS);
    uint32_t sector = (uint32_t)(lba % TRACK_SECTORS) + 1;

    if (cylinder > 1023) {
        cylinder = 1023;
        head = 254;
        sector = 63;
    }
    field[0] = (uint8_t)head;
    field[1] = (uint8_t)(sector | (cylinder >> 2 & 0xC0));
    field[2] = (uint8_t)cylinder;
}

static void put_entry(uint8_t *entry, const struct slate_partition *partition)
{
    entry[0] = partition->active ? 0x80 : 0x00;
    put_chs(entry + 1, partition->first);
    entry[4] = partition->mbr_type;
    put_chs(entry + 5, partition->first + partition->count - 1);
    slate_put_le32(entry + 8, (uint32_t)partition->first);
    slate_put_le32(entry + 12, (uint32_t)partition->count);
}

static void mbr_piece(const struct slate_table_plan *plan, uint8_t *piece)
{
    /* A machine started from this device asks its firmware for the next one:
     * INT 18h, then halt for ever. */
    static const uint8_t code[] = {0xCD, 0x18, 0xF4, 0xEB, 0xFD};

    memcpy(piece, code, sizeof code);
    slate_put_le32(piece + 440, plan->disk_signature);
    for (uint32_t i = 0; i < plan->count; i++)
        put_entry(piece + 446 + 16 * (size_t)i, &plan->partition[i]);
    slate_put_le16(piece + 510, 0xAA55);
}

/* UEFI 2.10, table 5.4 */
static void protective_piece(const struct slate_table_plan *plan,
                             uint8_t *piece)
{
    uint64_t covered = plan->block_count - 1;
    uint8_t *entry = piece + 446;

    put_chs(entry + 1, 1);
    entry[4] = SLATE_MBR_PROTECTIVE;
    put_chs(entry + 5, covered);
    slate_put_le32(entry + 8, 1);
    slate_put_le32(entry + 12,
                   covered > UINT32_MAX ? UINT32_MAX : (uint32_t)covered);
    slate_put_le16(piece + 510, 0xAA55);
}

static void put_gpt_entry(uint8_t *entry,
                          const struct slate_partition *partition)
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

/* The piece at this byte of the array; it comes zeroed. */
static void array_piece(const struct slate_table_plan *plan, uint32_t at,
                        uint8_t *piece)
{
    uint32_t slot = at / SLATE_GPT_ENTRY_BYTES;

    for (uint32_t i = 0; i < SLATE_PIECE_BYTES / SLATE_GPT_ENTRY_BYTES; i++) {
        if (slot + i < plan->count)
            put_gpt_entry(piece + (size_t)i * SLATE_GPT_ENTRY_BYTES,
                          &plan->partition[slot + i]);
    }
}

static uint32_t array_crc(const struct slate_table_plan *plan)
{
    uint32_t crc = 0;

    for (uint32_t at = 0; at < SLATE_GPT_ARRAY_BYTES; at += SLATE_PIECE_BYTES) {
        uint8_t piece[SLATE_PIECE_BYTES] = {0};

        array_piece(plan, at, piece);
        crc = slate_crc32(crc, piece, sizeof piece);
    }
    return crc;
}

static void header_piece(const struct slate_table_plan *plan, uint64_t lba,
                         uint8_t *piece)
{
    uint64_t last = plan->block_count - 1;
    uint32_t array = array_blocks(plan->block_bytes);

    memcpy(piece, SLATE_GPT_SIGNATURE, 8);
    slate_put_le32(piece + SLATE_GPT_REVISION, 0x00010000);
    slate_put_le32(piece + SLATE_GPT_HEADER_SIZE, SLATE_GPT_HEADER_BYTES);
    slate_put_le64(piece + SLATE_GPT_MY_LBA, lba);
    slate_put_le64(piece + SLATE_GPT_OTHER_LBA, lba == 1 ? last : 1);
    slate_put_le64(piece + SLATE_GPT_FIRST_USABLE, 2 + (uint64_t)array);
    slate_put_le64(piece + SLATE_GPT_LAST_USABLE, last - array - 1);
    memcpy(piece + SLATE_GPT_DISK_ID, plan->disk_id.bytes, 16);
    slate_put_le64(piece + SLATE_GPT_ARRAY_LBA, lba == 1 ? 2 : last - array);
    slate_put_le32(piece + SLATE_GPT_ARRAY_COUNT, SLATE_GPT_ENTRIES);
    slate_put_le32(piece + SLATE_GPT_ENTRY_SIZE, SLATE_GPT_ENTRY_BYTES);
    slate_put_le32(piece + SLATE_GPT_ARRAY_CRC, array_crc(plan));
    slate_put_le32(piece + SLATE_GPT_HEADER_CRC,
                   slate_crc32(0, piece, SLATE_GPT_HEADER_BYTES));
}

static void gpt_piece(const struct slate_table_plan *plan, uint64_t lba,
                      uint32_t offset, uint8_t *piece)
{
    uint64_t last = plan->block_count - 1;
    uint32_t array = array_blocks(plan->block_bytes);

    if (lba == 0 && offset == 0)
        protective_piece(plan, piece);
    else if ((lba == 1 || lba == last) && offset == 0)
        header_piece(plan, lba, piece);
    else if (lba >= 2 && lba < 2 + (uint64_t)array)
        array_piece(plan, (uint32_t)(lba - 2) * plan->block_bytes + offset,
                    piece);
    else if (lba >= last - array && lba < last)
        array_piece(
            plan, (uint32_t)(lba - (last - array)) * plan->block_bytes + offset,
            piece);
}

void slate_table_piece(const struct slate_table_plan *plan, uint64_t lba,
                       uint32_t offset, uint8_t *piece)
{
    memset(piece, 0, SLATE_PIECE_BYTES);
    if (plan->kind == SLATE_TABLE_GPT)
        gpt_piece(plan, lba, offset, piece);
    else if (plan->kind == SLATE_TABLE_MBR && lba == 0 && offset == 0)
        mbr_piece(plan, piece);
}
