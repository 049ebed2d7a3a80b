/* SPDX-License-Identifier: MIT */
/* Writes a structure byte after byte, and keeps only those of a window; bitmaps
 * and time stamps. */
#include "volume/common/common.h"

static void put(struct slate_pen *pen, uint8_t byte)
{
    if (pen->at >= pen->from && pen->at - pen->from < pen->count)
        pen->window[pen->at - pen->from] = byte;
    pen->at++;
}

void slate_pen_put(struct slate_pen *pen, const void *bytes, uint32_t count)
{
    const uint8_t *byte = bytes;

    for (uint32_t i = 0; i < count; i++)
        put(pen, byte[i]);
}

void slate_pen_le(struct slate_pen *pen, uint64_t value, uint32_t bytes)
{
    for (uint32_t i = 0; i < bytes; i++, value >>= 8)
        put(pen, (uint8_t)value);
}

void slate_pen_text(struct slate_pen *pen, const char *text)
{
    for (; *text != '\0'; text++)
        slate_pen_le(pen, (uint8_t)*text, 2);
}

void slate_pen_skip(struct slate_pen *pen, uint32_t bytes)
{
    pen->at += bytes;
}

void slate_pen_align(struct slate_pen *pen, uint32_t to)
{
    pen->at += (to - pen->at % to) % to;
}

/* A part of a bitmap of clusters or units, the lowest bit first. */

void slate_bits_set(const struct slate_bits *bits, uint64_t first,
                    uint64_t count)
{
    uint64_t at = first > bits->first ? first : bits->first;
    uint64_t end = first + count;

    if (end > bits->first + bits->count)
        end = bits->first + bits->count;
    while (at < end) {
        uint64_t bit = at - bits->first;

        if (bit % 8 == 0 && end - at >= 8) {
            bits->byte[bit / 8] = 0xFF;
            at += 8;
        } else {
            bits->byte[bit / 8] |= (uint8_t)(1u << bit % 8);
            at++;
        }
    }
}

void slate_bits_set_bad(const struct slate_bits *bits,
                        const struct slate_ranges *bad,
                        const struct slate_clusters *clusters)
{
    uint32_t at, end;

    if (bits->first >= clusters->count)
        return;
    at = slate_bad_cluster(bad, clusters, (uint32_t)bits->first);
    while (at < clusters->count && at < bits->first + bits->count) {
        end = slate_good_cluster(bad, clusters, at);
        slate_bits_set(bits, at, (uint64_t)end - at);
        at = slate_bad_cluster(bad, clusters, end);
    }
}

/* Time stamps as seconds. */

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
