/* SPDX-License-Identifier: MIT */
/* What stands on a device, read apart from the library: volumes and members by
 * what their formats publish, and the tables that name them. */
#ifndef TESTS_STANDING_H
#define TESTS_STANDING_H

#include "ram.h"

struct sign;

/* One that was found; its end is known where its format tells it. */
struct stands {
    const struct sign *sign;
    uint64_t at, end; /* bytes */
    bool named;       /* by an entry */
};
#define STANDS_MOST 512u

/* Finds all, on blocks of 512 bytes; gives back how many. */
uint32_t standing_find(const struct ram *ram,
                       struct stands stands[STANDS_MOST]);

/* What took the whole device is stale where an entry names what else there is,
 * or its start at least. */
bool standing_is_stale(const struct stands *one);

/* Is it there still? */
bool standing_is_on(const struct ram *ram, const struct stands *one);
bool standing_is_member(const struct stands *one); /* of something larger */
const char *standing_name(const struct stands *one);

/* Does an entry of a table name a place, bytes? Does a block belong to a table,
 * also where a volume claims it too? */
bool standing_is_named(const struct ram *ram, uint64_t at);
bool standing_is_of_table(const struct ram *ram, uint64_t block);

#endif
