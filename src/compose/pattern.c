/* SPDX-License-Identifier: MIT */
/* A pattern that follows from seed and block number: a head that names both,
 * then bytes that no two blocks share. */

#include "base/base.h"
#include "compose/compose.h"

#define HEAD "TRUE SLATE PROBE"
#define SEED_AT 16u
#define LBA_AT 32u
#define FILL_AT 40u
#define UNIT_BYTES 32u

/* The state of a generator of 64 bits, moved on (xorshift). */
static uint64_t next(uint64_t state)
{
    state ^= state << 13;
    state ^= state >> 7;
    return state ^ state << 17;
}

static uint64_t first(const uint8_t *seed, uint64_t lba)
{
    uint64_t state =
        slate_le64(seed) ^ (lba + 1) * UINT64_C(0x9E3779B97F4A7C15);

    return next(state == 0 ? 1 : state);
}

/* The next unit of what is written to a block; state is that of the generator
 * behind it. */
static void compose_unit(const struct slate_pattern *pattern, uint64_t lba,
                         uint32_t at, uint64_t *state, uint8_t unit[UNIT_BYTES])
{
    uint32_t fill = 0;

    if (at == 0) {
        memcpy(unit, HEAD, SEED_AT);
        memcpy(unit + SEED_AT, pattern->seed, UNIT_BYTES - SEED_AT);
        return;
    }
    if (at == LBA_AT) {
        slate_put_le64(unit, lba);
        fill = FILL_AT - LBA_AT;
    }
    for (; fill < UNIT_BYTES; fill += 8) {
        slate_put_le64(unit + fill, *state);
        *state = next(*state);
    }
}

/* The first unit of a block that is (or is not) as the pattern has it there;
 * the block's length when there is none. */
static uint32_t find_unit(const struct slate_pattern *pattern, uint64_t lba,
                          const uint8_t *block, bool equal)
{
    uint64_t state = first(pattern->seed, lba);
    uint8_t unit[UNIT_BYTES];

    for (uint32_t at = 0; at < pattern->block_bytes; at += UNIT_BYTES) {
        compose_unit(pattern, lba, at, &state, unit);
        if ((memcmp(unit, block + at, UNIT_BYTES) == 0) == equal)
            return at;
    }
    return pattern->block_bytes;
}

bool slate_pattern_is(const struct slate_pattern *pattern, uint64_t lba,
                      const uint8_t *block)
{
    return find_unit(pattern, lba, block, false) == pattern->block_bytes;
}

/* What a write leaves that was torn anywhere. */
static bool is_mixture(const struct slate_pattern *pattern, uint64_t lba,
                       const uint8_t *block, const uint8_t *kept)
{
    uint32_t written = 0;
    uint64_t state = first(pattern->seed, lba);
    uint8_t unit[UNIT_BYTES];

    for (uint32_t at = 0; at < pattern->block_bytes; at++) {
        if (at % UNIT_BYTES == 0)
            compose_unit(pattern, lba, at, &state, unit);
        if (block[at] == kept[at])
            continue;
        if (block[at] != unit[at % UNIT_BYTES])
            return false;
        written++;
    }
    return written > 0;
}

bool slate_pattern_bears(const struct slate_pattern *pattern, uint64_t lba,
                         const uint8_t *block, const uint8_t *kept)
{
    return find_unit(pattern, lba, block, true) < pattern->block_bytes ||
           is_mixture(pattern, lba, block, kept);
}

bool slate_pattern_is_any(const uint8_t *block, uint32_t block_bytes)
{
    struct slate_pattern pattern = {.block_bytes = block_bytes};

    memcpy(pattern.seed, block + SEED_AT, sizeof pattern.seed);
    return memcmp(block, HEAD, SEED_AT) == 0 &&
           slate_pattern_is(&pattern, slate_le64(block + LBA_AT), block);
}

bool slate_pattern_whose(const struct slate_pattern *pattern,
                         const uint8_t *block, uint64_t *lba)
{
    *lba = slate_le64(block + LBA_AT);
    return memcmp(block, HEAD, SEED_AT) == 0 &&
           memcmp(block + SEED_AT, pattern->seed, sizeof pattern->seed) == 0;
}

static enum slate_status pattern_fill(const void *plan, uint64_t lba,
                                      uint32_t count, void *data)
{
    const struct slate_pattern *pattern = plan;
    uint8_t *to = data;

    for (uint32_t i = 0; i < count; i++, lba++) {
        uint64_t state = first(pattern->seed, lba);

        for (uint32_t at = 0; at < pattern->block_bytes; at += UNIT_BYTES) {
            compose_unit(pattern, lba, at, &state, to);
            to += UNIT_BYTES;
        }
    }
    return SLATE_OK;
}

static const char *const steps[] = {"write a pattern"};

_Static_assert(offsetof(struct slate_pattern, range) == 0,
               "a range comes first");

const struct slate_composer slate_pattern_composer = {
    "pattern", slate_one_next, slate_one_covers, pattern_fill, steps};
