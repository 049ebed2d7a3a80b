/* SPDX-License-Identifier: MIT */
/* A closer look at NTFS: its fourth file record holds name and state; its last
 * block is a copy of the first, and its mirror one of the first records. The
 * layout is the published one of the Linux kernel's documentation and headers.
 */

#include "base/base.h"
#include "volume/ntfs/ntfs.h"

static bool host_changes(uint32_t at)
{
    (void)at;
    return false;
}

/* Where the byte with the dirty flag stands in the record; 0 for a clean
 * volume. */
static uint32_t take_attribute(const uint8_t *attribute, uint32_t length,
                               struct slate_volume *volume)
{
    uint32_t type = slate_le32(attribute), bytes;
    const uint8_t *value = slate_ntfs_value(attribute, length, &bytes);
    uint32_t at = SLATE_NTFS_INFORMATION_FLAGS;

    if (value != NULL && type == SLATE_NTFS_VOLUME_NAME)
        slate_label_utf16(volume, value, bytes / 2);
    if (value == NULL || type != SLATE_NTFS_INFORMATION || bytes < 12)
        return 0;
    volume->dirty = (slate_le16(value + at) & SLATE_NTFS_DIRTY) != 0;
    return volume->dirty ? (uint32_t)(value - attribute) + at : 0;
}

static uint32_t take_record(const uint8_t *record, uint32_t length,
                            struct slate_volume *volume)
{
    uint32_t at = 0, dirty_at = 0, bytes;

    while ((at = slate_ntfs_next_attribute(record, length, at, &bytes)) != 0) {
        uint32_t found = take_attribute(record + at, bytes, volume);

        if (found != 0)
            dirty_at = at + found;
    }
    return dirty_at;
}

/* The mirror holds copies of the first four records, which hosts do not read.
 * The end of a stride is not where it stands: it is not the flag there. */
static void note_dirty(const struct slate_ntfs_reading *reading, uint64_t byte,
                       struct slate_volume *volume, uint32_t at)
{
    struct slate_volume copy = *volume;
    const uint8_t *record;
    uint64_t copy_byte = 0;

    if (reading->reader->flag == NULL ||
        at % SLATE_NTFS_STRIDE >= SLATE_NTFS_STRIDE - 2)
        return;
    record = slate_ntfs_read_record(reading, reading->mirror,
                                    SLATE_NTFS_VOLUME_RECORD, &copy_byte);
    if (record != NULL && take_record(record, reading->length, &copy) == at)
        slate_reader_flag(reading->reader, SLATE_FLAG_DIRTY, copy_byte + at,
                          SLATE_NTFS_DIRTY, false);
    slate_reader_flag(reading->reader, SLATE_FLAG_DIRTY, byte + at,
                      SLATE_NTFS_DIRTY, false);
}

/* The first record tells where the table itself stands; its mirror has to tell
 * the same. */
static void compare_mirror(const struct slate_ntfs_reading *reading,
                           struct slate_volume *volume)
{
    uint8_t map[SLATE_NTFS_MAP_MOST], other[SLATE_NTFS_MAP_MOST];
    uint64_t bytes, byte = 0;
    const uint8_t *record = slate_ntfs_read_record(
        reading, reading->table, SLATE_NTFS_TABLE_RECORD, &byte);

    if (volume->copy != SLATE_COPY_EQUAL || record == NULL ||
        !slate_ntfs_find_map(record, reading->length, map, &bytes))
        return;
    record = slate_ntfs_read_record(reading, reading->mirror,
                                    SLATE_NTFS_TABLE_RECORD, &byte);
    if (reading->reader->status != SLATE_OK ||
        (record != NULL &&
         slate_ntfs_find_map(record, reading->length, other, &bytes) &&
         memcmp(map, other, sizeof map) == 0))
        return;
    volume->copy = SLATE_COPY_DIFFERENT;
    volume->copy_lba = slate_reader_lba(
        reading->reader, reading->mirror * reading->cluster_bytes);
}

void slate_ntfs_read(struct slate_reader *reader, const uint8_t *boot,
                     struct slate_volume *volume)
{
    struct slate_ntfs_reading reading;
    const uint8_t *record;
    uint64_t byte = 0;
    uint32_t at;

    if (!slate_ntfs_begin(reader, boot, volume, &reading))
        return;
    record = slate_ntfs_read_record(&reading, reading.table,
                                    SLATE_NTFS_VOLUME_RECORD, &byte);
    at = record == NULL ? 0 : take_record(record, reading.length, volume);
    if (at != 0)
        note_dirty(&reading, byte, volume, at);
    slate_reader_copy(reader, volume->bytes - volume->block_bytes, boot,
                      host_changes, volume);
    if (reader->flag != NULL)
        return; /* only flags are looked for */
    volume->replay = slate_ntfs_has_replay(&reading);
    volume->dirty = volume->dirty || volume->replay;
    compare_mirror(&reading, volume);
    slate_ntfs_count(&reading, volume);
}
