/* SPDX-License-Identifier: MIT */
/* A device of any size that a fuzzer's bytes describe: support/seed.h tells
 * how. Reading puts the patches together; nothing is kept. */
#ifndef TESTS_SPARSE_H
#define TESTS_SPARSE_H

#include <trueslate/trueslate.h>

#define SPARSE_PATCHES 256u

struct sparse {
    struct slate_port port;
    uint32_t block_bytes;
    uint64_t blocks;
    uint32_t count;
    struct {
        uint64_t byte;
        const uint8_t *data;
        uint32_t length;
    } patch[SPARSE_PATCHES];
    uint8_t header[2][4096]; /* of a GPT, with its checksums mended */
};

/* False for too few bytes. The bytes are kept by reference. */
bool sparse_open(struct sparse *sparse, const uint8_t *bytes, size_t length);

#endif
