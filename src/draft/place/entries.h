/* SPDX-License-Identifier: MIT */
/* The entries of a new table, and what is derived from the seed. */
#ifndef SLATE_DRAFT_ENTRIES_H
#define SLATE_DRAFT_ENTRIES_H

#include "trueslate/draft.h"

/* 16 bytes out of the seed, for one purpose and part. */
void slate_draft_derive(const struct slate_draft *draft, const char *purpose,
                        uint32_t part, uint8_t out[16]);

/* All entries, once the parts have their places and volumes. */
void slate_draft_fill_table(struct slate_draft *draft);

#endif
