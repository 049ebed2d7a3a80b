/* SPDX-License-Identifier: MIT */
/* What a pass goes over: its blocks, and whether they are as they should be. */

#include "base/base.h"
#include "trueslate/compose.h"

static bool composed_next(const void *context, struct slate_walk *walk,
                          struct slate_extent *extent)
{
    const struct slate_composed *composed = context;

    for (; walk->moment < SLATE_MOMENTS; walk->moment++, walk->at = 0) {
        extent->part = 0;
        extent->deed = SLATE_DEED_WRITE;
        extent->moment = (enum slate_moment)walk->moment;
        if (composed->composer->next(composed->plan, extent->moment, &walk->at,
                                     extent))
            return true;
    }
    return false;
}

static enum slate_status composed_compose(const void *context,
                                          const struct slate_extent *extent,
                                          uint64_t first, uint32_t count,
                                          void *data)
{
    const struct slate_composed *composed = context;

    if (!extent->zero)
        return composed->composer->fill(composed->plan, first, count, data);
    memset(data, 0, (size_t)count * composed->block_bytes);
    return SLATE_OK;
}

static const char *composed_step(const void *context,
                                 const struct slate_extent *extent)
{
    const struct slate_composed *composed = context;

    return composed->composer->steps[extent->role];
}

void slate_compose_supply(const struct slate_composed *composed,
                          struct slate_supply *supply)
{
    *supply = (struct slate_supply){composed, composed_next, composed_compose,
                                    composed_step, 0};
}

uint64_t slate_supply_blocks(const struct slate_supply *supply)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;
    uint64_t blocks = 0;

    while (supply->next(supply->context, &walk, &extent))
        blocks += extent.count;
    return blocks;
}

/* The first of count blocks that is not as wanted; wanted NULL: not zeros. */
static uint32_t equal_blocks(const uint8_t *found, const uint8_t *wanted,
                             uint32_t count, size_t block_bytes)
{
    size_t all = count * block_bytes;
    uint32_t i = 0;

    if (wanted == NULL ? slate_is_zero(found, all)
                       : memcmp(found, wanted, all) == 0)
        return count;
    while (wanted == NULL ? slate_is_zero(found, block_bytes)
                          : memcmp(found, wanted, block_bytes) == 0) {
        found += block_bytes;
        wanted = wanted == NULL ? NULL : wanted + block_bytes;
        i++;
    }
    return i;
}

/* Both as they are in memory; wanted NULL: zeros. */
static void compare(const uint8_t *found, const uint8_t *wanted, uint64_t first,
                    uint32_t count, uint32_t block_bytes,
                    struct slate_difference *difference)
{
    for (uint32_t i = 0; i < count; i++) {
        size_t at = (size_t)i * block_bytes;

        i += equal_blocks(found + at, wanted == NULL ? NULL : wanted + at,
                          count - i, block_bytes);
        if (i < count && difference->blocks++ == 0)
            difference->first = first + i;
    }
}

/* What is composed is compared while it is in the processor's cache. */
#define PIECE_BYTES 131072u

enum slate_status slate_supply_compare(const struct slate_supply *supply,
                                       uint32_t block_bytes,
                                       const struct slate_extent *extent,
                                       uint64_t first, uint32_t count,
                                       const void *data, void *scratch,
                                       struct slate_difference *difference)
{
    const uint8_t *found = data;
    uint8_t *wanted = scratch;
    uint32_t most = PIECE_BYTES > block_bytes ? PIECE_BYTES / block_bytes : 1;
    enum slate_status status = SLATE_OK;

    memset(difference, 0, sizeof *difference);
    if (extent->zero) {
        compare(found, NULL, first, count, block_bytes, difference);
        return SLATE_OK;
    }
    for (uint32_t at = 0, piece; status == SLATE_OK && at < count;
         at += piece) {
        size_t offset = (size_t)at * block_bytes;

        piece = count - at < most ? count - at : most;
        status = supply->compose(supply->context, extent, first + at, piece,
                                 wanted + offset);
        if (status == SLATE_OK)
            compare(found + offset, wanted + offset, first + at, piece,
                    block_bytes, difference);
    }
    return status;
}
