/* SPDX-License-Identifier: MIT */
/* Where the parts of a draft go on the device. */
#ifndef SLATE_DRAFT_PLACE_H
#define SLATE_DRAFT_PLACE_H

#include "trueslate/draft.h"

/* Gives each part its range; the table's kind is set. On failure refused tells
 * the part. SLATE_ERR_PARTS, SLATE_ERR_TOO_SMALL. */
enum slate_status slate_draft_lay_out(struct slate_draft *draft);

/* Logical partitions of an MBR: how many, and is a part one of them? */
uint32_t slate_draft_logical(const struct slate_draft *draft);
bool slate_draft_is_logical(const struct slate_draft *draft, uint32_t part);

#endif
