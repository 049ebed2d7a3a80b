/* SPDX-License-Identifier: MIT */
/* Overwriting: with what, how often, and how that is checked. */
#ifndef TRUESLATE_OVERWRITE_H
#define TRUESLATE_OVERWRITE_H

#include "trueslate/compose.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What a round writes. */
enum slate_round_kind {
    SLATE_ROUND_ZERO,
    SLATE_ROUND_BYTE,  /**< one byte again and again */
    SLATE_ROUND_RANDOM /**< slate_random_composer, by a key of its own */
};

#define SLATE_ROUND_KINDS 3

/** One overwriting of the whole. */
struct slate_round {
    uint8_t kind; /**< an enum slate_round_kind */
    uint8_t byte; /**< SLATE_ROUND_BYTE */
};

#define SLATE_ROUNDS_MOST 64u

/** Which rounds are read back. */
enum slate_read_back {
    SLATE_READ_BACK_LAST, /**< the last one: what stays, when it is proved */
    SLATE_READ_BACK_ALL,  /**< every one, before the next one begins */
    SLATE_READ_BACK_NONE  /**< none; then nothing tells whether it worked */
};

#define SLATE_READ_BACKS 3

/** When the device is told that the blocks are not needed (discard, trim,
 * unmap): a hint, which it may pass over. */
enum slate_discard {
    SLATE_DISCARD_NOT,
    SLATE_DISCARD_FIRST, /**< ahead of the first round: flash writes faster */
    SLATE_DISCARD_LAST   /**< behind the last one, once that is read back: their
                              content is not known then */
};

#define SLATE_DISCARDS 3

/**
 * How blocks are overwritten. All zero: they are not.
 *
 * Of a device that is set up anew, all of them: what comes over them in the end
 * counts for the last round. Where partitions stay: what is in those that are
 * emptied; where none is, every block that neither a partition that stays nor
 * the table holds. Bad blocks that the draft knows are left out.
 */
struct slate_overwrite {
    uint32_t rounds; /**< up to SLATE_ROUNDS_MOST */
    struct slate_round round[SLATE_ROUNDS_MOST];
    enum slate_read_back read_back;
    enum slate_discard discard;
};

#ifdef __cplusplus
}
#endif
#endif
