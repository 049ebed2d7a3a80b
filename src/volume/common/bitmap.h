/* SPDX-License-Identifier: MIT */
/* A part of a bitmap of clusters or units, the lowest bit first. */
#ifndef SLATE_VOLUME_BITMAP_H
#define SLATE_VOLUME_BITMAP_H

#include "volume/common/bad.h"

struct slate_bits {
    uint8_t *byte;
    uint64_t first; /* the number of its first bit, a multiple of 8 */
    uint64_t count; /* of bits, the same */
};

/* Sets so many bits from one on, as far as they are in this part. */
void slate_bits_set(const struct slate_bits *bits, uint64_t first,
                    uint64_t count);

/* Sets those of bad clusters. */
void slate_bits_set_bad(const struct slate_bits *bits,
                        const struct slate_ranges *bad,
                        const struct slate_clusters *clusters);

#endif
