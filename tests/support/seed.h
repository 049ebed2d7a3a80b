/* SPDX-License-Identifier: MIT */
/* A sparse device as a short string of bytes, which a fuzzer can change: its
 * size, then patches.
 *
 * byte 0: block size, as a power of two from 512 on (0 to 3)
 * byte 1: bit 0: mend the checksums of GPTs after all patches
 * 2 to 9: blocks, little-endian
 * then, again and again: byte offset (8), length less one (1), the bytes */
#ifndef TESTS_SEED_H
#define TESTS_SEED_H

#include <stddef.h>
#include <stdint.h>

#include "ram.h"

#define SEED_HEAD 10u
#define SEED_BYTES_MOST 65536u

/* The first patches of a device that fit; the length that was written. */
size_t seed_of(const struct ram *ram, uint8_t *bytes, size_t room);

#endif
