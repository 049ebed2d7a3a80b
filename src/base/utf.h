/* SPDX-License-Identifier: MIT */
/* UTF-8 and UTF-16, one code point at a time (RFC 3629, RFC 2781). */
#ifndef SLATE_BASE_UTF_H
#define SLATE_BASE_UTF_H

#include <stddef.h>
#include <stdint.h>

#define SLATE_UTF_INVALID 0xFFFFFFFFu

/* The code point at *text, which moves on; 0 at the end (it stays there),
 * SLATE_UTF_INVALID for what is not UTF-8 (it moves on by one byte). */
uint32_t slate_utf8_next(const char **text);

/* Appends a code point at *used; false, and nothing done, when it and the
 * final zero do not fit. */
int slate_utf8_put(char *text, size_t room, size_t *used, uint32_t point);

/* The code point as it may be shown: '?' for control characters, which could
 * steer a terminal, for what turns the direction of others or cannot be seen,
 * and for what is not UTF-8. */
uint32_t slate_utf_shown(uint32_t point);

/* Reads units of little-endian UTF-16 up to a zero unit into UTF-8; lone
 * surrogates become U+FFFD, control characters '?'. */
void slate_utf16_to_utf8(const uint8_t *units, size_t count, char *text,
                         size_t room);

/* Writes UTF-8 as little-endian UTF-16; what does not fit is cut. */
void slate_utf8_to_utf16(const char *text, uint8_t *units, size_t count);

#endif
