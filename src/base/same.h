/* SPDX-License-Identifier: MIT */
/* Comparing strings with no more than the five memory functions. */
#ifndef SLATE_BASE_SAME_H
#define SLATE_BASE_SAME_H

#include <stdbool.h>
#include <stddef.h>
#include <string.h>

static inline bool slate_same_text(const char *a, const char *b)
{
    size_t length = strlen(a);

    return length == strlen(b) && memcmp(a, b, length) == 0;
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

#endif
