/* SPDX-License-Identifier: MIT */
/* What a probe writes to a block: a head that names probe and block, then bytes
 * that no two blocks share. */
#include <string.h>

#include "base/bytes.h"
#include "prove/probe.h"

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
static void compose_unit(const uint8_t *seed, uint64_t lba, uint32_t at,
                         uint64_t *state, uint8_t unit[UNIT_BYTES])
{
    uint32_t fill = 0;

    if (at == 0) {
        memcpy(unit, HEAD, SEED_AT);
        memcpy(unit + SEED_AT, seed, UNIT_BYTES - SEED_AT);
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

void slate_probe_compose(const struct slate_probe *probe, uint64_t lba,
                         uint8_t *block)
{
    uint32_t bytes = probe->media->geometry.block_bytes;
    uint64_t state = first(probe->seed, lba);

    for (uint32_t at = 0; at < bytes; at += UNIT_BYTES)
        compose_unit(probe->seed, lba, at, &state, block + at);
}

/* The first unit of a block that is (or is not) what a probe of this seed
 * writes there; the block's length when there is none. */
static uint32_t find_unit(const struct slate_probe *probe, const uint8_t *seed,
                          uint64_t lba, const uint8_t *block, bool equal)
{
    uint32_t bytes = probe->media->geometry.block_bytes;
    uint64_t state = first(seed, lba);
    uint8_t unit[UNIT_BYTES];

    for (uint32_t at = 0; at < bytes; at += UNIT_BYTES) {
        compose_unit(seed, lba, at, &state, unit);
        if ((memcmp(unit, block + at, UNIT_BYTES) == 0) == equal)
            return at;
    }
    return bytes;
}

bool slate_probe_is(const struct slate_probe *probe, uint64_t lba,
                    const uint8_t *block)
{
    return find_unit(probe, probe->seed, lba, block, false) ==
           probe->media->geometry.block_bytes;
}

/* What a write leaves that was torn anywhere. */
static bool is_mixture(const struct slate_probe *probe, uint64_t lba,
                       const uint8_t *block, const uint8_t *kept)
{
    uint32_t bytes = probe->media->geometry.block_bytes, written = 0;
    uint64_t state = first(probe->seed, lba);
    uint8_t unit[UNIT_BYTES];

    for (uint32_t at = 0; at < bytes; at++) {
        if (at % UNIT_BYTES == 0)
            compose_unit(probe->seed, lba, at, &state, unit);
        if (block[at] == kept[at])
            continue;
        if (block[at] != unit[at % UNIT_BYTES])
            return false;
        written++;
    }
    return written > 0;
}

bool slate_probe_bears(const struct slate_probe *probe, uint64_t lba,
                       const uint8_t *block, const uint8_t *kept)
{
    return find_unit(probe, probe->seed, lba, block, true) <
               probe->media->geometry.block_bytes ||
           is_mixture(probe, lba, block, kept);
}

bool slate_probe_is_leftover(const struct slate_probe *probe,
                             const uint8_t *block)
{
    return memcmp(block, HEAD, SEED_AT) == 0 &&
           find_unit(probe, block + SEED_AT, slate_le64(block + LBA_AT), block,
                     false) == probe->media->geometry.block_bytes;
}

bool slate_probe_whose(const struct slate_probe *probe, const uint8_t *block,
                       uint64_t *lba)
{
    *lba = slate_le64(block + LBA_AT);
    return memcmp(block, HEAD, SEED_AT) == 0 &&
           memcmp(block + SEED_AT, probe->seed, sizeof probe->seed) == 0;
}
