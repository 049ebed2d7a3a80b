/* SPDX-License-Identifier: MIT */
/* A closer look at NTFS: its fourth file record holds name and state, its last
 * block a copy of the first. The layout is the published one of the Linux
 * kernel's documentation and headers. */
#include <string.h>

#include "base/bits.h"
#include "base/bytes.h"
#include "volume/read.h"

#define TABLE_AT 48 /* in the boot block: clusters of the two tables */
#define SECOND_TABLE_AT 56
#define VOLUME_RECORD 3u
#define STRIDE 512u /* a record's last two bytes in each are kept apart */
#define NAME 0x60u
#define INFORMATION 0x70u
#define DIRTY 0x0001u

static bool host_changes(uint32_t at)
{
    (void)at;
    return false;
}

/* Above 0: clusters; below: the negative of its power of two. */
static uint32_t record_bytes(const uint8_t *boot, uint32_t cluster_bytes)
{
    uint8_t code = boot[64];

    if (code < 0x80)
        return cluster_bytes <= SLATE_WORK_MIN && code <= 8
                   ? code * cluster_bytes
                   : 0;
    return code >= 0xF4 ? (uint32_t)1 << (256 - code) : 0;
}

/* Puts back the two bytes at the end of each stride. */
static bool mend_record(uint8_t *record, uint32_t length)
{
    uint32_t at = slate_le16(record + 4), count = slate_le16(record + 6);

    if (memcmp(record, "FILE", 4) != 0 || count != length / STRIDE + 1 ||
        at + 2 * count > STRIDE)
        return false;
    for (uint32_t i = 1; i < count; i++) {
        uint8_t *end = record + (size_t)i * STRIDE - 2;

        if (memcmp(end, record + at, 2) != 0)
            return false; /* torn */
        memcpy(end, record + at + (size_t)2 * i, 2);
    }
    return true;
}

/* Where the byte with the dirty flag stands in the record; 0 for a clean
 * volume. */
static uint32_t take_attribute(const uint8_t *attribute, uint32_t length,
                               struct slate_volume *volume)
{
    uint32_t type = slate_le32(attribute);
    uint32_t bytes = slate_le32(attribute + 16);
    uint32_t at = slate_le16(attribute + 20);

    if (attribute[8] != 0 || at > length || bytes > length - at)
        return 0;
    if (type == NAME)
        slate_label_utf16(volume, attribute + at, bytes / 2);
    if (type != INFORMATION || bytes < 12)
        return 0;
    volume->dirty = (slate_le16(attribute + at + 10) & DIRTY) != 0;
    return volume->dirty ? at + 10 : 0;
}

static uint32_t take_record(const uint8_t *record, uint32_t length,
                            struct slate_volume *volume)
{
    uint32_t at = slate_le16(record + 20), dirty_at = 0;

    while (at + 24 <= length && slate_le32(record + at) != UINT32_MAX) {
        uint32_t bytes = slate_le32(record + at + 4);

        uint32_t found;

        if (bytes < 24 || bytes > length - at)
            break;
        found = take_attribute(record + at, bytes, volume);
        if (found != 0)
            dirty_at = at + found;
        at += bytes;
    }
    return dirty_at;
}

/* The record in the table that begins at this cluster, whole again; NULL when
 * it is none. */
static const uint8_t *read_record(struct slate_reader *reader, uint64_t cluster,
                                  uint32_t length,
                                  const struct slate_volume *volume,
                                  uint64_t *byte)
{
    uint32_t block = reader->media->geometry.block_bytes;
    uint8_t *record;

    if (length < STRIDE || length > SLATE_WORK_MIN || length % STRIDE != 0 ||
        cluster >= volume->bytes / volume->cluster_bytes)
        return NULL;
    *byte = cluster * volume->cluster_bytes + (uint64_t)VOLUME_RECORD * length;
    if (slate_reader_at(reader, *byte, length) == NULL)
        return NULL;
    record = reader->work + *byte % block;
    return mend_record(record, length) ? record : NULL;
}

/* The second table holds copies of the first four records, which hosts do not
 * read. The end of a stride is not where it stands: it is not the flag there.
 */
static void note_dirty(struct slate_reader *reader, uint64_t byte,
                       uint64_t second, uint32_t length,
                       struct slate_volume *volume, uint32_t at)
{
    struct slate_volume copy = *volume;
    const uint8_t *record;
    uint64_t copy_byte = 0;

    if (reader->flag == NULL || at % STRIDE >= STRIDE - 2)
        return;
    record = read_record(reader, second, length, volume, &copy_byte);
    if (record != NULL && take_record(record, length, &copy) == at)
        slate_reader_flag(reader, SLATE_FLAG_DIRTY, copy_byte + at, DIRTY,
                          false);
    slate_reader_flag(reader, SLATE_FLAG_DIRTY, byte + at, DIRTY, false);
}

void slate_ntfs_read(struct slate_reader *reader, const uint8_t *boot,
                     struct slate_volume *volume)
{
    uint32_t length = record_bytes(boot, volume->cluster_bytes), at = 0;
    uint64_t byte = 0;
    const uint8_t *record;

    if (volume->cluster_bytes == 0 || volume->bytes == 0)
        return;
    record =
        read_record(reader, slate_le64(boot + TABLE_AT), length, volume, &byte);
    if (record != NULL)
        at = take_record(record, length, volume);
    if (at != 0)
        note_dirty(reader, byte, slate_le64(boot + SECOND_TABLE_AT), length,
                   volume, at);
    slate_reader_copy(reader, volume->bytes - volume->block_bytes, boot,
                      host_changes, volume);
}
