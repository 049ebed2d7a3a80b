/* SPDX-License-Identifier: MIT */
/* Blocks that are as they were. */
#include <string.h>

#include "compose/compose.h"

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

_Static_assert(offsetof(struct slate_kept, range) == 0, "a range comes first");

const struct slate_composer slate_kept_composer = {
    "kept", slate_one_next, slate_one_covers, kept_fill, steps};
