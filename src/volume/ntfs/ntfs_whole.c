/* SPDX-License-Identifier: MIT */
/* Records of NTFS's file table, read and made whole again. */
#include "volume/ntfs/ntfs.h"

#include "base/base.h"

/* Above 0: clusters; below: the negative of its power of two. */
static uint32_t record_bytes(const uint8_t *boot, uint32_t cluster_bytes)
{
    uint8_t code = boot[SLATE_NTFS_RECORD_SIZE];

    if (code < 0x80)
        return cluster_bytes <= SLATE_WORK_MIN && code <= 8
                   ? code * cluster_bytes
                   : 0;
    return code >= 0xF4 ? (uint32_t)1 << (256 - code) : 0;
}

bool slate_ntfs_begin(struct slate_reader *reader, const uint8_t *boot,
                      const struct slate_volume *volume,
                      struct slate_ntfs_reading *reading)
{
    reading->reader = reader;
    reading->table = slate_le64(boot + SLATE_NTFS_TABLE_AT);
    reading->mirror = slate_le64(boot + SLATE_NTFS_MIRROR_AT);
    reading->cluster_bytes = volume->cluster_bytes;
    if (volume->cluster_bytes == 0 || volume->bytes == 0)
        return false;
    reading->clusters = volume->bytes / volume->cluster_bytes;
    reading->length = record_bytes(boot, volume->cluster_bytes);
    return true;
}

/* Puts back the two bytes at the end of each stride. */
static bool mend_record(uint8_t *record, uint32_t length)
{
    uint32_t at = slate_le16(record + SLATE_NTFS_FIXUPS_AT);
    uint32_t count = slate_le16(record + SLATE_NTFS_FIXUPS);

    if (memcmp(record, "FILE", 4) != 0 ||
        count != length / SLATE_NTFS_STRIDE + 1 ||
        at + 2 * count > SLATE_NTFS_STRIDE)
        return false;
    for (uint32_t i = 1; i < count; i++) {
        uint8_t *end = record + (size_t)i * SLATE_NTFS_STRIDE - 2;

        if (memcmp(end, record + at, 2) != 0)
            return false; /* torn */
        memcpy(end, record + at + (size_t)2 * i, 2);
    }
    return true;
}

const uint8_t *slate_ntfs_read_record(const struct slate_ntfs_reading *reading,
                                      uint64_t table, uint32_t number,
                                      uint64_t *byte)
{
    struct slate_reader *reader = reading->reader;
    uint32_t block = reader->media->geometry.block_bytes;
    uint32_t length = reading->length;
    uint8_t *record;

    if (length < SLATE_NTFS_STRIDE || length > SLATE_WORK_MIN ||
        length % SLATE_NTFS_STRIDE != 0 || table >= reading->clusters)
        return NULL;
    *byte = table * reading->cluster_bytes + (uint64_t)number * length;
    if (slate_reader_at(reader, *byte, length) == NULL)
        return NULL;
    record = reader->work + *byte % block;
    return mend_record(record, length) ? record : NULL;
}

uint32_t slate_ntfs_next_attribute(const uint8_t *record, uint32_t length,
                                   uint32_t at, uint32_t *bytes)
{
    if (at == 0)
        at = slate_le16(record + SLATE_NTFS_RECORD_ATTRIBUTES);
    else
        at += slate_le32(record + at + SLATE_NTFS_LENGTH);
    if (at == 0 || at > length - SLATE_NTFS_HEAD_BYTES ||
        slate_le32(record + at) == UINT32_MAX)
        return 0;
    *bytes = slate_le32(record + at + SLATE_NTFS_LENGTH);
    return *bytes < SLATE_NTFS_HEAD_BYTES || *bytes > length - at ? 0 : at;
}

const uint8_t *slate_ntfs_value(const uint8_t *attribute, uint32_t length,
                                uint32_t *bytes)
{
    uint32_t at = slate_le16(attribute + SLATE_NTFS_VALUE_AT);

    *bytes = slate_le32(attribute + SLATE_NTFS_VALUE_BYTES);
    if (attribute[SLATE_NTFS_OUTSIDE] != 0 || at > length ||
        *bytes > length - at)
        return NULL;
    return attribute + at;
}

