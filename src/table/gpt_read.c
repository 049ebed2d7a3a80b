/* SPDX-License-Identifier: MIT */
/* Reading the GPT at both ends of a device (UEFI 2.10, 5.3). */

#include "base/base.h"
#include "table/table.h"

/* Larger arrays than this are not believed; the usual one has 128 entries of
 * 128 bytes. */
#define ARRAY_BYTES_MOST 131072u
#define GLANCE_SLOTS 128u

/* The header's own checksum covers it with its checksum field at zero. */
static bool header_is_sound(uint8_t *block, uint32_t block_bytes, uint64_t lba)
{
    uint32_t size = slate_le32(block + SLATE_GPT_HEADER_SIZE);
    uint32_t crc = slate_le32(block + SLATE_GPT_HEADER_CRC);

    if (size < SLATE_GPT_HEADER_BYTES || size > block_bytes ||
        slate_le64(block + SLATE_GPT_MY_LBA) != lba)
        return false;
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, 0);
    return slate_crc32(0, block, size) == crc;
}

static void take_header(const uint8_t *block, struct slate_gpt_copy *copy)
{
    copy->other_lba = slate_le64(block + SLATE_GPT_OTHER_LBA);
    copy->array_lba = slate_le64(block + SLATE_GPT_ARRAY_LBA);
    copy->first_usable = slate_le64(block + SLATE_GPT_FIRST_USABLE);
    copy->last_usable = slate_le64(block + SLATE_GPT_LAST_USABLE);
    copy->revision = slate_le32(block + SLATE_GPT_REVISION);
    copy->header_bytes = slate_le32(block + SLATE_GPT_HEADER_SIZE);
    copy->entry_count = slate_le32(block + SLATE_GPT_ARRAY_COUNT);
    copy->entry_bytes = slate_le32(block + SLATE_GPT_ENTRY_SIZE);
    copy->array_crc = slate_le32(block + SLATE_GPT_ARRAY_CRC);
    memcpy(copy->disk_id.bytes, block + SLATE_GPT_DISK_ID, 16);
}

static bool array_is_believable(const struct slate_gpt_copy *copy,
                                const struct slate_geometry *geometry)
{
    uint64_t blocks;

    if (copy->entry_bytes < SLATE_GPT_ENTRY_BYTES ||
        copy->entry_bytes > geometry->block_bytes ||
        !slate_is_power_of_two(copy->entry_bytes) || copy->entry_count == 0 ||
        copy->entry_count > ARRAY_BYTES_MOST / copy->entry_bytes)
        return false;
    blocks = ((uint64_t)copy->entry_count * copy->entry_bytes +
              geometry->block_bytes - 1) /
             geometry->block_bytes;
    return copy->array_lba < geometry->block_count &&
           blocks <= geometry->block_count - copy->array_lba;
}

static void take_entry(struct slate_layout *layout, const uint8_t *entry,
                       uint32_t slot)
{
    struct slate_partition *partition;
    uint64_t first = slate_le64(entry + SLATE_GPT_ENTRY_FIRST);
    uint64_t last = slate_le64(entry + SLATE_GPT_ENTRY_LAST);

    if (slate_is_zero(entry + SLATE_GPT_ENTRY_TYPE, 16) || last < first)
        return;
    partition = slate_layout_take(
        layout, first, last - first == UINT64_MAX ? last : last - first + 1,
        slot + 1);
    if (partition == NULL)
        return;
    memcpy(partition->type.bytes, entry + SLATE_GPT_ENTRY_TYPE, 16);
    memcpy(partition->id.bytes, entry + SLATE_GPT_ENTRY_ID, 16);
    partition->attributes = slate_le64(entry + SLATE_GPT_ENTRY_ATTRIBUTES);
    slate_utf16_to_utf8(entry + SLATE_GPT_ENTRY_NAME, SLATE_GPT_NAME_UNITS,
                        partition->name, sizeof partition->name);
}

/* Walks the array in runs of SLATE_WORK_MIN bytes; takes the entries when a
 * layout is given. */
static enum slate_status walk_array(struct slate_media *media, uint8_t *work,
                                    const struct slate_gpt_copy *copy,
                                    uint32_t slots, struct slate_layout *layout,
                                    uint32_t *crc)
{
    uint32_t block_bytes = media->geometry.block_bytes;
    uint32_t per_run = SLATE_WORK_MIN / copy->entry_bytes;
    uint64_t lba = copy->array_lba;

    *crc = 0;
    for (uint32_t slot = 0; slot < slots; slot += per_run) {
        uint32_t left = slots - slot;
        uint32_t here = left < per_run ? left : per_run;
        uint32_t bytes = here * copy->entry_bytes;
        uint32_t blocks = (bytes + block_bytes - 1) / block_bytes;
        SLATE_TRY(slate_media_read(media, lba, blocks, work));
        lba += blocks;
        *crc = slate_crc32(*crc, work, bytes);
        for (uint32_t i = 0; i < here && layout != NULL; i++)
            take_entry(layout, work + (size_t)i * copy->entry_bytes, slot + i);
    }
    return SLATE_OK;
}

/* Reads the array of a copy with a sound header; takes its partitions when a
 * layout is given. */
