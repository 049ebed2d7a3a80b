/* SPDX-License-Identifier: MIT */
/* Blocks that are as they were. */
#include <string.h>

#include "compose/compose.h"

static bool kept_next(const void *plan, enum slate_moment moment, uint64_t *at,
                      struct slate_extent *extent)
{
    const struct slate_kept *kept = plan;

    return slate_rows_next_one(&kept->range, moment, at, extent);
}

static bool kept_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    const struct slate_kept *kept = plan;

    return slate_rows_cover_one(&kept->range, lba, until);
}

static enum slate_status kept_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    const struct slate_kept *kept = plan;
    uint64_t at = first - kept->range.first;

    if (first < kept->range.first || at > kept->range.count ||
        count > kept->range.count - at)
        return SLATE_ERR_INTERNAL;
    memcpy(data, kept->bytes + (size_t)at * kept->block_bytes,
           (size_t)count * kept->block_bytes);
    return SLATE_OK;
}

static const char *const steps[] = {"put back what was there"};

const struct slate_composer slate_kept_composer = {
    "kept", kept_next, kept_covers, kept_fill, steps};
