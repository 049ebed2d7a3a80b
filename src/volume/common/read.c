/* SPDX-License-Identifier: MIT */
/* Reading a range by bytes, whatever the block size, and reading labels. */

#include "base/base.h"
#include "volume/common/common.h"

bool slate_reader_cut(struct slate_reader *reader)
{
    uint64_t blocks = reader->media->geometry.block_count;
    struct slate_range *range = &reader->range;

    if (range->count == 0 || range->first >= blocks)
        return false;
    if (range->count > blocks - range->first)
        range->count = blocks - range->first;
    return true;
}

static uint32_t room_of(const struct slate_reader *reader)
{
    return reader->room == 0 ? SLATE_WORK_MIN : reader->room;
}

const uint8_t *slate_reader_at(struct slate_reader *reader, uint64_t byte,
                               uint32_t length)
{
    uint32_t block = reader->media->geometry.block_bytes;
    uint64_t first = byte / block, last;

    if (reader->status != SLATE_OK || length == 0 || byte > UINT64_MAX - length)
        return NULL;
    last = (byte + length - 1) / block;
    if (last >= reader->range.count ||
        (last - first + 1) * block > room_of(reader))
        return NULL;
    reader->status =
        slate_media_read(reader->media, reader->range.first + first,
                         (uint32_t)(last - first + 1), reader->work);
    return reader->status == SLATE_OK ? reader->work + byte % block : NULL;
}

uint64_t slate_reader_lba(const struct slate_reader *reader, uint64_t byte)
{
    return reader->range.first + byte / reader->media->geometry.block_bytes;
}

void slate_reader_flag(struct slate_reader *reader, enum slate_flag_kind kind,
                       uint64_t byte, uint8_t mask, bool set)
{
    uint32_t block = reader->media->geometry.block_bytes;
    struct slate_flag *flag;

    if (reader->flag == NULL || reader->flags == SLATE_FLAGS_MAX || mask == 0)
        return;
    flag = &reader->flag[reader->flags++];
    flag->kind = kind;
    flag->byte = reader->range.first * block + byte;
    flag->mask = mask;
    flag->set = set;
}

void slate_reader_copy(struct slate_reader *reader, uint64_t byte,
                       const uint8_t *boot, bool (*changes)(uint32_t at),
                       struct slate_volume *volume)
{
    const uint8_t *copy = slate_reader_at(reader, byte, SLATE_PIECE_BYTES);

    if (reader->status != SLATE_OK)
        return;
    volume->copy_lba = slate_reader_lba(reader, byte);
    volume->copy = copy == NULL ? SLATE_COPY_OUTSIDE : SLATE_COPY_EQUAL;
    for (uint32_t at = 0; copy != NULL && at < SLATE_PIECE_BYTES; at++) {
        if (copy[at] != boot[at] && !changes(at)) {
            volume->copy = SLATE_COPY_DIFFERENT;
            return;
        }
    }
}

/* Those of eight bytes at once: bitmaps are long. */
static uint32_t bits_of(uint64_t word)
{
    word -= word >> 1 & 0x5555555555555555u;
    word = (word & 0x3333333333333333u) + (word >> 2 & 0x3333333333333333u);
    word = (word + (word >> 4)) & 0x0F0F0F0F0F0F0F0Fu;
    return (uint32_t)(word * 0x0101010101010101u >> 56);
}

static uint64_t bits_in(const uint8_t *run, uint64_t bits)
{
    uint64_t count = 0, word;

    for (; bits >= 64; bits -= 64, run += sizeof word) {
        memcpy(&word, run, sizeof word);
        count += bits_of(word);
    }
    for (; bits >= 8; bits -= 8)
        count += bits_of(*run++);
    return bits == 0 ? count : count + bits_of(*run & ((1u << bits) - 1));
}

bool slate_reader_count(struct slate_reader *reader, uint64_t at, uint64_t bits,
                        uint64_t *set)
{
    uint32_t unread = slate_media_unread_count(reader->media);

    while (bits > 0) {
        uint64_t part = (uint64_t)room_of(reader) * 8;
        const uint8_t *run = NULL;

        part = bits < part ? bits : part;
        run = slate_reader_at(reader, at, (uint32_t)((part + 7) / 8));
        if (run == NULL)
            return false;
        *set += bits_in(run, part);
        at += part / 8;
        bits -= part;
    }
    return !slate_media_unread_since(reader->media, unread);
}

void slate_volume_take_uuid(const uint8_t *field, struct slate_volume *volume)
{
    memcpy(volume->uuid.bytes, field, sizeof volume->uuid.bytes);
}

void slate_label_utf8(struct slate_volume *volume, const uint8_t *field,
                      size_t length)
{
    char copy[SLATE_LABEL_ROOM] = "";
    const char *from = copy;
    size_t used = 0;
    uint32_t point;

    memcpy(copy, field, length < sizeof copy - 1 ? length : sizeof copy - 1);
    volume->label[0] = '\0';
    while ((point = slate_utf8_next(&from)) != 0) {
        if (!slate_utf8_put(volume->label, sizeof volume->label, &used,
                            slate_utf_shown(point)))
            return;
    }
}

void slate_label_utf16(struct slate_volume *volume, const uint8_t *units,
                       size_t count)
{
    slate_utf16_to_utf8(units, count, volume->label, sizeof volume->label);
}

void slate_label_bytes(struct slate_volume *volume, const uint8_t *field,
                       size_t length)
{
    while (length > 0 && (field[length - 1] == ' ' || field[length - 1] == 0))
        length--;
    if (length > sizeof volume->label - 1)
        length = sizeof volume->label - 1;
    for (size_t i = 0; i < length; i++)
        volume->label[i] =
            (char)(field[i] >= 0x20 && field[i] < 0x7F ? field[i] : '?');
    volume->label[length] = '\0';
}
