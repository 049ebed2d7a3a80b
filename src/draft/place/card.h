/* SPDX-License-Identifier: MIT */
/* Memory cards as their specification lays them out. */
#ifndef SLATE_DRAFT_CARD_H
#define SLATE_DRAFT_CARD_H

#include "trueslate/draft.h"

/* What the file system specification of SD cards has for a capacity, from the
 * smaller one on. */
struct slate_card_shape {
    uint64_t most; /* bytes of the card */
    enum slate_volume_kind volume;
    uint32_t cluster_blocks;  /* of 512 bytes, as all here */
    uint32_t boundary_blocks; /* the card moves its content in such units */
};

/* The shape that a new draft takes on, once its table is chosen: that of a
 * card, or of what a camera shall read, with one partition over all of it and
 * nothing asked that differs. NULL: none. */
const struct slate_card_shape *
slate_draft_card(const struct slate_draft *draft);

/* The one part's range, and what its volume is asked to be besides. False, and
 * both as they were, where no such volume fits. */
bool slate_draft_card_place(const struct slate_card_shape *shape,
                            const struct slate_draft *draft,
                            struct slate_range *range);
void slate_draft_card_wish(const struct slate_card_shape *shape,
                           struct slate_wish *wish);

#endif
