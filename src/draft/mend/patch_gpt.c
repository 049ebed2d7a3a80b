/* SPDX-License-Identifier: MIT */
/* Changing entries of a GPT in both copies: in the backup first, so that one
 * copy of the table is whole at any time (UEFI 2.10, 5.3). */

#include "base/base.h"
#include "draft/mend/mend.h"
#include "table/table.h"

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

/* The sums over a copy whose entries were changed. */
static enum slate_status seal_copy(const struct slate_patching *patching,
                                   const struct slate_gpt_copy *copy,
                                   bool backup)
{
    uint32_t crc = 0;
    uint8_t *block;
    enum slate_status status = sum_array(patching, copy, &crc);

    SLATE_THEN(status, block_of(patching, backup, copy->lba, &block));
    SLATE_TRY(status);
    slate_put_le32(block + SLATE_GPT_ARRAY_CRC, crc);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, 0);
    slate_put_le32(block + SLATE_GPT_HEADER_CRC,
                   slate_crc32(0, block, copy->header_bytes));
    return SLATE_OK;
}

/* An entry, by its index, in a block that is gathered. */
static enum slate_status entry_of(const struct slate_patching *patching,
                                  const struct slate_gpt_copy *copy,
                                  bool backup, uint32_t index, uint8_t **entry)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    uint64_t at = (uint64_t)index * copy->entry_bytes;
    enum slate_status status =
        block_of(patching, backup, copy->array_lba + at / block_bytes, entry);

    *entry += status == SLATE_OK ? at % block_bytes : 0;
    return status;
}

static enum slate_status change_copy(const struct slate_patching *patching,
                                     const struct slate_gpt_copy *copy,
                                     const struct slate_gpt_change *change,
                                     bool backup)
{
    uint8_t *entry = NULL, *field;

    SLATE_TRY(entry_of(patching, copy, backup, change->number - 1, &entry));
    field = entry + SLATE_GPT_ENTRY_ATTRIBUTES;
    slate_put_le64(field, slate_le64(field) & ~change->clear);
    if (change->type != NULL)
        memcpy(entry + SLATE_GPT_ENTRY_TYPE, change->type->bytes, 16);
    if (change->last != 0)
        slate_put_le64(entry + SLATE_GPT_ENTRY_LAST, change->last);
    return seal_copy(patching, copy, backup);
}

/* An entry that is free gets a partition. */
static enum slate_status add_to_copy(const struct slate_patching *patching,
                                     const struct slate_gpt_copy *copy,
                                     const struct slate_partition *partition,
                                     bool backup)
{
    uint8_t *entry = NULL;

    SLATE_TRY(entry_of(patching, copy, backup, partition->number - 1, &entry));
    if (!slate_is_zero(entry + SLATE_GPT_ENTRY_TYPE, 16))
        return SLATE_ERR_CHANGED;
    memset(entry, 0, copy->entry_bytes);
    slate_gpt_put_entry(partition, entry);
    return seal_copy(patching, copy, backup);
}

/* Where an entry belongs by its first block; what is empty comes last. */
static uint64_t place_of(const uint8_t *entry)
{
    return slate_is_zero(entry, 16) ? UINT64_MAX
                                    : slate_le64(entry + SLATE_GPT_ENTRY_FIRST);
}

static void swap(uint8_t *one, uint8_t *two, uint32_t bytes)
{
    for (uint32_t i = 0; i < bytes; i++) {
        uint8_t byte = one[i];

        one[i] = two[i];
        two[i] = byte;
    }
}

/* Each moves ahead until it is in its place. */
static enum slate_status sort_copy(const struct slate_patching *patching,
                                   const struct slate_gpt_copy *copy,
                                   bool backup)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 1; i < copy->entry_count; i++) {
        for (uint32_t j = i; j > 0; j--) {
            uint8_t *one = NULL, *two = NULL;

            /* gathering one moves the other */
            status = entry_of(patching, copy, backup, j - 1, &one);
            SLATE_THEN(status, entry_of(patching, copy, backup, j, &two));
            SLATE_THEN(status, entry_of(patching, copy, backup, j - 1, &one));
            SLATE_TRY(status);
            if (place_of(one) <= place_of(two))
                break;
            swap(one, two, copy->entry_bytes);
        }
    }
    return seal_copy(patching, copy, backup);
}

static bool both_are_sound(const struct slate_layout *layout)
{
    const struct slate_gpt_copy *a = &layout->primary, *b = &layout->backup;

    return a->state == SLATE_GPT_SOUND && b->state == SLATE_GPT_SOUND &&
           a->array_crc == b->array_crc && a->entry_bytes == b->entry_bytes &&
           a->entry_count == b->entry_count;
}

/* Both copies of a sound table. */
static enum slate_status look(const struct slate_patching *patching,
                              struct slate_layout *layout)
{
    SLATE_TRY(slate_layout_read(patching->media, patching->work, layout));
    if (layout->kind != SLATE_TABLE_GPT)
        return SLATE_ERR_CHANGED;
    if (slate_layout_copies_differ(layout))
        return SLATE_ERR_TWO_COPIES;
    return both_are_sound(layout) ? SLATE_OK : SLATE_ERR_ONE_COPY;
}

/* Is the entry as it was found? */
static enum slate_status check_entry(const struct slate_patching *patching,
                                     const struct slate_gpt_copy *copy,
                                     const struct slate_partition *entry,
                                     uint64_t bits)
{
    uint32_t block_bytes = patching->media->geometry.block_bytes;
    uint64_t at = (uint64_t)(entry->number - 1) * copy->entry_bytes;
    const uint8_t *found = patching->work + at % block_bytes;
    enum slate_status status;

    if (entry->number > copy->entry_count)
        return SLATE_ERR_CHANGED;
    status = slate_media_read(
        patching->media, copy->array_lba + at / block_bytes, 1, patching->work);
    if (status == SLATE_OK &&
        (memcmp(found + SLATE_GPT_ENTRY_ID, entry->id.bytes, 16) != 0 ||
         slate_le64(found + SLATE_GPT_ENTRY_FIRST) != entry->first ||
         (slate_le64(found + SLATE_GPT_ENTRY_ATTRIBUTES) & bits) != bits))
        status = SLATE_ERR_CHANGED;
    return status;
}

enum slate_status slate_patch_gpt(const struct slate_patching *patching,
                                  const struct slate_partition *entry,
                                  const struct slate_gpt_change *change)
{
    struct slate_layout layout = {.room = 0}; /* the copies are enough */

    SLATE_TRY(look(patching, &layout));
    SLATE_TRY(check_entry(patching, &layout.primary, entry, change->clear));
    SLATE_TRY(change_copy(patching, &layout.backup, change, true));
    return change_copy(patching, &layout.primary, change, false);
}

enum slate_status slate_patch_gpt_order(const struct slate_patching *patching)
{
    struct slate_layout layout = {.room = 0};
    enum slate_status status = look(patching, &layout);

    SLATE_THEN(status, sort_copy(patching, &layout.backup, true));
    return status == SLATE_OK ? sort_copy(patching, &layout.primary, false)
                              : status;
}

enum slate_status slate_patch_gpt_add(const struct slate_patching *patching,
                                      const struct slate_partition *partition)
{
    struct slate_layout layout = {.room = 0};
    enum slate_status status = look(patching, &layout);

    SLATE_THEN(status, add_to_copy(patching, &layout.backup, partition, true));
    return status == SLATE_OK
               ? add_to_copy(patching, &layout.primary, partition, false)
               : status;
}
