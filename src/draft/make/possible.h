/* SPDX-License-Identifier: MIT */
/* Can the input of a draft be at all? It may come from a file. */
#ifndef SLATE_DRAFT_POSSIBLE_H
#define SLATE_DRAFT_POSSIBLE_H

#include "trueslate/draft.h"

/* Are goal and asks made of values that there are? */
bool slate_draft_input_is_possible(const struct slate_draft *draft);

bool slate_draft_block_size_is_possible(const struct slate_draft *draft);

/* Could basis and change be of a device? Nothing below may divide by zero,
 * overflow or write beyond it. */
bool slate_draft_basis_is_possible(const struct slate_draft *draft);

#endif
