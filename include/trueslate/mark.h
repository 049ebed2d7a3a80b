/* SPDX-License-Identifier: MIT */
/* The unfinished mark: what stands in block 0 while a device is renewed. */
#ifndef TRUESLATE_MARK_H
#define TRUESLATE_MARK_H

#include "trueslate/compose.h"
#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What the mark says: which draft is unfinished, on which device. */
struct slate_mark {
    uint8_t seal[SLATE_DIGEST_BYTES]; /**< of the draft */
    char tag[SLATE_TAG_ROOM];         /**< of the device */
};

/**
 * Composes the mark, which every piece of block 0 holds. No host takes it for a
 * table or a volume: it has no signature at offset 510. Its layout is in
 * docs/formats.md.
 *
 * @param mark  what it shall say
 * @param piece receives SLATE_PIECE_BYTES bytes
 */
void slate_mark_piece(const struct slate_mark *mark, uint8_t *piece);

/**
 * Recognises the mark, also one that a power cut has torn: as long as 64 bytes
 * at either end of any piece are whole.
 *
 * @param block       block 0
 * @param block_bytes its length, a multiple of SLATE_PIECE_BYTES
 * @param mark        receives what it says; untouched when there is none
 * @return true when the mark is there
 */
bool slate_mark_read(const uint8_t *block, uint32_t block_bytes,
                     struct slate_mark *mark);

/**
 * Does the mark name this draft? A torn write over the mark of another draft
 * leaves both.
 *
 * @param block       block 0
 * @param block_bytes its length, a multiple of SLATE_PIECE_BYTES
 * @param seal        of the draft
 * @return true when a whole record does
 */
bool slate_mark_names(const uint8_t *block, uint32_t block_bytes,
                      const uint8_t seal[SLATE_DIGEST_BYTES]);

#ifdef __cplusplus
}
#endif
#endif
