/* SPDX-License-Identifier: MIT */
/* Inside compose: sources, patterns, rows of composers. */
#ifndef SLATE_COMPOSE_COMPOSE_H
#define SLATE_COMPOSE_COMPOSE_H

#include "trueslate/compose.h"
#include "trueslate/source.h"

/* Finding a patch, and telling whose pattern a block bears. */

/* The patch of a block, by halving: the first one that is not ahead of it.
 * Returns its index when patch[index].lba == lba; where it would be, else. */
uint32_t slate_patch_find(const struct slate_patch *patch, uint32_t count,
                          uint64_t lba);

/* Does a block begin as one of the pattern's? */
bool slate_pattern_whose(const struct slate_pattern *pattern,
                         const uint8_t *block, uint64_t *lba);

/* Does a block bear any of the pattern, as a torn write leaves it?. Returns
 * true when any 32 bytes of it are the pattern's, or when it is made, byte by
 * byte, of the pattern and of what was there. */
bool slate_pattern_bears(const struct slate_pattern *pattern, uint64_t lba,
                         const uint8_t *block, const uint8_t *kept);

/* The extents of a composer that has only a few: as a list of rows. */

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

/* The same, where a function makes the rows out of a plan. */
#define SLATE_ROWS_BOTH(storage, name, most, make)                             \
    storage bool name##_next(const void *plan, enum slate_moment moment,       \
                             uint64_t *at, struct slate_extent *extent)        \
    {                                                                          \
        struct slate_row row[most];                                            \
        make(plan, row);                                                       \
        return slate_rows_next(row, most, moment, at, extent);                 \
    }                                                                          \
    storage bool name##_covers(const void *plan, uint64_t lba,                 \
                               uint64_t *until)                                \
    {                                                                          \
        struct slate_row row[most];                                            \
        make(plan, row);                                                       \
        return slate_rows_cover(row, most, lba, until);                        \
    }

/* The same of a plan that begins with its one range, which is the body of what
 * is written. */
bool slate_one_next(const void *plan, enum slate_moment moment, uint64_t *at,
                    struct slate_extent *extent);
bool slate_one_covers(const void *plan, uint64_t lba, uint64_t *until);

/* slate_composer.fill, block by block: put gets each by its number,
 * and zeros to put it in. */
void slate_blocks_fill(const void *plan,
                       void (*put)(const void *plan, uint64_t block,
                                   uint8_t *data),
                       uint64_t block, uint32_t count, uint32_t block_bytes,
                       void *data);

/* Content that comes from elsewhere. */

/* Reads bytes of a file, and vouches for it: its last byte is given only when
 * all of it, as it was read, has the digest. What is read in order is read
 * once; else the file is gone through again. Returns SLATE_OK;
 * SLATE_ERR_SOURCE when the file has changed or cannot be read. */
SLATE_MUST_CHECK enum slate_status
slate_source_take(struct slate_source *source, const struct slate_sourced *file,
                  uint64_t at, uint32_t count, void *data);

#endif
