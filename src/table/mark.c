/* SPDX-License-Identifier: MIT */
/* The unfinished mark in block 0. */
#include <string.h>

#include "base/bytes.h"
#include "trueslate/mark.h"

#define MAGIC "TRUE SLATE MARK1"
#define SEAL_AT 16
#define TAG_AT 48
#define WORDS_AT 64
#define CRC_AT 504

static const char words[] =
    "This device is being renewed with True Slate and is not finished. "
    "Nothing here is a partition table. Enact the same draft again to finish.";

void slate_mark_piece(const struct slate_mark *mark, uint8_t *piece)
{
    memset(piece, 0, SLATE_PIECE_BYTES);
    memcpy(piece, MAGIC, 16);
    memcpy(piece + SEAL_AT, mark->seal, SLATE_DIGEST_BYTES);
    memcpy(piece + TAG_AT, mark->tag, SLATE_TAG_ROOM);
    memcpy(piece + WORDS_AT, words, sizeof words - 1);
    slate_put_le32(piece + CRC_AT, slate_crc32(0, piece, CRC_AT));
}

bool slate_mark_read(const uint8_t *piece, struct slate_mark *mark)
{
    if (memcmp(piece, MAGIC, 16) != 0 ||
        slate_le32(piece + CRC_AT) != slate_crc32(0, piece, CRC_AT))
        return false;
    memcpy(mark->seal, piece + SEAL_AT, SLATE_DIGEST_BYTES);
    memcpy(mark->tag, piece + TAG_AT, SLATE_TAG_ROOM);
    mark->tag[SLATE_TAG_ROOM - 1] = '\0';
    return true;
}
