/* SPDX-License-Identifier: MIT */
/* What the readers of volumes share. */
#ifndef SLATE_VOLUME_READ_H
#define SLATE_VOLUME_READ_H

#include "media/wire/unread.h"
#include "trueslate/volume.h"

/* A range being read, with the one buffer for it. */
struct slate_reader {
    struct slate_media *media;
    struct slate_range range; /* cut to the device */
    uint8_t *work;            /* SLATE_WORK_MIN bytes, or */
    uint32_t room;            /* so many; 0: SLATE_WORK_MIN */
    enum slate_status status; /* the first failure; nothing is read after it */
    struct slate_flag *flag;  /* room for SLATE_FLAGS_MAX; NULL: not wanted */
    uint32_t flags;
};

/* Cuts the range to the device; false when nothing of it is there. */
bool slate_reader_cut(struct slate_reader *reader);

/* Notes a raised flag, where that is wanted: bits of a byte of the range. */
void slate_reader_flag(struct slate_reader *reader, enum slate_flag_kind kind,
                       uint64_t byte, uint8_t mask, bool set);

/* Reads this many bytes at a byte of the range into the buffer. NULL when they
 * do not lie inside, do not fit the buffer, or could not be read. */
const uint8_t *slate_reader_at(struct slate_reader *reader, uint64_t byte,
                               uint32_t length);

/* The first block of the device that holds this byte of the range. */
uint64_t slate_reader_lba(const struct slate_reader *reader, uint64_t byte);

/* Compares a copy with the boot block, but for the bytes that hosts change:
 * those where the mask is true. */
void slate_reader_copy(struct slate_reader *reader, uint64_t byte,
                       const uint8_t *boot, bool (*changes)(uint32_t at),
                       struct slate_volume *volume);

/* Adds the bits that are set of so many, which begin at a byte of the range.
 * False where they cannot be read. */
bool slate_reader_count(struct slate_reader *reader, uint64_t at, uint64_t bits,
                        uint64_t *set);

void slate_volume_take_uuid(const uint8_t *field, struct slate_volume *volume);

/* Labels: UTF-8 as it stands, UTF-16, and one-byte characters. */
void slate_label_utf8(struct slate_volume *volume, const uint8_t *field,
                      size_t length);
void slate_label_utf16(struct slate_volume *volume, const uint8_t *units,
                       size_t count);
void slate_label_bytes(struct slate_volume *volume, const uint8_t *field,
                       size_t length);

/* Where nothing stands at the start: is there a sound copy of it? */
void slate_copies_read(struct slate_reader *reader,
                       struct slate_volume *volume);

#endif
