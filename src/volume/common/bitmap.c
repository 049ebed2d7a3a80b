/* SPDX-License-Identifier: MIT */
/* A part of a bitmap of clusters or units, the lowest bit first. */
#include "volume/common/common.h"

void slate_bits_set(const struct slate_bits *bits, uint64_t first,
                    uint64_t count)
{
    uint64_t at = first > bits->first ? first : bits->first;
    uint64_t end = first + count;

    if (end > bits->first + bits->count)
        end = bits->first + bits->count;
    while (at < end) {
        uint64_t bit = at - bits->first;

        if (bit % 8 == 0 && end - at >= 8) {
            bits->byte[bit / 8] = 0xFF;
            at += 8;
        } else {
            bits->byte[bit / 8] |= (uint8_t)(1u << bit % 8);
            at++;
        }
    }
}

void slate_bits_set_bad(const struct slate_bits *bits,
                        const struct slate_ranges *bad,
                        const struct slate_clusters *clusters)
{
    uint32_t at, end;

    if (bits->first >= clusters->count)
        return;
    at = slate_bad_cluster(bad, clusters, (uint32_t)bits->first);
    while (at < clusters->count && at < bits->first + bits->count) {
        end = slate_good_cluster(bad, clusters, at);
        slate_bits_set(bits, at, (uint64_t)end - at);
        at = slate_bad_cluster(bad, clusters, end);
    }
}
