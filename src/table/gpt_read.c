/* SPDX-License-Identifier: MIT */
/* Reading the GPT at both ends of a device (UEFI 2.10, 5.3). */
#include <string.h>

#include "base/bytes.h"
#include "base/utf.h"
#include "base/zero.h"
#include "table/gpt.h"

/* More entries than this are not believed; the usual number is 128. */
#define ENTRIES_MOST 1024u

struct gpt_header {
    uint64_t array_lba;
    uint32_t entry_count;
    uint32_t entry_bytes;
    uint32_t array_crc;
    struct slate_guid disk_id;
};

static bool header_is_sound(uint8_t *block, uint32_t block_bytes, uint64_t lba)
{
    uint32_t size = slate_le32(block + SLATE_GPT_HEADER_SIZE);
    uint32_t crc = slate_le32(block + SLATE_GPT_HEADER_CRC);

    if (memcmp(block, SLATE_GPT_SIGNATURE, 8) != 0 ||
        size < SLATE_GPT_HEADER_BYTES || size > block_bytes ||
        slate_le64(block + SLATE_GPT_MY_LBA) != lba)
        return false;
    slate_put_le32(block + SLATE_GPT_HEADER_CRC, 0);
    return slate_crc32(0, block, size) == crc;
}

static bool array_is_believable(const struct gpt_header *header,
                                const struct slate_geometry *geometry)
{
    uint64_t blocks;

    if (header->entry_bytes < SLATE_GPT_ENTRY_BYTES ||
        header->entry_bytes > geometry->block_bytes ||
        (header->entry_bytes & (header->entry_bytes - 1)) != 0 ||
        header->entry_count == 0 || header->entry_count > ENTRIES_MOST)
        return false;
    blocks = ((uint64_t)header->entry_count * header->entry_bytes +
              geometry->block_bytes - 1) /
             geometry->block_bytes;
    return header->array_lba < geometry->block_count &&
           blocks <= geometry->block_count - header->array_lba;
}

static void take_entry(struct slate_layout *layout, const uint8_t *entry,
                       uint32_t slot)
{
    struct slate_partition *partition;
    uint64_t first = slate_le64(entry + SLATE_GPT_ENTRY_FIRST);
    uint64_t last = slate_le64(entry + SLATE_GPT_ENTRY_LAST);

    if (slate_is_zero(entry + SLATE_GPT_ENTRY_TYPE, 16) || last < first)
        return;
    layout->found++;
    if (layout->count == layout->room)
        return;
    partition = &layout->partition[layout->count++];
    memset(partition, 0, sizeof *partition);
    partition->slot = slot;
    partition->first = first;
    partition->count = last - first == UINT64_MAX ? last : last - first + 1;
    memcpy(partition->type.bytes, entry + SLATE_GPT_ENTRY_TYPE, 16);
    memcpy(partition->id.bytes, entry + SLATE_GPT_ENTRY_ID, 16);
    partition->attributes = slate_le64(entry + SLATE_GPT_ENTRY_ATTRIBUTES);
    slate_utf16_to_utf8(entry + SLATE_GPT_ENTRY_NAME, SLATE_GPT_NAME_UNITS,
                        partition->name, sizeof partition->name);
}

/* Walks the array in runs of SLATE_WORK_MIN bytes; takes the entries when a
 * layout is given. */
static enum slate_status walk_array(struct slate_media *media, uint8_t *work,
                                    const struct gpt_header *header,
                                    struct slate_layout *layout, uint32_t *crc)
{
    uint32_t block_bytes = media->geometry.block_bytes;
    uint32_t per_run = SLATE_WORK_MIN / header->entry_bytes;
    uint64_t lba = header->array_lba;

    *crc = 0;
    for (uint32_t slot = 0; slot < header->entry_count; slot += per_run) {
        uint32_t left = header->entry_count - slot;
        uint32_t here = left < per_run ? left : per_run;
        uint32_t bytes = here * header->entry_bytes;
        uint32_t blocks = (bytes + block_bytes - 1) / block_bytes;
        enum slate_status status = slate_media_read(media, lba, blocks, work);

        if (status != SLATE_OK)
            return status;
        lba += blocks;
        *crc = slate_crc32(*crc, work, bytes);
        for (uint32_t i = 0; i < here && layout != NULL; i++)
            take_entry(layout, work + (size_t)i * header->entry_bytes,
                       slot + i);
    }
    return SLATE_OK;
}

/* Checks one copy and, when a layout is given, takes its entries. */
static enum slate_status read_copy(struct slate_media *media, uint8_t *work,
                                   uint64_t lba, struct slate_layout *layout,
                                   bool *sound)
{
    struct gpt_header header;
    enum slate_status status = slate_media_read(media, lba, 1, work);
    uint32_t crc;

    *sound = false;
    if (status != SLATE_OK ||
        !header_is_sound(work, media->geometry.block_bytes, lba))
        return status;
    header.array_lba = slate_le64(work + SLATE_GPT_ARRAY_LBA);
    header.entry_count = slate_le32(work + SLATE_GPT_ARRAY_COUNT);
    header.entry_bytes = slate_le32(work + SLATE_GPT_ENTRY_SIZE);
    header.array_crc = slate_le32(work + SLATE_GPT_ARRAY_CRC);
    memcpy(header.disk_id.bytes, work + SLATE_GPT_DISK_ID, 16);
    if (!array_is_believable(&header, &media->geometry))
        return SLATE_OK;
    if (layout != NULL) {
        layout->count = 0;
        layout->found = 0;
        layout->disk_id = header.disk_id;
    }
    status = walk_array(media, work, &header, layout, &crc);
    *sound = status == SLATE_OK && crc == header.array_crc;
    return status;
}

#define MBR_ENTRIES 4

/* The MBR's entries, to be put back when no copy of the GPT is sound. */
struct kept {
    struct slate_partition partition[MBR_ENTRIES];
    uint32_t count, found;
};

static void keep(struct kept *kept, const struct slate_layout *layout)
{
    kept->count = layout->count < MBR_ENTRIES ? layout->count : MBR_ENTRIES;
    kept->found = layout->found;
    memcpy(kept->partition, layout->partition,
           kept->count * sizeof kept->partition[0]);
}

static void put_back(const struct kept *kept, struct slate_layout *layout)
{
    layout->count = kept->count;
    layout->found = kept->found;
    memset(&layout->disk_id, 0, sizeof layout->disk_id);
    memcpy(layout->partition, kept->partition,
           kept->count * sizeof kept->partition[0]);
}

enum slate_status slate_gpt_read(struct slate_media *media, uint8_t *work,
                                 struct slate_layout *layout)
{
    uint64_t blocks = media->geometry.block_count;
    struct slate_layout *wanted = layout->protective ? layout : NULL;
    enum slate_status status;
    struct kept kept;

    if (blocks < 3)
        return SLATE_OK;
    keep(&kept, layout);
    status = read_copy(media, work, 1, wanted, &layout->gpt_primary);
    if (layout->gpt_primary)
        wanted = NULL; /* its entries are the ones */
    if (status == SLATE_OK)
        status =
            read_copy(media, work, blocks - 1, wanted, &layout->gpt_backup);
    if (!layout->gpt_primary && !layout->gpt_backup)
        put_back(&kept, layout);
    else if (layout->protective)
        layout->kind = SLATE_TABLE_GPT;
    return status;
}
