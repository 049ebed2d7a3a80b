/* SPDX-License-Identifier: MIT */
/* An own reading of ext4 (Linux kernel documentation, filesystems/ext4), apart
 * from the library's: every rule of a fresh volume, from its bytes alone. */
#ifndef TESTS_EXT_CHECK_H
#define TESTS_EXT_CHECK_H

#include "composed.h"

struct ext_seen {
    uint32_t unit_bytes, groups, group_units, copies;
    uint32_t group_inodes;
    uint64_t units, free;
    uint32_t journal_units; /* 0: there is none */
    uint32_t written;       /* groups whose bitmaps count */
    uint32_t root_mode;
    uint64_t bad;       /* units, of the file of bad ones */
    uint32_t bad_runs;  /* in so many runs */
    uint32_t map_units; /* of its map */
    uint64_t bad_first[1400], bad_count[1400];
    char label[17];
};

/* Asserts all of it; of volumes with many groups, of every step-th. */
void ext_check(const struct volume_blocks *blocks, uint32_t step,
               struct ext_seen *seen);

#endif
