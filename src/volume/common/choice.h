/* SPDX-License-Identifier: MIT */
/* Which format a volume gets where none was asked for. */
#ifndef SLATE_VOLUME_COMMON_CHOICE_H
#define SLATE_VOLUME_COMMON_CHOICE_H

#include "trueslate/format.h"

/* Of the formats that are chosen where none was asked for, the one that goes
 * on the smallest room. */
const struct slate_format *slate_format_smallest(enum slate_volume_kind kind);

/* The same: the one that reaches farthest. */
const struct slate_format *slate_format_largest(enum slate_volume_kind kind);

/* Plans a volume of a kind, or of the first kind that fits: FAT32; FAT16, else
 * FAT12, where that needs more room; exFAT where that ends ahead of the room.
 * Returns as slate_format.plan; SLATE_ERR_ARGUMENT for a kind that cannot be
 * composed. */
SLATE_MUST_CHECK enum slate_status
slate_format_plan(enum slate_volume_kind kind, const struct slate_wish *wish,
                  const struct slate_format **format,
                  union slate_volume_plan *plan);

#endif
