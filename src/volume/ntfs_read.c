/* SPDX-License-Identifier: MIT */
/* A closer look at NTFS: its fourth file record holds name and state, its last
 * block a copy of the first. The layout is the published one of the Linux
 * kernel's documentation and headers. */
#include <string.h>

#include "base/bits.h"
#include "base/bytes.h"
#include "volume/read.h"

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

static void take_attribute(const uint8_t *attribute, uint32_t length,
                           struct slate_volume *volume)
{
    uint32_t type = slate_le32(attribute);
    uint32_t bytes = slate_le32(attribute + 16);
    uint32_t at = slate_le16(attribute + 20);

    if (attribute[8] != 0 || at > length || bytes > length - at)
        return;
    if (type == NAME)
        slate_label_utf16(volume, attribute + at, bytes / 2);
    if (type == INFORMATION && bytes >= 12)
        volume->dirty = (slate_le16(attribute + at + 10) & DIRTY) != 0;
}

static void take_record(const uint8_t *record, uint32_t length,
                        struct slate_volume *volume)
{
    uint32_t at = slate_le16(record + 20);

    while (at + 24 <= length && slate_le32(record + at) != UINT32_MAX) {
        uint32_t bytes = slate_le32(record + at + 4);

        if (bytes < 24 || bytes > length - at)
            return;
        take_attribute(record + at, bytes, volume);
        at += bytes;
    }
}

void slate_ntfs_read(struct slate_reader *reader, const uint8_t *boot,
                     struct slate_volume *volume)
{
    uint32_t length = record_bytes(boot, volume->cluster_bytes);
    uint64_t table = slate_le64(boot + 48);

    if (volume->cluster_bytes == 0 || volume->bytes == 0)
        return;
    if (length >= STRIDE && length <= SLATE_WORK_MIN && length % STRIDE == 0 &&
        table < volume->bytes / volume->cluster_bytes) {
        uint64_t byte =
            table * volume->cluster_bytes + (uint64_t)VOLUME_RECORD * length;

        if (slate_reader_at(reader, byte, length) != NULL) {
            uint8_t *record =
                reader->work + byte % reader->media->geometry.block_bytes;

            if (mend_record(record, length))
                take_record(record, length, volume);
        }
    }
    slate_reader_copy(reader, volume->bytes - volume->block_bytes, boot,
                      host_changes, volume);
}
