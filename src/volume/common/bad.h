/* SPDX-License-Identifier: MIT */
/* Blocks that are known to be bad, as a volume sees them. A list of them is
 * ascending, and no two of its ranges touch; NULL is an empty one. */
#ifndef SLATE_VOLUME_BAD_H
#define SLATE_VOLUME_BAD_H

#include "trueslate/base.h"

/* The clusters of a volume. */
struct slate_clusters {
    uint64_t first;  /* block of the device where the first one begins */
    uint32_t blocks; /* of each */
    uint32_t count;
};

/* The index of the first range that ends behind a block; their number when none
 * does. */
uint32_t slate_bad_from(const struct slate_ranges *bad, uint64_t block);

/* Adds blocks, some of which may be there already. @return SLATE_OK;
 * SLATE_ERR_ARGUMENT for none, or beyond 2^63; SLATE_ERR_ROOM for too little
 * room */
enum slate_status slate_bad_add(struct slate_ranges *bad, uint64_t first,
                                uint64_t count);

/* The first and the last bad block in a range of the device. False: none. */
bool slate_bad_first(const struct slate_ranges *bad,
                     const struct slate_range *range, uint64_t *block);
bool slate_bad_last(const struct slate_ranges *bad,
                    const struct slate_range *range, uint64_t *block);

/* The first bad cluster, counted from 0, from one on; the number of clusters
 * when there is none. */
uint32_t slate_bad_cluster(const struct slate_ranges *bad,
                           const struct slate_clusters *clusters,
                           uint32_t from);

/* The first one that is not, in the same way. */
uint32_t slate_good_cluster(const struct slate_ranges *bad,
                            const struct slate_clusters *clusters,
                            uint32_t from);

/* How many are bad. */
uint32_t slate_bad_count(const struct slate_ranges *bad,
                         const struct slate_clusters *clusters);

/* The first of so many clusters in a row that are not bad, from *first on.
 * False: there are not so many. */
bool slate_bad_run(const struct slate_ranges *bad,
                   const struct slate_clusters *clusters, uint32_t length,
                   uint32_t *first);

#endif
