/* SPDX-License-Identifier: MIT */
/* Clearing attributes of a GPT entry: in the backup first, so that one copy of
 * the table is whole at any time (UEFI 2.10, 5.3). */
#include <string.h>

#include "base/bytes.h"
#include "draft/patch.h"
#include "table/gpt.h"

/* A block of one copy, which is gathered. */
static enum slate_status block_of(const struct slate_patching *patching,
                                  bool backup, uint64_t lba, uint8_t **block)
{
    struct slate_patch patch = {
        lba, backup ? SLATE_MOMENT_TABLE_COPY : SLATE_MOMENT_TABLE,
        backup ? SLATE_PATCH_TABLE_COPY : SLATE_PATCH_TABLE};

    return slate_patch_block(patching, &patch, block);
}

/* The checksum that the array will have. */
static enum slate_status sum_array(const struct slate_patching *patching,
                                   const struct slate_gpt_copy *copy,
                                   uint32_t *crc)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    uint64_t left = (uint64_t)copy->entry_count * copy->entry_bytes;
    enum slate_status status = SLATE_OK;

    *crc = 0;
    for (uint64_t lba = copy->array_lba; left > 0 && status == SLATE_OK;
         lba++) {
        size_t here = left < block_bytes ? (size_t)left : block_bytes;

        status = slate_patch_read(patching, lba, patching->work);
        *crc = slate_crc32(*crc, patching->work, here);
        left -= here;
    }
    return status;
}

static enum slate_status change_copy(const struct slate_patching *patching,
                                     const struct slate_gpt_copy *copy,
                                     uint32_t number, uint64_t bits,
                                     bool backup)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    uint64_t at = (uint64_t)(number - 1) * copy->entry_bytes;
    uint32_t crc = 0;
    uint8_t *block, *field;
    enum slate_status status =
        block_of(patching, backup, copy->array_lba + at / block_bytes, &block);

    if (status != SLATE_OK)
        return status;
    field = block + at % block_bytes + SLATE_GPT_ENTRY_ATTRIBUTES;
    slate_put_le64(field, slate_le64(field) & ~bits);
    status = sum_array(patching, copy, &crc);
    if (status == SLATE_OK)
        status = block_of(patching, backup, copy->lba, &block);
    if (status != SLATE_OK)
        return status;
    slate_put_le32(block + SLATE_GPT_ARRAY_CRC, crc);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, 0);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC,
                   slate_crc32(0, block, copy->header_bytes));
    return SLATE_OK;
}

static bool both_are_sound(const struct slate_layout *layout)
{
    const struct slate_gpt_copy *a = &layout->primary, *b = &layout->backup;

    return a->state == SLATE_GPT_SOUND && b->state == SLATE_GPT_SOUND &&
           a->array_crc == b->array_crc && a->entry_bytes == b->entry_bytes &&
           a->entry_count == b->entry_count;
}

/* Both copies of a sound table, in which the entry is as it was found. */
static enum slate_status look(const struct slate_patching *patching,
                              const struct slate_partition *entry,
                              uint64_t bits, struct slate_layout *layout)
{
    const struct slate_gpt_copy *copy = &layout->primary;
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    const uint8_t *found = patching->work;
    uint64_t at;
    enum slate_status status =
        slate_layout_read(patching->media, patching->work, layout);

    if (status != SLATE_OK)
        return status;
    if (layout->kind != SLATE_TABLE_GPT || entry->number > copy->entry_count)
        return SLATE_ERR_CHANGED;
    if (!both_are_sound(layout))
        return SLATE_ERR_ONE_COPY;
    at = (uint64_t)(entry->number - 1) * copy->entry_bytes;
    status = slate_media_read(
        patching->media, copy->array_lba + at / block_bytes, 1, patching->work);
    found += at % block_bytes;
    if (status == SLATE_OK &&
        (memcmp(found + SLATE_GPT_ENTRY_ID, entry->id.bytes, 16) != 0 ||
         slate_le64(found + SLATE_GPT_ENTRY_FIRST) != entry->first ||
         (slate_le64(found + SLATE_GPT_ENTRY_ATTRIBUTES) & bits) == 0))
        status = SLATE_ERR_CHANGED;
    return status;
}

enum slate_status slate_patch_gpt(const struct slate_patching *patching,
                                  const struct slate_partition *entry,
                                  uint64_t bits)
{
    struct slate_layout layout = {.room = 0}; /* the copies are enough */
    enum slate_status status = look(patching, entry, bits, &layout);

    if (status == SLATE_OK)
        status =
            change_copy(patching, &layout.backup, entry->number, bits, true);
    if (status == SLATE_OK)
        status =
            change_copy(patching, &layout.primary, entry->number, bits, false);
    return status;
}
