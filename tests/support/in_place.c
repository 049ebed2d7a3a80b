/* SPDX-License-Identifier: MIT */
/* The power goes in every write of a change in place. */
#include "in_place.h"

static const struct shim_way ways[] = {
    {0, false, false, SHIM_KEPT},      {0, false, false, SHIM_LOST},
    {512, true, false, SHIM_SOME},     {256, false, true, SHIM_KEPT},
    {256, false, false, SHIM_LOST},    {100, true, false, SHIM_SOME},
    {1000000, false, false, SHIM_SOME}};

#define WAYS (sizeof ways / sizeof ways[0])
/* Beside these, all that can become of the last three unflushed writes, with
 * the next one not begun, half there, and there but for its end. */
#define SUBSETS 8u
#define TORN 3u

static struct shim_way way_of(size_t i)
{
    static const size_t torn[TORN] = {0, 256, 511};

    return i < WAYS ? ways[i]
                    : (struct shim_way){torn[(i - WAYS) / SUBSETS], false,
                                        false, SHIM_MASK};
}

#define ALL (WAYS + SUBSETS * TORN)

uint64_t in_place_cuts(struct session *s, const struct ram *before,
                       const struct ram *after,
                       void (*check)(const struct shim *shim, const void *told),
                       const void *told)
{
    uint64_t states = 0, all = after->writes * ALL;

    for (uint64_t i = 0; i < all; i++, states++) {
        const struct cut cut = {before,
                                after,
                                i / ALL + 1,
                                way_of(i % ALL),
                                i % ALL < WAYS
                                    ? (uint32_t)i
                                    : (uint32_t)((i % ALL - WAYS) % SUBSETS),
                                slate_draft_work_bytes(&s->draft)};
        struct ram ram;
        struct shim shim;

        session_cut(s, &cut, &ram, &shim);
        check(&shim, told);
        session_go_on(s, &cut, &ram, &shim);
    }
    return states;
}
