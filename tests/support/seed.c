/* SPDX-License-Identifier: MIT */
/* A device as a short string of bytes: tests/fuzz reads them. */
#include "seed.h"

#include <string.h>

#define PATCH_MOST 256u

static void put_le(uint8_t *at, uint64_t value, int length)
{
    for (int i = 0; i < length; i++, value >>= 8)
        at[i] = (uint8_t)value;
}

/* Bytes of a run that are not followed by a long stretch of zeros. */
static size_t patch_length(const uint8_t *run, size_t most)
{
    size_t length = 1;

    for (size_t i = 1; i < most && i < PATCH_MOST && i < length + 16; i++) {
        if (run[i] != 0)
            length = i + 1;
    }
    return length;
}

size_t seed_of(const struct ram *ram, uint8_t *bytes, size_t room)
{
    size_t used = SEED_HEAD;
    uint8_t shift = 0;

    while (512u << shift < ram->facts.block_bytes)
        shift++;
    bytes[0] = shift;
    bytes[1] = 0;
    put_le(bytes + 2, ram->facts.block_count, 8);
    for (size_t page = 0; page < ram->page_count; page++) {
        const uint8_t *from = ram->pages[page];

        for (size_t at = 0; from != NULL && at < RAM_PAGE_BYTES;) {
            size_t length;

            if (from[at] == 0) {
                at++;
                continue;
            }
            length = patch_length(from + at, RAM_PAGE_BYTES - at);
            if (used + 9 + length > room)
                return used;
            put_le(bytes + used, page * RAM_PAGE_BYTES + at, 8);
            bytes[used + 8] = (uint8_t)(length - 1);
            memcpy(bytes + used + 9, from + at, length);
            used += 9 + length;
            at += length;
        }
    }
    return used;
}
