/* SPDX-License-Identifier: MIT */
/* What all rooms use: byte order, bits, names, text, errors. */
#ifndef SLATE_BASE_BASE_H
#define SLATE_BASE_BASE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>

#include "trueslate/base.h"
#include "trueslate/status.h"

/* Block, cluster and entry sizes are powers of two, or not believed. */

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

/* Makes low the first index from it up to high for which something no longer
 * holds, as it does for all ahead of that one. */
#define SLATE_BISECT(low, high, index, holds)                                  \
    do {                                                                       \
        while ((low) < (high)) {                                               \
            uint32_t index = (uint32_t)((low) + ((high) - (low)) / 2);         \
            if (holds)                                                         \
                (low) = (index) + 1;                                           \
            else                                                               \
                (high) = (index);                                              \
        }                                                                      \
    } while (0)

/* On-disk numbers, read and written byte by byte in either order. */

static inline uint16_t slate_le16(const uint8_t *p)
{
    return (uint16_t)(p[0] | (uint32_t)p[1] << 8);
}

static inline uint32_t slate_le32(const uint8_t *p)
{
    return slate_le16(p) | (uint32_t)slate_le16(p + 2) << 16;
}

static inline uint64_t slate_le64(const uint8_t *p)
{
    return slate_le32(p) | (uint64_t)slate_le32(p + 4) << 32;
}

static inline uint16_t slate_be16(const uint8_t *p)
{
    return (uint16_t)((uint32_t)p[0] << 8 | p[1]);
}

static inline uint32_t slate_be32(const uint8_t *p)
{
    return (uint32_t)slate_be16(p) << 16 | slate_be16(p + 2);
}

static inline uint64_t slate_be64(const uint8_t *p)
{
    return (uint64_t)slate_be32(p) << 32 | slate_be32(p + 4);
}

static inline void slate_put_le16(uint8_t *p, uint16_t v)
{
    p[0] = (uint8_t)v;
    p[1] = (uint8_t)(v >> 8);
}

static inline void slate_put_le32(uint8_t *p, uint32_t v)
{
    slate_put_le16(p, (uint16_t)v);
    slate_put_le16(p + 2, (uint16_t)(v >> 16));
}

static inline void slate_put_le64(uint8_t *p, uint64_t v)
{
    slate_put_le32(p, (uint32_t)v);
    slate_put_le32(p + 4, (uint32_t)(v >> 32));
}

static inline void slate_put_be16(uint8_t *p, uint16_t v)
{
    p[0] = (uint8_t)(v >> 8);
    p[1] = (uint8_t)v;
}

static inline void slate_put_be32(uint8_t *p, uint32_t v)
{
    slate_put_be16(p, (uint16_t)(v >> 16));
    slate_put_be16(p + 2, (uint16_t)v);
}

static inline void slate_put_be64(uint8_t *p, uint64_t v)
{
    slate_put_be32(p, (uint32_t)(v >> 32));
    slate_put_be32(p + 4, (uint32_t)v);
}

/* Names by the value of an enum, with its range checked. */

static inline const char *slate_name_at(const char *const *names, size_t count,
                                        unsigned index)
{
    return index < count ? names[index] : "";
}

/* Of an array of names; "" for a value that there is not. */
#define SLATE_NAME_OF(names, value)                                            \
    slate_name_at(names, sizeof(names) / sizeof(names)[0], (unsigned)(value))

/* A function that gives the name of a value, out of a list. */
#define SLATE_NAMES(function, key, ...)                                        \
    const char *function(key value)                                            \
    {                                                                          \
        static const char *const names[] = {__VA_ARGS__};                      \
        return SLATE_NAME_OF(names, value);                                    \
    }

/* An array of rows has one for each value of an enum. */
#define SLATE_ROWS_FOR(rows, count)                                            \
    _Static_assert(sizeof(rows) / sizeof(rows)[0] == (count),                  \
                   "a row for each value")

