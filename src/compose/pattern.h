/* SPDX-License-Identifier: MIT */
/* Finding a patch, and telling whose pattern a block bears. */
#ifndef SLATE_COMPOSE_PATTERN_H
#define SLATE_COMPOSE_PATTERN_H

#include "trueslate/compose.h"

/* The patch of a block, by halving: the first one that is not ahead of it.
 * Returns its index when patch[index].lba == lba; where it would be, else. */
uint32_t slate_patch_find(const struct slate_patch *patch, uint32_t count,
                          uint64_t lba);

/* Does a block begin as one of the pattern's? */
bool slate_pattern_whose(const struct slate_pattern *pattern,
                         const uint8_t *block, uint64_t *lba);

/* Does a block bear any of the pattern, as a torn write leaves it?. Returns
 * true when any 32 bytes of it are the pattern's, or when it is made, byte by
 * byte, of the pattern and of what was there. */
bool slate_pattern_bears(const struct slate_pattern *pattern, uint64_t lba,
                         const uint8_t *block, const uint8_t *kept);

#endif
