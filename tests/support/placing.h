/* SPDX-License-Identifier: MIT */
/* Small volumes of each kind, and files of the workshop to place on them. */
#ifndef TESTS_PLACING_H
#define TESTS_PLACING_H

#include "placed.h"

/* What a test program works with. */
struct placing {
    struct session *s;
    struct placed *placed;
    struct tree *tree;
};

#define KINDS 4u

/* A volume of each kind, about as small as it can be. */
struct placing_kind {
    enum slate_volume_kind kind;
    uint64_t bytes_512, bytes_4096; /* with blocks of that size */
};
extern const struct placing_kind placing_kinds[KINDS];

/* A device, and a draft of one volume on it, with nothing placed yet. */
void placing_begin(const struct placing *p, struct ram *ram, size_t kind,
                   uint32_t block_bytes, bool table);

/* Makes the draft; its clusters are known from then on. */
uint32_t placing_cluster_bytes(const struct placing *p);

/* What the workshop puts on a logger's card, and sizes on both sides of a
 * cluster. */
void placing_usual(const struct placing *p, uint32_t cluster);

/* The item among these that has 70000 bytes. */
#define PLACING_LARGE 11u

/* Made, enacted, proved, and read by another reading. */
void placing_enact(const struct placing *p, struct ram *ram);

#endif
