/* SPDX-License-Identifier: MIT */
/* What a draft overwrites. */
#ifndef SLATE_DRAFT_OVER_H
#define SLATE_DRAFT_OVER_H

#include "draft/content.h"
#include "draft/entries.h"

/* Is a block among those that are overwritten, new content or not? until:
 * receives the block up to which that stays so. */
bool slate_draft_overwrites(const struct slate_draft *draft, uint64_t lba,
                            uint64_t *until);

/* Is there a partition of which the entry alone stays? */
bool slate_draft_empties(const struct slate_draft *draft);

/* The next extent of the sweeps: the rounds, and what is done ahead of them,
 * between them and behind them. */
bool slate_draft_next_overwrite(const struct slate_draft *draft,
                                struct slate_walk *walk,
                                struct slate_extent *extent);

/* Does an extent of them stay on the device, to be proved? */
bool slate_draft_is_final_round(const struct slate_draft *draft,
                                const struct slate_extent *extent);

/* Is what is overwritten something that can be? SLATE_ERR_PARTS. */
enum slate_status slate_draft_check_overwrite(struct slate_draft *draft);

/* Composes blocks of a round, counted from 0. */
enum slate_status slate_draft_fill_round(const struct slate_draft *draft,
                                         uint32_t round, uint64_t first,
                                         uint32_t count, void *data);

/* What an extent of them is for, as a step. */
const char *slate_draft_round_step(const struct slate_draft *draft,
                                   const struct slate_extent *extent);

#endif