bool slate_ntfs_find_map(const uint8_t *record, uint32_t length,
                         uint8_t map[SLATE_NTFS_MAP_MOST], uint64_t *bytes)
{
    uint32_t at = 0, attribute, from;

    while ((at = slate_ntfs_next_attribute(record, length, at, &attribute)) !=
           0) {
        const uint8_t *found = record + at;

        if (slate_le32(found) != SLATE_NTFS_DATA ||
            found[SLATE_NTFS_NAME_UNITS] != 0 ||
            found[SLATE_NTFS_OUTSIDE] != 1 || attribute < SLATE_NTFS_MAP_LEAST)
            continue;
        from = slate_le16(found + SLATE_NTFS_MAP_AT);
        if (slate_le64(found + SLATE_NTFS_FIRST) != 0 || from >= attribute ||
            attribute - from >= SLATE_NTFS_MAP_MOST)
            return false;
        memset(map, 0, SLATE_NTFS_MAP_MOST);
        memcpy(map, found + from, attribute - from);
        *bytes = slate_le64(found + SLATE_NTFS_DATA_BYTES);
        return true;
    }
    return false;
}

static uint64_t number(const uint8_t *byte, uint32_t count, bool with_sign)
{
    uint64_t value =
        with_sign && (byte[count - 1] & 0x80) != 0 ? UINT64_MAX : 0;

    while (count-- > 0)
        value = value << 8 | byte[count];
    return value;
}

bool slate_ntfs_next_stretch(const uint8_t map[SLATE_NTFS_MAP_MOST],
                             struct slate_ntfs_stretch *stretch)
{
    const uint8_t *run = map + stretch->next;
    uint32_t length = run[0] & 15u, moved = run[0] >> 4;

    if (length == 0 || length > 8 || moved == 0 || moved > 8 ||
        stretch->next + 1 + length + moved >= SLATE_NTFS_MAP_MOST)
        return false;
    stretch->clusters = number(run + 1, length, false);
    stretch->first += number(run + 1 + length, moved, true);
    stretch->next += 1 + length + moved;
    return true;
}

/* A page of the log's start: its state is clean where nobody uses it, or the
 * last one left it in order; and one that was never used is all ones. */
static bool is_page_clean(const uint8_t *page, uint64_t *when)
{
    uint32_t at = slate_le16(page + SLATE_NTFS_RESTART_AT);

    *when = 0;
    if (memcmp(page, "RSTR", 4) != 0 || at > SLATE_NTFS_STRIDE - 18)
        return true;
    *when = slate_le64(page + at);
    return slate_le16(page + at + SLATE_NTFS_RESTART_USED) == 0xFFFF ||
           (slate_le16(page + at + SLATE_NTFS_RESTART_FLAGS) &
            SLATE_NTFS_RESTART_CLEAN) != 0;
}

/* The younger one of the two pages holds. */
bool slate_ntfs_has_replay(const struct slate_ntfs_reading *reading)
{
    struct slate_ntfs_stretch stretch = {0};
    uint8_t map[SLATE_NTFS_MAP_MOST];
    uint64_t bytes, at, when, latest = 0;
    bool clean = true;
    const uint8_t *page = slate_ntfs_read_record(reading, reading->table,
                                                 SLATE_NTFS_LOG_RECORD, &at);

    if (page == NULL ||
        !slate_ntfs_find_map(page, reading->length, map, &bytes) ||
        !slate_ntfs_next_stretch(map, &stretch) ||
        stretch.first >= reading->clusters)
        return false;
    for (uint32_t i = 0; i < 2; i++) {
        at = stretch.first * reading->cluster_bytes +
             (uint64_t)i * SLATE_NTFS_RESTART_APART;
        page = slate_reader_at(reading->reader, at, SLATE_NTFS_STRIDE);
        if (page != NULL) {
            bool good = is_page_clean(page, &when);

            if (when > latest) {
                latest = when;
                clean = good;
            }
        }
    }
    return !clean;
}
