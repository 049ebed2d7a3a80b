/* SPDX-License-Identifier: MIT */
/* The extents of a composer that has only a few: as a list of rows. */
#ifndef SLATE_COMPOSE_ROWS_H
#define SLATE_COMPOSE_ROWS_H

#include "trueslate/compose.h"

struct slate_row {
    enum slate_moment moment;
    uint8_t role;
    bool zero;
    uint64_t first, count; /* a row without blocks is passed over */
};

/* slate_composer.next and .covers over count rows. */
bool slate_rows_next(const struct slate_row *row, uint32_t count,
                     enum slate_moment moment, uint64_t *at,
                     struct slate_extent *extent);
bool slate_rows_cover(const struct slate_row *row, uint32_t count, uint64_t lba,
                      uint64_t *until);

/* The same of one range, which is the body of what is written. */
bool slate_rows_next_one(const struct slate_range *range,
                         enum slate_moment moment, uint64_t *at,
                         struct slate_extent *extent);
bool slate_rows_cover_one(const struct slate_range *range, uint64_t lba,
                          uint64_t *until);

/* slate_composer.fill, block by block: put gets each by its number,
 * and zeros to put it in. */
void slate_blocks_fill(const void *plan,
                       void (*put)(const void *plan, uint64_t block,
                                   uint8_t *data),
                       uint64_t block, uint32_t count, uint32_t block_bytes,
                       void *data);

#endif
