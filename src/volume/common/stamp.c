/* SPDX-License-Identifier: MIT */
/* Time stamps as seconds. */
#include "volume/common/common.h"

static bool is_leap(uint32_t year)
{
    return year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
}

uint32_t slate_stamp_seconds(const struct slate_stamp *stamp)
{
    static const uint16_t ahead[] = {0,   31,  59,  90,  120, 151,
                                     181, 212, 243, 273, 304, 334};
    uint32_t days = 0;

    if (stamp->month == 0 || stamp->month > 12 || stamp->year > 2105)
        return 0;
    for (uint32_t year = 1970; year < stamp->year; year++)
        days += is_leap(year) ? 366 : 365;
    days += ahead[stamp->month - 1] + stamp->day - 1u;
    if (stamp->month > 2 && is_leap(stamp->year))
        days++;
    return ((days * 24 + stamp->hour) * 60 + stamp->minute) * 60 +
           stamp->second;
}
