/* SPDX-License-Identifier: MIT */
/* What a draft puts on its device, and whose a block of it is. */
#ifndef SLATE_DRAFT_CONTENT_H
#define SLATE_DRAFT_CONTENT_H

#include "trueslate/draft.h"

/* The role of block 0's extents: steps of their own. */
#define SLATE_ROLE_FIRST UINT8_MAX

/* What composes a part, or the table, and its plan; NULL: nothing does. */
const struct slate_composer *
slate_draft_composer(const struct slate_draft *draft, uint32_t part,
                     const void **plan);

/* The first part that ends behind a block; the parts are in the order of their
 * blocks. */
uint32_t slate_draft_part_from(const struct slate_draft *draft, uint64_t lba);

/* Is this block part of the new content? Either way, receives the block up to
 * which that stays so. */
bool slate_draft_covers(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until);

/* The part that a block belongs to; SLATE_PART_ERASED for none. */
uint32_t slate_draft_owner(const struct slate_draft *draft, uint64_t lba);

/* The next extent of what stays on the device. */
bool slate_draft_next_final(const struct slate_draft *draft,
                            struct slate_walk *walk,
                            struct slate_extent *extent);

/* Is a block bad? until: receives the block up to which that stays so. */
bool slate_draft_is_bad(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until);

/* The first bad block that would be written to. Volumes see to it by
 * themselves; tables stand where they stand. False: there is none. */
bool slate_draft_first_bad(const struct slate_draft *draft, uint64_t *block);

/* A draft as what a pass goes over. */
void slate_draft_supply(const struct slate_draft *draft, bool final,
                        struct slate_supply *supply);

#endif
