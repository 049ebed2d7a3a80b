/* SPDX-License-Identifier: MIT */
/* The generators behind random data: xorshift128+ (Vigna, 2014), a few side by
 * side, each begun anew in every block. */
#ifndef SLATE_COMPOSE_LANES_H
#define SLATE_COMPOSE_LANES_H

#include "base/base.h"
#include "trueslate/compose.h"

#define SLATE_LANES 2u
#define SLATE_LANES_BYTES 16u /* 8 of each in turn */

struct slate_lanes {
    uint64_t a[SLATE_LANES], b[SLATE_LANES];
};

/* Spreads every bit over all of them (splitmix64; Steele, Lea, Flood, 2014). */
static inline uint64_t slate_spread(uint64_t z)
{
    z = (z ^ z >> 30) * UINT64_C(0xBF58476D1CE4E5B9);
    z = (z ^ z >> 27) * UINT64_C(0x94D049BB133111EB);
    return z ^ z >> 31;
}

static inline void slate_lanes_begin(struct slate_lanes *lanes,
                                     const uint8_t key[16], uint64_t lba)
{
    uint64_t state =
        slate_spread(slate_le64(key) ^ slate_spread(slate_le64(key + 8) + lba));

    for (uint32_t i = 0; i < SLATE_LANES; i++) {
        lanes->a[i] = slate_spread(state += UINT64_C(0x9E3779B97F4A7C15));
        lanes->b[i] = slate_spread(state += UINT64_C(0x9E3779B97F4A7C15));
        lanes->b[i] |= 1; /* never all zeros */
    }
}

/* Composes as many of the blocks as the processor has wide registers for: the
 * first ones, whose number it gives back; 0 where it has none. */
uint32_t slate_lanes_fill_wide(const struct slate_random *random, uint64_t lba,
                               uint32_t count, uint8_t *to);

#endif
