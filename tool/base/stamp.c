/* SPDX-License-Identifier: MIT */
/* The host's time as a time stamp. */
#include "base/base.h"

void stamp_take(const struct tm *parts, struct slate_stamp *stamp)
{
    memset(stamp, 0, sizeof *stamp);
    if (parts == NULL || parts->tm_year < 80 || parts->tm_year > 207)
        return;
    stamp->year = (uint16_t)(parts->tm_year + 1900);
    stamp->month = (uint8_t)(parts->tm_mon + 1);
    stamp->day = (uint8_t)parts->tm_mday;
    stamp->hour = (uint8_t)parts->tm_hour;
    stamp->minute = (uint8_t)parts->tm_min;
    stamp->second = (uint8_t)(parts->tm_sec > 59 ? 59 : parts->tm_sec);
}

uint64_t clock_ms(void)
{
    struct timespec now;

    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000 + (uint64_t)now.tv_nsec / 1000000;
}
