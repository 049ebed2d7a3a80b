/* SPDX-License-Identifier: MIT */
/* Writes a structure byte after byte, and keeps only those of a window. */
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
