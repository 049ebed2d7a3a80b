/* SPDX-License-Identifier: MIT */
/* How fast a device is, region by region, and where it fails: what long work
 * has met, to be told as ranges and drawn as a map. */
#ifndef TRUESLATE_SURFACE_H
#define TRUESLATE_SURFACE_H

#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What was met in one region. */
struct slate_cell {
    uint64_t blocks; /**< that were worked on, each time counted */
    uint64_t us;     /**< that took, microseconds */
    uint64_t failed; /**< blocks that failed */
};

/** A device in regions of one size; only the last one may be shorter. */
struct slate_surface {
    uint64_t block_count; /**< of the device */
    uint64_t cell_blocks; /**< of a region */
    uint32_t block_bytes;
    uint32_t count; /**< of regions */
    struct slate_cell *cell;
};

/** Regions that are slow, side by side. */
struct slate_slow {
    struct slate_range range;
    uint64_t bytes_per_second; /**< of all of them */
};

/**
 * Divides a device into regions in which nothing was met yet.
 *
 * @param surface  filled in
 * @param geometry of the device
 * @param cell     the caller's, kept by reference
 * @param room     of cells, at least 1; a small device takes fewer
 */
void slate_surface_place(struct slate_surface *surface,
                         const struct slate_geometry *geometry,
                         struct slate_cell *cell, uint32_t room);

/**
 * Notes how long blocks took.
 *
 * @param surface a placed one
 * @param first   of them; what lies beyond the device does not count
 * @param count   of them
 * @param us      microseconds, of all of them
 */
void slate_surface_note(struct slate_surface *surface, uint64_t first,
                        uint64_t count, uint64_t us);

/** Notes blocks that failed. @param first of them; @param count of them */
void slate_surface_fail(struct slate_surface *surface, uint64_t first,
                        uint64_t count);

/** Bytes a second in a region; 0: it was not worked on, or no clock tells. */
uint64_t slate_surface_rate(const struct slate_surface *surface,
                            uint32_t index);

/** The rate that half of the regions that were worked on reach; 0: none was. */
uint64_t slate_surface_median(const struct slate_surface *surface);

/** Is a region slow: at a quarter of the median rate at most, as far as the
 * clock tells? @param median of the surface */
bool slate_surface_is_slow(const struct slate_surface *surface, uint32_t index,
                           uint64_t median);

/**
 * The next regions that are slow, side by side, and together take long enough
 * to be noticed: a twentieth of a second.
 *
 * @param surface a surface
 * @param at      0 for the first ones; moves on
 * @param slow    receives them
 * @return false when there are no more
 */
bool slate_surface_next_slow(const struct slate_surface *surface, uint32_t *at,
                             struct slate_slow *slow);

#ifdef __cplusplus
}
#endif
#endif
