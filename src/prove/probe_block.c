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

/* The state of a generator of 64 bits, moved on (xorshift). */
static uint64_t next(uint64_t state)
{
    state ^= state << 13;
    state ^= state >> 7;
    return state ^ state << 17;
}

static uint64_t first(const struct slate_probe *probe, uint64_t lba)
{
    uint64_t state =
        slate_le64(probe->seed) ^ (lba + 1) * UINT64_C(0x9E3779B97F4A7C15);

    return next(state == 0 ? 1 : state);
}

void slate_probe_compose(const struct slate_probe *probe, uint64_t lba,
                         uint8_t *block)
{
    uint32_t bytes = probe->media->geometry.block_bytes;
    uint64_t state = first(probe, lba);

    memcpy(block, HEAD, SEED_AT);
    memcpy(block + SEED_AT, probe->seed, sizeof probe->seed);
    slate_put_le64(block + LBA_AT, lba);
    for (uint32_t at = FILL_AT; at < bytes; at += 8) {
        slate_put_le64(block + at, state);
        state = next(state);
    }
}

bool slate_probe_is(const struct slate_probe *probe, uint64_t lba,
                    const uint8_t *block)
{
    uint32_t bytes = probe->media->geometry.block_bytes;
    uint64_t state = first(probe, lba), whose;

    if (!slate_probe_whose(probe, block, &whose) || whose != lba)
        return false;
    for (uint32_t at = FILL_AT; at < bytes; at += 8) {
        if (slate_le64(block + at) != state)
            return false;
        state = next(state);
    }
    return true;
}

bool slate_probe_whose(const struct slate_probe *probe, const uint8_t *block,
                       uint64_t *lba)
{
    *lba = slate_le64(block + LBA_AT);
    return memcmp(block, HEAD, SEED_AT) == 0 &&
           memcmp(block + SEED_AT, probe->seed, sizeof probe->seed) == 0;
}
