/* SPDX-License-Identifier: MIT */
/* Names by the value of an enum, with its range checked. */
#ifndef SLATE_BASE_NAMES_H
#define SLATE_BASE_NAMES_H

#include <stddef.h>

static inline const char *slate_name_at(const char *const *names, size_t count,
                                        unsigned index)
{
    return index < count ? names[index] : "";
}

/* Of an array of names; "" for a value that there is not. */
#define SLATE_NAME_OF(names, value)                                            \
    slate_name_at(names, sizeof(names) / sizeof(names)[0], (unsigned)(value))

/* An array of rows has one for each value of an enum. */
#define SLATE_ROWS_FOR(rows, count)                                            \
    _Static_assert(sizeof(rows) / sizeof(rows)[0] == (count),                  \
                   "a row for each value")

/* The row of a value; the first one for a value that there is not. */
#define SLATE_ROW_OF(rows, value)                                              \
    (&(rows)[(size_t)(value) < sizeof(rows) / sizeof(rows)[0]                  \
                 ? (size_t)(value)                                             \
                 : 0])

#endif
