/* SPDX-License-Identifier: MIT */
/* What is long is taken by turns: a part of it now, chosen by a number that
 * changes with every commit, and all of it in the long checks. */
#ifndef TESTS_TURNS_H
#define TESTS_TURNS_H

#include <stdbool.h>
#include <stdint.h>
#include <stdlib.h>

/* All of it? Where TRUESLATE_LONG is set. */
static inline bool turns_are_all(void)
{
    return getenv("TRUESLATE_LONG") != NULL;
}

/* Is it the n-th one's turn, of so many that are taken in turns? */
static inline bool turn_of(uint64_t n, uint32_t turns)
{
    const char *word = getenv("TRUESLATE_TURN");
    uint64_t turn = word == NULL ? 0 : strtoull(word, NULL, 10);

    return turns_are_all() || (n + turn) % turns == 0;
}

#endif
