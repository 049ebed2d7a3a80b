/* SPDX-License-Identifier: MIT */
/* Block, cluster and entry sizes are powers of two, or not believed. */
#ifndef SLATE_BASE_BITS_H
#define SLATE_BASE_BITS_H

#include <stdbool.h>
#include <stdint.h>

static inline bool slate_is_power_of_two(uint32_t value)
{
    return value != 0 && (value & (value - 1)) == 0;
}

/* Of a device's logical blocks: 512, 1024, 2048 or 4096 bytes. */
static inline bool slate_is_block_size(uint32_t bytes)
{
    return bytes >= 512 && bytes <= 4096 && slate_is_power_of_two(bytes);
}

/* What does not fit is 0: unknown. */
static inline uint64_t slate_shifted(uint64_t value, uint32_t shift)
{
    return shift < 64 && value <= UINT64_MAX >> shift ? value << shift : 0;
}

#endif
