/* SPDX-License-Identifier: MIT */
/* An own reading of exFAT (file system specification 1.00), apart from the
 * library's: every rule of a fresh volume, from its bytes alone. */
#ifndef TESTS_EXFAT_CHECK_H
#define TESTS_EXFAT_CHECK_H

#include <stdbool.h>
#include <stdint.h>

#include "tree.h"

/* Where blocks of the volume come from. */
struct exfat_blocks {
    void *context;
    void (*read)(void *context, uint64_t block, uint8_t *data);
    uint32_t block_bytes;
    uint64_t blocks, first; /* its length, and its place on the device */
    /* blocks of the device that are bad; 0: none */
    const uint64_t *bad;
    uint32_t bad_count;
    struct tree *tree; /* receives what is in its folders; NULL: they are empty
                        */
};

struct exfat_seen {
    uint32_t cluster_bytes, clusters, used, serial;
    uint32_t bad;          /* clusters */
    uint32_t placed;       /* of those in use, by files and folders */
    uint64_t clusters_at;  /* block of the volume */
    uint16_t label[12];    /* units, and a zero */
    uint16_t upper[65536]; /* the up-case table */
};

/* Asserts all of it. */
void exfat_check(const struct exfat_blocks *blocks, struct exfat_seen *seen);

#endif