static enum slate_status read_array(struct slate_media *media, uint8_t *work,
                                    struct slate_gpt_copy *copy, bool glance,
                                    struct slate_layout *layout)
{
    uint32_t before = slate_media_unread_count(media), crc = 0;
    uint32_t slots = copy->entry_count;
    enum slate_status status = SLATE_OK;

    copy->state = SLATE_GPT_ARRAY_DAMAGED;
    if (!array_is_believable(copy, &media->geometry))
        return SLATE_OK;
    if (glance && layout == NULL)
        slots = 0;
    else if (glance && slots > GLANCE_SLOTS)
        slots = GLANCE_SLOTS;
    if (slots > 0)
        status = walk_array(media, work, copy, slots, layout, &crc);
    if (status == SLATE_OK && !slate_media_unread_since(media, before) &&
        (crc == copy->array_crc || slots < copy->entry_count))
        copy->state = SLATE_GPT_SOUND;
    else if (slate_media_unread_since(media, before))
        copy->state = SLATE_GPT_UNREADABLE;
    if (copy->state != SLATE_GPT_SOUND && layout != NULL)
        slate_layout_empty(layout);
    return status;
}

/* Checks one copy and, when a layout is given and it is sound, takes its
 * partitions. */
static enum slate_status read_copy(struct slate_media *media, uint8_t *work,
                                   uint64_t lba, struct slate_gpt_copy *copy,
                                   bool glance, struct slate_layout *layout)
{
    uint32_t before = slate_media_unread_count(media);
    enum slate_status status = slate_media_read(media, lba, 1, work);

    memset(copy, 0, sizeof *copy);
    copy->lba = lba;
    SLATE_TRY(status);
    if (slate_media_unread_since(media, before))
        copy->state = SLATE_GPT_UNREADABLE;
    if (memcmp(work, SLATE_GPT_SIGNATURE, 8) != 0)
        return SLATE_OK;
    take_header(work, copy);
    copy->state = SLATE_GPT_HEADER_DAMAGED;
    if (!header_is_sound(work, media->geometry.block_bytes, lba))
        return SLATE_OK;
    return read_array(media, work, copy, glance, layout);
}

/* The backup stands in the last block, or where the primary copy says when the
 * device was smaller then. */
static enum slate_status read_backup(struct slate_media *media, uint8_t *work,
                                     struct slate_layout *layout,
                                     struct slate_layout *wanted)
{
    uint64_t last = media->geometry.block_count - 1;
    uint64_t other = layout->primary.other_lba;
    enum slate_status status =
        read_copy(media, work, last, &layout->backup, layout->glance, wanted);

    if (status == SLATE_OK && layout->backup.state != SLATE_GPT_SOUND &&
        layout->primary.state >= SLATE_GPT_ARRAY_DAMAGED && other > 1 &&
        other < last) {
        struct slate_gpt_copy there;

        status = read_copy(media, work, other, &there, layout->glance, wanted);
        if (there.state > layout->backup.state)
            layout->backup = there;
    }
    return status;
}

bool slate_layout_copies_differ(const struct slate_layout *layout)
{
    const struct slate_gpt_copy *one = &layout->primary;
    const struct slate_gpt_copy *two = &layout->backup;

    return layout->kind == SLATE_TABLE_GPT && one->state == SLATE_GPT_SOUND &&
           two->state == SLATE_GPT_SOUND &&
           (one->array_crc != two->array_crc ||
            memcmp(one->disk_id.bytes, two->disk_id.bytes, 16) != 0);
}

/* The second copy was picked. */
static enum slate_status take_second(struct slate_media *media, uint8_t *work,
                                     struct slate_layout *layout)
{
    layout->disk_id = layout->backup.disk_id;
    slate_layout_empty(layout);
    return slate_layout_read_gpt(media, work, &layout->backup, layout);
}

enum slate_status slate_gpt_read(struct slate_media *media, uint8_t *work,
                                 bool wanted, struct slate_layout *layout)
{
    struct slate_layout *taken = wanted ? layout : NULL;
    enum slate_status status;

    if (media->geometry.block_count < 3)
        return SLATE_OK;
    status = read_copy(media, work, 1, &layout->primary, layout->glance, taken);
    if (layout->primary.state == SLATE_GPT_SOUND)
        taken = NULL; /* its partitions are the ones */
    SLATE_THEN(status, read_backup(media, work, layout, taken));
    if (layout->primary.state == SLATE_GPT_SOUND && wanted)
        layout->disk_id = layout->primary.disk_id;
    else if (layout->backup.state == SLATE_GPT_SOUND && layout->protective)
        layout->disk_id = layout->backup.disk_id;
    else {
        if (wanted)
            slate_layout_empty(layout);
        return status;
    }
    layout->kind = SLATE_TABLE_GPT;
    return status == SLATE_OK && layout->second &&
                   slate_layout_copies_differ(layout)
               ? take_second(media, work, layout)
               : status;
}

enum slate_status slate_layout_read_gpt(struct slate_media *media, void *work,
                                        const struct slate_gpt_copy *copy,
                                        struct slate_layout *layout)
{
    struct slate_gpt_copy again = *copy;

    if (copy->state != SLATE_GPT_SOUND)
        return SLATE_ERR_ARGUMENT;
    slate_layout_empty(layout);
    return read_array(media, work, &again, false, layout);
}
