/* SPDX-License-Identifier: MIT */
/* Blocks that are known to be bad, as a volume sees them. */
#include "base/base.h"
#include "volume/common/common.h"

#include <string.h>

uint32_t slate_bad_from(const struct slate_ranges *bad, uint64_t block)
{
    uint32_t low = 0, high = bad->count;

    SLATE_BISECT(low, high, i,
                 bad->range[i].first + bad->range[i].count <= block);
    return low;
}

enum slate_status slate_bad_add(struct slate_ranges *bad, uint64_t first,
                                uint64_t count)
{
    /* the first one that touches it or lies behind it */
    uint32_t i = first == 0 ? 0 : slate_bad_from(bad, first - 1), touched = i;
    uint64_t end = first + count;

    if (count == 0 || end < first || end > INT64_MAX)
        return SLATE_ERR_ARGUMENT;
    for (; touched < bad->count && bad->range[touched].first <= end;
         touched++) {
        uint64_t other = bad->range[touched].first + bad->range[touched].count;

        first = bad->range[touched].first < first ? bad->range[touched].first
                                                  : first;
        end = other > end ? other : end;
    }
    if (touched == i && bad->count == bad->room)
        return SLATE_ERR_ROOM;
    memmove(&bad->range[i + 1], &bad->range[touched],
            (bad->count - touched) * sizeof bad->range[0]);
    bad->count = bad->count + 1 - (touched - i);
    bad->range[i] = (struct slate_range){first, end - first};
    return SLATE_OK;
}

bool slate_bad_first(const struct slate_ranges *bad,
                     const struct slate_range *range, uint64_t *block)
{
    uint32_t i = bad == NULL ? 0 : slate_bad_from(bad, range->first);

    if (bad == NULL || i == bad->count ||
        bad->range[i].first >= range->first + range->count)
        return false;
    *block =
        bad->range[i].first > range->first ? bad->range[i].first : range->first;
    return true;
}

bool slate_bad_last(const struct slate_ranges *bad,
                    const struct slate_range *range, uint64_t *block)
{
    uint64_t end = range->first + range->count, last;
    uint32_t i = bad == NULL ? 0 : slate_bad_from(bad, end);

    if (bad == NULL)
        return false;
    if (i < bad->count && bad->range[i].first < end) {
        *block = end - 1;
        return range->count > 0;
    }
    if (i == 0)
        return false;
    last = bad->range[i - 1].first + bad->range[i - 1].count - 1;
    *block = last;
    return last >= range->first;
}

uint32_t slate_bad_cluster(const struct slate_ranges *bad,
                           const struct slate_clusters *clusters, uint32_t from)
{
    struct slate_range rest;
    uint64_t block;

    if (from >= clusters->count)
        return clusters->count;
    rest.first = clusters->first + (uint64_t)from * clusters->blocks;
    rest.count = (uint64_t)(clusters->count - from) * clusters->blocks;
    return slate_bad_first(bad, &rest, &block)
               ? (uint32_t)((block - clusters->first) / clusters->blocks)
               : clusters->count;
}

uint32_t slate_good_cluster(const struct slate_ranges *bad,
                            const struct slate_clusters *clusters,
                            uint32_t cluster)
{
    uint64_t at, end;
    uint32_t i;

    while (cluster < clusters->count &&
           slate_bad_cluster(bad, clusters, cluster) == cluster) {
        at = clusters->first + (uint64_t)cluster * clusters->blocks;
        i = slate_bad_from(bad, at);
        end = bad->range[i].first + bad->range[i].count - clusters->first;
        end = (end + clusters->blocks - 1) / clusters->blocks;
        cluster = end < clusters->count ? (uint32_t)end : clusters->count;
    }
    return cluster;
}

uint32_t slate_bad_count(const struct slate_ranges *bad,
                         const struct slate_clusters *clusters)
{
    uint32_t count = 0, good = 0;

    for (;;) {
        uint32_t first = slate_bad_cluster(bad, clusters, good);

        if (first == clusters->count)
            return count;
        good = slate_good_cluster(bad, clusters, first);
        count += good - first;
    }
}

bool slate_bad_run(const struct slate_ranges *bad,
                   const struct slate_clusters *clusters, uint32_t length,
                   uint32_t *first)
{
    *first = slate_good_cluster(bad, clusters, *first);
    while (*first < clusters->count && clusters->count - *first >= length) {
        uint32_t next = slate_bad_cluster(bad, clusters, *first);

        if (next - *first >= length)
            return true;
        *first = slate_good_cluster(bad, clusters, next);
    }
    return false;
}
