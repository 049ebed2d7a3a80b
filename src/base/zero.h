/* SPDX-License-Identifier: MIT */
/* Is a run of bytes all zeros? */
#ifndef SLATE_BASE_ZERO_H
#define SLATE_BASE_ZERO_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>

static inline bool slate_is_zero(const uint8_t *bytes, size_t length)
{
    return length == 0 ||
           (bytes[0] == 0 && memcmp(bytes, bytes + 1, length - 1) == 0);
}

#endif
