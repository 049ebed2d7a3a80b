/* SPDX-License-Identifier: MIT */
/* The extents of a composer that has only a few: as a list of rows. */
#include "compose/compose.h"

#include <string.h>

bool slate_rows_next(const struct slate_row *row, uint32_t count,
                     enum slate_moment moment, uint64_t *at,
                     struct slate_extent *extent)
{
    while (*at < count) {
        const struct slate_row *next = &row[(*at)++];

        if (next->moment != moment || next->count == 0)
            continue;
        extent->first = next->first;
        extent->count = next->count;
        extent->role = next->role;
        extent->zero = next->zero;
        return true;
    }
    return false;
}

bool slate_rows_cover(const struct slate_row *row, uint32_t count, uint64_t lba,
                      uint64_t *until)
{
    *until = UINT64_MAX;
    for (uint32_t i = 0; i < count; i++) {
        uint64_t end = row[i].first + row[i].count;

        if (lba >= row[i].first && lba < end) {
            *until = end;
            return true;
        }
        if (row[i].count > 0 && row[i].first > lba && row[i].first < *until)
            *until = row[i].first;
    }
    return false;
}

static struct slate_row row_of(const void *plan)
{
    struct slate_range range;

    memcpy(&range, plan, sizeof range);
    return (struct slate_row){SLATE_MOMENT_BODY, 0, false, range.first,
                              range.count};
}

bool slate_one_next(const void *plan, enum slate_moment moment, uint64_t *at,
                    struct slate_extent *extent)
{
    struct slate_row row = row_of(plan);

    return slate_rows_next(&row, 1, moment, at, extent);
}

bool slate_one_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    struct slate_row row = row_of(plan);

    return slate_rows_cover(&row, 1, lba, until);
}

void slate_blocks_fill(const void *plan,
                       void (*put)(const void *plan, uint64_t block,
                                   uint8_t *data),
                       uint64_t block, uint32_t count, uint32_t block_bytes,
                       void *data)
{
    uint8_t *to = data;

    memset(data, 0, (size_t)count * block_bytes);
    for (uint32_t i = 0; i < count; i++, to += block_bytes)
        put(plan, block + i, to);
}
