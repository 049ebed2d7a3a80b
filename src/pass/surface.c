/* SPDX-License-Identifier: MIT */
/* How fast a device is, region by region. */
#include "trueslate/surface.h"

#include <string.h>

/* So many times slower than most. */
#define SLOWER 4u
/* A clock of milliseconds tells nothing about less; of all of them, somebody
 * notices this. */
#define KNOWN_US 2000u
#define NOTICED_US 50000u

void slate_surface_place(struct slate_surface *surface,
                         const struct slate_geometry *geometry,
                         struct slate_cell *cell, uint32_t room)
{
    uint64_t blocks = geometry->block_count;

    surface->block_count = blocks;
    surface->block_bytes = geometry->block_bytes;
    surface->cell_blocks = blocks / room + (blocks % room != 0 ? 1 : 0);
    surface->count = (uint32_t)(blocks / surface->cell_blocks +
                                (blocks % surface->cell_blocks != 0 ? 1 : 0));
    surface->cell = cell;
    memset(cell, 0, surface->count * sizeof *cell);
}

/* The blocks of a run that lie in the region of its first one. */
static uint64_t within(const struct slate_surface *surface, uint64_t first,
                       uint64_t count)
{
    uint64_t left = surface->cell_blocks - first % surface->cell_blocks;

    return count < left ? count : left;
}

static uint64_t cut(const struct slate_surface *surface, uint64_t first,
                    uint64_t count)
{
    if (first >= surface->block_count)
        return 0;
    return count < surface->block_count - first ? count
                                                : surface->block_count - first;
}

/* What falls to some of the blocks; of very many, about that. */
static uint64_t share_of(uint64_t us, uint64_t blocks, uint64_t all)
{
    for (; all > UINT32_MAX; all /= 2)
        blocks /= 2;
    return us / all * blocks + us % all * blocks / all;
}

void slate_surface_note(struct slate_surface *surface, uint64_t first,
                        uint64_t count, uint64_t us)
{
    uint64_t left = cut(surface, first, count);

    while (left > 0) {
        uint64_t blocks = within(surface, first, left);
        struct slate_cell *cell = &surface->cell[first / surface->cell_blocks];
        uint64_t share = share_of(us, blocks, left);

        cell->blocks += blocks;
        cell->us += share;
        us -= share;
        first += blocks;
        left -= blocks;
    }
}

void slate_surface_fail(struct slate_surface *surface, uint64_t first,
                        uint64_t count)
{
    uint64_t left = cut(surface, first, count);

    while (left > 0) {
        uint64_t blocks = within(surface, first, left);

        surface->cell[first / surface->cell_blocks].failed += blocks;
        first += blocks;
        left -= blocks;
    }
}

static uint64_t rate(const struct slate_surface *surface, uint64_t blocks,
                     uint64_t us)
{
    uint64_t bytes = blocks * surface->block_bytes;

    if (us == 0)
        return 0;
    return bytes < UINT64_MAX / 1000000 ? bytes * 1000000 / us
                                        : bytes / us * 1000000;
}

uint64_t slate_surface_rate(const struct slate_surface *surface, uint32_t index)
{
    return rate(surface, surface->cell[index].blocks, surface->cell[index].us);
}

/* Regions that are at least so fast; those of which nothing is known do not
 * count. */
static uint32_t count_faster(const struct slate_surface *surface,
                             uint64_t least)
{
    uint32_t faster = 0;

    for (uint32_t i = 0; i < surface->count; i++) {
        uint64_t here = slate_surface_rate(surface, i);

        faster += here > 0 && here >= least ? 1 : 0;
    }
    return faster;
}

/* By halving: no room to sort is needed. */
uint64_t slate_surface_median(const struct slate_surface *surface)
{
    uint32_t half = (count_faster(surface, 1) + 1) / 2;
    uint64_t low = 1, high = UINT64_MAX;

    if (half == 0)
        return 0;
    while (low < high) { /* the highest rate that half of them reach */
        uint64_t middle = low + (high - low) / 2 + 1;

        if (count_faster(surface, middle) >= half)
            low = middle;
        else
            high = middle - 1;
    }
    return low;
}

bool slate_surface_is_slow(const struct slate_surface *surface, uint32_t index,
                           uint64_t median)
{
    return surface->cell[index].us >= KNOWN_US &&
           slate_surface_rate(surface, index) <= median / SLOWER;
}

/* The next region from one on that is slow, or is not. */
static uint32_t next_that(const struct slate_surface *surface, uint32_t from,
                          bool slow)
{
    uint64_t median = slate_surface_median(surface);

    while (from < surface->count &&
           slate_surface_is_slow(surface, from, median) != slow)
        from++;
    return from;
}

bool slate_surface_next_slow(const struct slate_surface *surface, uint32_t *at,
                             struct slate_slow *slow)
{
    uint64_t blocks = 0, us = 0;
    uint32_t first = *at;

    while (*at < surface->count && us < NOTICED_US) {
        first = next_that(surface, *at, true);
        *at = next_that(surface, first, false);
        blocks = us = 0;
        for (uint32_t i = first; i < *at; i++) {
            blocks += surface->cell[i].blocks;
            us += surface->cell[i].us;
        }
    }
    slow->range.first = first * surface->cell_blocks;
    slow->range.count =
        cut(surface, slow->range.first, (*at - first) * surface->cell_blocks);
    slow->bytes_per_second = rate(surface, blocks, us);
    return us >= NOTICED_US;
}
