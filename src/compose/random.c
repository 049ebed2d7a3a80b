/* SPDX-License-Identifier: MIT */
/* Random data that follows from a key and the block's number: any block can be
 * composed, and checked later, without the others and without a record. */

#include "compose/lanes.h"
#include "compose/compose.h"

static inline void next_row(struct slate_lanes *lanes,
                            uint64_t row[SLATE_LANES])
{
    for (uint32_t i = 0; i < SLATE_LANES; i++) {
        uint64_t x = lanes->a[i], y = lanes->b[i];

        row[i] = x + y;
        lanes->a[i] = y;
        x ^= x << 23;
        lanes->b[i] = x ^ y ^ x >> 18 ^ y >> 5;
    }
}

static inline bool is_little_endian(void)
{
    const uint16_t one = 1;
    uint8_t first;

    memcpy(&first, &one, 1);
    return first == 1;
}

/* Numbers are little-endian on every machine. */
static inline void put_row(const uint64_t row[SLATE_LANES], uint8_t *to)
{
    if (is_little_endian()) {
        memcpy(to, row, SLATE_LANES_BYTES);
        return;
    }
    for (uint32_t i = 0; i < SLATE_LANES; i++)
        slate_put_le64(to + (size_t)8 * i, row[i]);
}

static void fill_block(const struct slate_random *random, uint64_t lba,
                       uint8_t *to)
{
    struct slate_lanes lanes;
    uint64_t row[SLATE_LANES];

    slate_lanes_begin(&lanes, random->key, lba);
    for (uint32_t at = 0; at < random->block_bytes; at += SLATE_LANES_BYTES) {
        next_row(&lanes, row);
        put_row(row, to + at);
    }
}

bool slate_random_is(const struct slate_random *random, uint64_t lba,
                     const uint8_t *block)
{
    struct slate_lanes lanes;
    uint64_t row[SLATE_LANES];
    uint8_t bytes[SLATE_LANES_BYTES];

    slate_lanes_begin(&lanes, random->key, lba);
    for (uint32_t at = 0; at < random->block_bytes; at += SLATE_LANES_BYTES) {
        next_row(&lanes, row);
        put_row(row, bytes);
        if (memcmp(bytes, block + at, SLATE_LANES_BYTES) != 0)
            return false;
    }
    return true;
}

static enum slate_status random_fill(const void *plan, uint64_t lba,
                                     uint32_t count, void *data)
{
    const struct slate_random *random = plan;
    uint8_t *to = data;

    for (uint32_t i = slate_lanes_fill_wide(random, lba, count, to); i < count;
         i++)
        fill_block(random, lba + i, to + (size_t)i * random->block_bytes);
    return SLATE_OK;
}

static const char *const steps[] = {"write random data"};

_Static_assert(offsetof(struct slate_random, range) == 0,
               "a range comes first");

const struct slate_composer slate_random_composer = {
    "random", slate_one_next, slate_one_covers, random_fill, steps};
