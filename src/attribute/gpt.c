/* SPDX-License-Identifier: MIT */
/* Clearing attributes of a GPT entry: in the backup first, so that one copy of
 * the table is whole at any time (UEFI 2.10, 5.3). */
#include <string.h>

#include "attribute/attribute.h"
#include "base/bytes.h"
#include "table/gpt.h"

/* An entry of one copy that is to be changed. */
struct change {
    struct slate_media *media;
    const struct slate_gpt_copy *copy;
    uint8_t *work;
    uint32_t at; /* byte of the entry in the array */
    uint64_t bits;
};

/* Clears the bits in a run of the array that begins at this byte, where the
 * entry lies in it. */
static void apply(const struct change *change, uint32_t begin, uint32_t bytes)
{
    uint8_t *field =
        change->work + (change->at - begin) + SLATE_GPT_ENTRY_ATTRIBUTES;

    if (change->at >= begin && change->at < begin + bytes)
        slate_put_le64(field, slate_le64(field) & ~change->bits);
}

/* The checksum that the array will have. */
static enum slate_status sum_array(const struct change *change, uint32_t *crc)
{
    const struct slate_gpt_copy *copy = change->copy;
    uint32_t block_bytes = change->media->geometry.block_bytes;
    uint32_t bytes = copy->entry_count * copy->entry_bytes;
    uint64_t lba = copy->array_lba;

    *crc = 0;
    for (uint32_t begin = 0; begin < bytes; begin += SLATE_WORK_MIN) {
        uint32_t here =
            bytes - begin < SLATE_WORK_MIN ? bytes - begin : SLATE_WORK_MIN;
        uint32_t blocks = (here + block_bytes - 1) / block_bytes;
        enum slate_status status =
            slate_media_read(change->media, lba, blocks, change->work);

        if (status != SLATE_OK)
            return status;
        apply(change, begin, here);
        *crc = slate_crc32(*crc, change->work, here);
        lba += blocks;
    }
    return SLATE_OK;
}

static enum slate_status write_entry(const struct change *change)
{
    uint32_t block_bytes = change->media->geometry.block_bytes;
    uint32_t block = change->at / block_bytes;
    uint64_t lba = change->copy->array_lba + block;
    enum slate_status status =
        slate_media_read(change->media, lba, 1, change->work);

    if (status != SLATE_OK)
        return status;
    apply(change, block * block_bytes, block_bytes);
    return slate_media_write(change->media, lba, 1, change->work);
}

static enum slate_status write_header(const struct change *change, uint32_t crc)
{
    const struct slate_gpt_copy *copy = change->copy;
    uint8_t *header = change->work;
    enum slate_status status =
        slate_media_read(change->media, copy->lba, 1, header);

    if (status != SLATE_OK)
        return status;
    slate_put_le32(header + SLATE_GPT_ARRAY_CRC, crc);
    slate_put_le32(header + SLATE_GPT_HEADER_CRC, 0);
    slate_put_le32(header + SLATE_GPT_HEADER_CRC,
                   slate_crc32(0, header, copy->header_bytes));
    return slate_media_write(change->media, copy->lba, 1, header);
}

static enum slate_status change_copy(struct slate_media *media,
                                     const struct slate_gpt_copy *copy,
                                     uint32_t number, uint64_t bits,
                                     uint8_t *work)
{
    struct change change = {media, copy, work, (number - 1) * copy->entry_bytes,
                            bits};
    uint32_t crc;
    enum slate_status status = sum_array(&change, &crc);

    if (status == SLATE_OK)
        status = write_entry(&change);
    if (status == SLATE_OK)
        status = write_header(&change, crc);
    return status == SLATE_OK ? slate_media_flush(media) : status;
}

static bool both_are_sound(const struct slate_layout *layout)
{
    const struct slate_gpt_copy *a = &layout->primary, *b = &layout->backup;

    return a->state == SLATE_GPT_SOUND && b->state == SLATE_GPT_SOUND &&
           a->array_crc == b->array_crc && a->entry_bytes == b->entry_bytes &&
           a->entry_count == b->entry_count;
}

/* The attributes that the entry has now, in both copies of a sound table. */
static enum slate_status read_now(struct slate_media *media, void *work,
                                  const struct slate_partition *entry,
                                  struct slate_layout *layout, uint64_t *bits)
{
    const struct slate_gpt_copy *copy = &layout->primary;
    uint32_t block_bytes = media->geometry.block_bytes;
    const uint8_t *found = work;
    uint32_t at;
    enum slate_status status;

    layout->room = 0; /* the copies are enough */
    status = slate_layout_read(media, work, layout);
    if (status != SLATE_OK)
        return status;
    if (layout->kind != SLATE_TABLE_GPT || entry->number > copy->entry_count)
        return SLATE_ERR_CHANGED;
    if (!both_are_sound(layout))
        return SLATE_ERR_ONE_COPY;
    at = (entry->number - 1) * copy->entry_bytes;
    status =
        slate_media_read(media, copy->array_lba + at / block_bytes, 1, work);
    found += at % block_bytes;
    *bits = slate_le64(found + SLATE_GPT_ENTRY_ATTRIBUTES);
    if (status == SLATE_OK &&
        (memcmp(found + SLATE_GPT_ENTRY_ID, entry->id.bytes, 16) != 0 ||
         slate_le64(found + SLATE_GPT_ENTRY_FIRST) != entry->first))
        status = SLATE_ERR_CHANGED;
    return status;
}

enum slate_status slate_attribute_clear_gpt(struct slate_media *media,
                                            const struct slate_partition *entry,
                                            uint64_t bits, void *work)
{
    struct slate_layout layout = {0};
    uint64_t now = 0;
    enum slate_status status = read_now(media, work, entry, &layout, &now);

    if (status == SLATE_OK && (now & bits) == 0)
        status = SLATE_ERR_CHANGED;
    if (status == SLATE_OK)
        status = change_copy(media, &layout.backup, entry->number, bits, work);
    if (status == SLATE_OK)
        status = change_copy(media, &layout.primary, entry->number, bits, work);
    if (status == SLATE_OK)
        status = read_now(media, work, entry, &layout, &now);
    return status == SLATE_OK && (now & bits) != 0 ? SLATE_ERR_STILL_GUARDED
                                                   : status;
}
