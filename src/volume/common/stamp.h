/* SPDX-License-Identifier: MIT */
/* Time stamps as FAT and exFAT pack them (FAT specification 1.03, 6.1; exFAT
 * 1.00, 7.4.8), and as seconds. */
#ifndef SLATE_VOLUME_STAMP_H
#define SLATE_VOLUME_STAMP_H

#include "trueslate/base.h"

static inline uint16_t slate_packed_date(const struct slate_stamp *stamp)
{
    if (stamp->month == 0)
        return 1 << 5 | 1; /* 1980-01-01 */
    return (uint16_t)((stamp->year - 1980u) << 9 | (unsigned)stamp->month << 5 |
                      stamp->day);
}

static inline uint16_t slate_packed_time(const struct slate_stamp *stamp)
{
    if (stamp->month == 0)
        return 0;
    return (uint16_t)(stamp->hour << 11 | stamp->minute << 5 |
                      stamp->second / 2);
}

/* What the packed time leaves, in hundredths of a second. */
static inline uint8_t slate_packed_rest(const struct slate_stamp *stamp)
{
    return stamp->month == 0 || stamp->second % 2 == 0 ? 0 : 100;
}

/* Seconds since 1970, the stamp being taken as universal time; up to 2105. */
uint32_t slate_stamp_seconds(const struct slate_stamp *stamp);

#endif
