/* SPDX-License-Identifier: MIT */
/* Writes a structure byte after byte, and keeps only those that fall into a
 * window: so that a part of it can be composed without room for the whole. */
#ifndef SLATE_VOLUME_PEN_H
#define SLATE_VOLUME_PEN_H

#include <stdint.h>

struct slate_pen {
    uint8_t *window; /* zeroed; what is not written stays zero */
    uint32_t from;   /* the byte of the structure where it begins */
    uint32_t count;  /* its length; 0: only to find out how long something is */
    uint32_t at;     /* the byte of the structure that is written next */
};

void slate_pen_put(struct slate_pen *pen, const void *bytes, uint32_t count);

/* A number, the low byte first. */
void slate_pen_le(struct slate_pen *pen, uint64_t value, uint32_t bytes);

/* ASCII as UTF-16, without an end. */
void slate_pen_text(struct slate_pen *pen, const char *text);

/* Zeros: so many bytes; or up to a multiple of a number. */
void slate_pen_skip(struct slate_pen *pen, uint32_t bytes);
void slate_pen_align(struct slate_pen *pen, uint32_t to);

#endif
