/* SPDX-License-Identifier: MIT */
/* Blocks of a round of overwriting, judged one by one. */
#ifndef SLATE_PASS_ROUND_H
#define SLATE_PASS_ROUND_H

#include "trueslate/pass.h"

enum slate_block_state {
    SLATE_BLOCK_AS_WRITTEN,
    SLATE_BLOCK_UNREADABLE,
    SLATE_BLOCK_ALTERED
};

/* Reads a block of the current extent into the work buffer, and compares it. */
enum slate_status slate_round_judge(struct slate_pass *pass, uint64_t block,
                                    enum slate_block_state *state);

/* Notes a block that failed; each counts once, for what was found first.
 * SLATE_ERR_BAD_LIST: there is no room. */
enum slate_status slate_round_note(struct slate_ranges *failed, uint64_t block,
                                   uint64_t *count);

#endif
