/* SPDX-License-Identifier: MIT */
/* What every block that was written and read back tells of the capacity. */
#include "trueslate/scan.h"

/* Two blocks might be bad ones. */
#define LOST_LEAST 3u

/* Everything was written, and what did not come back is one run of blocks. */
static bool has_one_run(const struct slate_scan *scan)
{
    return scan->writes && scan->phase == SLATE_SCAN_DONE &&
           scan->range.first == 0 &&
           scan->range.count == scan->media->geometry.block_count &&
           scan->bad.count == 1 && scan->unwritable == 0 &&
           scan->altered >= LOST_LEAST &&
           scan->altered + scan->unreadable == scan->bad.range[0].count;
}

enum slate_status slate_scan_capacity(const struct slate_scan *scan,
                                      uint64_t *blocks, bool *wraps)
{
    const struct slate_range *lost = scan->bad.range;
    uint64_t all = scan->media->geometry.block_count, there;
    enum slate_status status;

    *blocks = all;
    *wraps = false;
    if (!has_one_run(scan))
        return SLATE_OK;
    if (lost->first > 0) {
        if (lost->first + lost->count == all)
            *blocks = lost->first;
        return SLATE_OK;
    }
    /* what came last stands in the first block then */
    there = all - lost->count;
    if (there == 0)
        return SLATE_OK;
    status = slate_media_read(scan->media, 0, 1, scan->work);
    if (status == SLATE_OK &&
        slate_random_is(&scan->random, (all - 1) / there * there, scan->work)) {
        *blocks = there;
        *wraps = true;
    }
    return status;
}
