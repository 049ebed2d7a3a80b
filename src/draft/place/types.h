/* SPDX-License-Identifier: MIT */
/* How a partition's type tells of its volume. */
#ifndef SLATE_DRAFT_TYPES_H
#define SLATE_DRAFT_TYPES_H

#include "trueslate/draft.h"

/* The MBR type of a new part. */
uint8_t slate_draft_mbr_type(const struct slate_draft *draft,
                             const struct slate_part *part);

/* The GPT type of a new part (UEFI 2.10, table 5.7). */
const struct slate_guid *slate_draft_gpt_type(const struct slate_draft *draft,
                                              uint32_t part);

/* Are partitions laid out by cylinders, and is the end within their reach? */
bool slate_draft_is_by_cylinder(const struct slate_draft *draft, uint64_t end);

#endif
