/* SPDX-License-Identifier: MIT */
/* Members of a Linux RAID whose record stands near the end (the Linux kernel's
 * header on its layout): version 1.0 and version 0.90. */
#include "volume/known/known.h"

#define MAGIC 0xA92B4EFCu

void slate_raid_tail_read(struct slate_reader *reader,
                          struct slate_volume *volume)
{
    uint64_t bytes = reader->range.count * reader->media->geometry.block_bytes;
    const uint8_t *record;

    if (bytes < 131072)
        return;
    record = slate_reader_at(reader, (bytes - 8192) & ~(uint64_t)4095,
                             SLATE_PIECE_BYTES);
    if (record != NULL && slate_le32(record) == MAGIC) {
        volume->kind = SLATE_VOLUME_RAID;
        slate_volume_take_uuid(record + 16, volume);
        slate_label_utf8(volume, record + 32, 32);
        return;
    }
    record = slate_reader_at(reader, (bytes & ~(uint64_t)65535) - 65536,
                             SLATE_PIECE_BYTES);
    if (record != NULL && slate_le32(record) == MAGIC)
        volume->kind = SLATE_VOLUME_RAID;
}
