/* SPDX-License-Identifier: MIT */
/* Going over what a supply has, piece by piece. */
#ifndef SLATE_PASS_PASS_H
#define SLATE_PASS_PASS_H

#include "trueslate/pass.h"

/* Prepares a pass over anything that has extents. Reads and writes nothing.
 * Returns SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER. */
SLATE_MUST_CHECK enum slate_status
slate_pass_begin(struct slate_pass *pass, const struct slate_supply *supply,
                 struct slate_media *media, void *work, size_t work_bytes);

/* Prepares a pass over a draft. Reads and writes nothing. Returns SLATE_OK,
 * SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER, SLATE_ERR_OTHER_DEVICE. */
SLATE_MUST_CHECK enum slate_status
slate_pass_start(struct slate_pass *pass, const struct slate_draft *draft,
                 struct slate_media *media, void *work, size_t work_bytes,
                 bool final);

/* The blocks to work on next: the start of pass->extent, as many as fit the
 * work buffer. Returns number of blocks; 0 when the pass has finished. */
uint32_t slate_pass_chunk(struct slate_pass *pass);

/* Compares the blocks in the work buffer with what the start of the extent is
 * composed as. Returns SLATE_OK; or what a source says. */
SLATE_MUST_CHECK enum slate_status
slate_pass_compare(const struct slate_pass *pass, uint32_t count,
                   struct slate_difference *difference);

/* Moves on by blocks that slate_pass_chunk offered. */
void slate_pass_advance(struct slate_pass *pass, uint64_t blocks);

#endif