/* The row of a value; the first one for a value that there is not. */
#define SLATE_ROW_OF(rows, value)                                              \
    (&(rows)[(size_t)(value) < sizeof(rows) / sizeof(rows)[0]                  \
                 ? (size_t)(value)                                             \
                 : 0])

/* A function that gives a field of the row of a value. */
#define SLATE_FROM_ROW(type, function, key, rows, field)                       \
    type function(key value)                                                   \
    {                                                                          \
        return SLATE_ROW_OF(rows, value)->field;                               \
    }

/* Comparing strings with no more than the five memory functions. */

static inline bool slate_same_text(const char *a, const char *b)
{
    size_t length = strlen(a);

    return length == strlen(b) && memcmp(a, b, length) == 0;
}

/* Is it one of these characters of ASCII? */
static inline bool slate_is_among(uint32_t point, const char *characters)
{
    while (*characters != '\0' && point != (uint32_t)*characters)
        characters++;
    return *characters != '\0';
}

/* Does a string end within its field? */
static inline bool slate_ends_within(const char *field, size_t room)
{
    for (size_t i = 0; i < room; i++) {
        if (field[i] == '\0')
            return true;
    }
    return false;
}

/* Sentences in one piece, with {} where something is filled in. */

enum slate_word_kind {
    SLATE_WORD_TEXT, /* as it is */
    SLATE_WORD_NUMBER,
    SLATE_WORD_COUNT,   /* with its noun: "1 block", "3 blocks" */
    SLATE_WORD_DECIMAL, /* a size in decimal units */
    SLATE_WORD_SIZE,    /* in both kinds of units */
    SLATE_WORD_HEX,     /* number: of so many digits */
    SLATE_WORD_BYTES    /* so many, in lower-case hexadecimal */
};

struct slate_word {
    enum slate_word_kind kind;
    const void *text; /* a string, or bytes */
    uint64_t number;
    size_t length; /* in digits or bytes */
};

#define SLATE_WORD(kind, text, number, length)                                 \
    ((const struct slate_word){SLATE_WORD_##kind, text, number, length})
#define AS_TEXT(string) SLATE_WORD(TEXT, string, 0, 0)
#define AS_NUMBER(number) SLATE_WORD(NUMBER, NULL, number, 0)
#define AS_COUNT(number, noun) SLATE_WORD(COUNT, noun, number, 0)
#define AS_DECIMAL(bytes) SLATE_WORD(DECIMAL, NULL, bytes, 0)
#define AS_SIZE(bytes) SLATE_WORD(SIZE, NULL, bytes, 0)
#define AS_HEX(number, digits) SLATE_WORD(HEX, NULL, number, digits)
#define AS_BYTES(bytes, length) SLATE_WORD(BYTES, bytes, 0, length)

/* Adds a sentence; for each {} in it one of the words that follow. */
#define SLATE_SAY(text, sentence, ...)                                         \
    slate_text_say(text, sentence, (const struct slate_word[]){__VA_ARGS__})

void slate_text_say(struct slate_text *text, const char *sentence,
                    const struct slate_word *words);

/* Errors on their way up. */

/* The next step, where all went well so far. */
#define SLATE_THEN(status, call)                                               \
    ((status) = (status) == SLATE_OK ? (call) : (status))

/* Returns from the function with the status of a call that did not succeed. */
#define SLATE_TRY(call)                                                        \
    do {                                                                       \
        enum slate_status tried_ = (call);                                     \
        if (tried_ != SLATE_OK)                                                \
            return tried_;                                                     \
    } while (0)

/* UTF-8 and UTF-16, one code point at a time (RFC 3629, RFC 2781). */

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

/* Is a run of bytes all zeros? */

static inline bool slate_is_zero(const uint8_t *bytes, size_t length)
{
    return length == 0 ||
           (bytes[0] == 0 && memcmp(bytes, bytes + 1, length - 1) == 0);
}

#endif
