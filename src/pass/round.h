/* SPDX-License-Identifier: MIT */
/* Blocks of a round of overwriting, judged one by one. */
#ifndef SLATE_PASS_ROUND_H
#define SLATE_PASS_ROUND_H

#include "trueslate/pass.h"

/* Notes a block that failed; each counts once, for what was found first.
 * SLATE_ERR_BAD_LIST: there is no room. */
enum slate_status slate_round_note(struct slate_ranges *failed, uint64_t block,
                                   uint64_t *count);

/* Blocks at the start of the current extent that failed together, each by
 * itself; what is read ahead is dropped. */
enum slate_status
slate_round_judge_each(struct slate_pass *pass, struct slate_ahead *reading,
                       uint32_t count, struct slate_ranges *failed,
                       uint64_t *unreadable, uint64_t *altered);

#endif
