/* SPDX-License-Identifier: MIT */
/* Recognising optical-disc images: ISO 9660 (ECMA-119, 8) and UDF (ECMA-167,
 * 2/8 and 3/10). */

#include "volume/known/known.h"

#define SECTOR_BYTES 2048u
#define FIRST_DESCRIPTOR 16u
#define MOST_DESCRIPTORS 8u
#define ANCHOR 256u
#define MOST_IN_SEQUENCE 8u

enum {
    TYPE_BOOT = 0,
    TYPE_PRIMARY = 1,
    TYPE_END = 255
};

enum {
    TAG_ANCHOR = 2,
    TAG_PARTITION = 5,
    TAG_LOGICAL_VOLUME = 6
};

static void take_primary(const uint8_t *descriptor, struct slate_volume *volume)
{
    volume->kind = SLATE_VOLUME_OPTICAL;
    volume->block_bytes = SECTOR_BYTES;
    volume->bytes = (uint64_t)slate_le32(descriptor + 80) * SECTOR_BYTES;
    slate_label_bytes(volume, descriptor + 40, 32);
}

/* A string of 128 bytes: its last tells the length, its first how many bytes a
 * character has (OSTA UDF 2.60, 2.1.1). */
static void take_string(const uint8_t *field, struct slate_volume *volume)
{
    uint8_t units[SLATE_LABEL_ROOM] = {0};
    size_t length = field[127] > 0 ? field[127] - 1u : 0;

    if (length > sizeof units)
        length = sizeof units;
    if (field[0] == 8)
        slate_label_bytes(volume, field + 1, length);
    if (field[0] != 16)
        return;
    for (size_t i = 0; i + 1 < length; i += 2) { /* the other byte order */
        units[i] = field[2 + i];
        units[i + 1] = field[1 + i];
    }
    slate_label_utf16(volume, units, length / 2);
}

/* The anchor leads to a sequence of descriptors, with the name and the size. */
static bool read_sequence(struct slate_reader *reader, uint32_t sector_bytes,
                          struct slate_volume *volume)
{
    const uint8_t *anchor = slate_reader_at(
        reader, (uint64_t)ANCHOR * sector_bytes, SLATE_PIECE_BYTES);
    uint64_t sequence;

    if (anchor == NULL || slate_le16(anchor) != TAG_ANCHOR)
        return false;
    sequence = slate_le32(anchor + 20);
    volume->block_bytes = sector_bytes;
    for (uint32_t i = 0; i < MOST_IN_SEQUENCE; i++) {
        const uint8_t *descriptor = slate_reader_at(
            reader, (sequence + i) * sector_bytes, SLATE_PIECE_BYTES);

        if (descriptor == NULL)
            break;
        if (slate_le16(descriptor) == TAG_LOGICAL_VOLUME)
            take_string(descriptor + 84, volume);
        if (slate_le16(descriptor) == TAG_PARTITION)
            volume->bytes = (uint64_t)sector_bytes *
                            ((uint64_t)slate_le32(descriptor + 188) +
                             slate_le32(descriptor + 192));
    }
    return true;
}

static void take_udf(struct slate_reader *reader, struct slate_volume *volume)
{
    volume->kind = SLATE_VOLUME_UDF;
    if (!read_sequence(reader, SECTOR_BYTES, volume))
        (void)read_sequence(reader, reader->media->geometry.block_bytes,
                            volume);
}

bool slate_optical_read(struct slate_reader *reader,
                        struct slate_volume *volume)
{
    bool bootable = false, udf = false;

    for (uint32_t i = 0; i < MOST_DESCRIPTORS; i++) {
        const uint8_t *descriptor = slate_reader_at(
            reader, (uint64_t)(FIRST_DESCRIPTOR + i) * SECTOR_BYTES,
            SLATE_PIECE_BYTES);

        if (descriptor == NULL)
            break;
        if (memcmp(descriptor + 1, "CD001", 5) == 0) {
            if (descriptor[0] == TYPE_PRIMARY)
                take_primary(descriptor, volume);
            bootable = bootable || descriptor[0] == TYPE_BOOT;
        } else if (memcmp(descriptor + 1, "NSR0", 4) == 0) {
            udf = true;
        } else if (memcmp(descriptor + 1, "BEA01", 5) != 0) {
            break;
        }
    }
    if (volume->kind == SLATE_VOLUME_OPTICAL)
        volume->bootable = bootable;
    else if (udf)
        take_udf(reader, volume);
    return volume->kind != SLATE_VOLUME_NONE;
}
