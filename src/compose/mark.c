/* SPDX-License-Identifier: MIT */
/* The unfinished mark in block 0. What it says stands at both ends of every
 * piece, each time with a checksum of its own, so that a torn write of the
 * mark, or of what replaces it, is still told for what it is. */

#include "base/base.h"
#include "trueslate/mark.h"

#define MAGIC "TRUE SLATE MARK2"
#define RECORD_BYTES 64u
#define SEAL_AT 16u
#define TAG_AT 48u
#define CRC_AT 57u
#define WORDS_AT RECORD_BYTES
#define SECOND_AT (SLATE_PIECE_BYTES - RECORD_BYTES)

static const char words[] =
    "This device is being renewed with True Slate and is not finished. Nothing "
    "here is a partition table. Enact the same draft again to finish.";

static void put_record(const struct slate_mark *mark, uint8_t *record)
{
    memcpy(record, MAGIC, SEAL_AT);
    memcpy(record + SEAL_AT, mark->seal, SLATE_DIGEST_BYTES);
    memcpy(record + TAG_AT, mark->tag, SLATE_TAG_ROOM);
    slate_put_le32(record + CRC_AT, slate_crc32(0, record, CRC_AT));
}

static bool read_record(const uint8_t *record, struct slate_mark *mark)
{
    if (memcmp(record, MAGIC, SEAL_AT) != 0 ||
        slate_le32(record + CRC_AT) != slate_crc32(0, record, CRC_AT))
        return false;
    memcpy(mark->seal, record + SEAL_AT, SLATE_DIGEST_BYTES);
    memcpy(mark->tag, record + TAG_AT, SLATE_TAG_ROOM);
    mark->tag[SLATE_TAG_ROOM - 1] = '\0';
    return true;
}

void slate_mark_piece(const struct slate_mark *mark, uint8_t *piece)
{
    memset(piece, 0, SLATE_PIECE_BYTES);
    put_record(mark, piece);
    memcpy(piece + WORDS_AT, words, sizeof words - 1);
    put_record(mark, piece + SECOND_AT);
}

/* The index-th place where a record may stand, ascending. */
static uint32_t record_at(uint32_t index)
{
    return index / 2 * SLATE_PIECE_BYTES + index % 2 * SECOND_AT;
}

bool slate_mark_read(const uint8_t *block, uint32_t block_bytes,
                     struct slate_mark *mark)
{
    for (uint32_t i = 0; record_at(i) + RECORD_BYTES <= block_bytes; i++) {
        if (read_record(block + record_at(i), mark))
            return true;
    }
    return false;
}

bool slate_mark_names(const uint8_t *block, uint32_t block_bytes,
                      const uint8_t seal[SLATE_DIGEST_BYTES])
{
    struct slate_mark mark;

    for (uint32_t i = 0; record_at(i) + RECORD_BYTES <= block_bytes; i++) {
        if (read_record(block + record_at(i), &mark) &&
            memcmp(mark.seal, seal, SLATE_DIGEST_BYTES) == 0)
            return true;
    }
    return false;
}
