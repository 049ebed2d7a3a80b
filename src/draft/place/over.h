/* SPDX-License-Identifier: MIT */
/* What a draft overwrites. */
#ifndef SLATE_DRAFT_OVER_H
#define SLATE_DRAFT_OVER_H

#include "draft/place/content.h"
#include "draft/place/entries.h"

/* Is a block among those that are overwritten, new content or not? until:
 * receives the block up to which that stays so. */
bool slate_draft_overwrites(const struct slate_draft *draft, uint64_t lba,
                            uint64_t *until);

/* The next extent of the sweeps: the rounds, and what is done ahead of them,
 * between them and behind them. */
bool slate_draft_next_overwrite(const struct slate_draft *draft,
                                struct slate_walk *walk,
                                struct slate_extent *extent);

/* The next extent of what the last round leaves on the device, without what
 * comes over it; nothing where that shall not be read back. */
bool slate_draft_next_left(const struct slate_draft *draft,
                           struct slate_walk *walk,
                           struct slate_extent *extent);

/* Is what is overwritten something that can be? SLATE_ERR_PARTS. */
enum slate_status slate_draft_check_overwrite(struct slate_draft *draft);

/* Composes blocks of a round, counted from 0. */
enum slate_status slate_draft_fill_round(const struct slate_draft *draft,
                                         uint32_t round, uint64_t first,
                                         uint32_t count, void *data);

/* Remarks: blocks that no host reaches; start-up code in front of the first
 * partition; bad blocks; what is not read back. False: there is none. */
bool slate_draft_remark_reserve(const struct slate_draft *draft,
                                struct slate_text *text);
bool slate_draft_remark_gap(const struct slate_draft *draft,
                            struct slate_text *text);
bool slate_draft_remark_left(const struct slate_draft *draft,
                             struct slate_text *text);
bool slate_draft_remark_unread(const struct slate_draft *draft,
                               struct slate_text *text);

/* What an extent of them is for, as a step. */
const char *slate_draft_round_step(const struct slate_draft *draft,
                                   const struct slate_extent *extent);

#endif
