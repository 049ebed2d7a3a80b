/* SPDX-License-Identifier: MIT */
/* A planned volume, as blocks to be read. */
#include "composed.h"

#include "check.h"

void composed_wish(struct slate_wish *wish)
{
    *wish = (struct slate_wish){.range = {2048, 0},
                                .align_bytes = 1048576,
                                .id = {0x78, 0x56, 0x34, 0x12, 9, 9},
                                .stamp = {2026, 11, 26, 1, 2, 3},
                                .label = "Shore 7"};
}

static void read_block(void *context, uint64_t block, uint8_t *data)
{
    const struct composed_volume *of = context;
    uint64_t until, lba = of->range.first + block;

    if (of->format->composer.covers(of->plan, lba, &until))
        assert_ok(of->format->composer.fill(of->plan, lba, 1, data));
    else
        memset(data, 0xE7, of->block_bytes);
}

void composed_blocks(struct composed_volume *of, struct volume_blocks *blocks)
{
    *blocks = (struct volume_blocks){of, read_block, of->block_bytes,
                                     of->range.count};
}

static void check_zeros(const struct composed_volume *of,
                        const struct slate_extent *extent)
{
    uint8_t data[4096];

    for (uint64_t at = 0; at < extent->count; at += 1 + extent->count / 50) {
        assert_ok(
            of->format->composer.fill(of->plan, extent->first + at, 1, data));
        for (uint32_t i = 0; i < of->block_bytes; i++)
            assert_int_equal(data[i], 0);
    }
}

void composed_extents(const struct composed_volume *of)
{
    uint64_t covered = 0, written = 0;
    const uint64_t end = of->range.first + of->range.count;
    const struct slate_composed composed = {&of->format->composer, of->plan,
                                            of->block_bytes};
    struct slate_walk walk = {0};
    struct slate_extent extent;
    struct slate_supply supply;
    uint64_t until;

    slate_compose_supply(&composed, &supply);
    while (supply.next(supply.context, &walk, &extent)) {
        written += extent.count;
        assert_true(extent.first >= of->range.first &&
                    extent.first + extent.count <= end);
        for (uint64_t at = extent.first; at < extent.first + extent.count;
             at = until)
            assert_true(of->format->composer.covers(of->plan, at, &until));
        if (extent.zero)
            check_zeros(of, &extent);
    }
    for (uint64_t at = of->range.first; at < end; at = until) {
        bool covers = of->format->composer.covers(of->plan, at, &until);

        assert_true(until > at);
        until = until < end ? until : end;
        covered += covers ? until - at : 0;
    }
    assert_int_equal(covered, written);
}

enum slate_status composed_try(const struct slate_format *format,
                               struct slate_wish *wish, uint32_t block_bytes,
                               uint64_t bytes, uint32_t cluster_bytes,
                               union slate_volume_plan *plan)
{
    wish->range.count = bytes / block_bytes;
    wish->block_bytes = block_bytes;
    wish->cluster_bytes = cluster_bytes;
    return format->plan(wish, plan);
}

void composed_sizes(struct slate_wish *wish,
                    void (*check)(uint32_t block_bytes, uint64_t bytes))
{
    uint32_t seed = 11;

    for (uint32_t i = 0; i < 60; i++) {
        uint64_t bytes = UINT64_C(8388608) << i % 9;

        seed = seed * 1664525 + 1013904223;
        wish->range.first = i % 3 == 0 ? 0 : seed % 100000;
        bytes += (uint64_t)(seed >> 8) % bytes;
        check(512u << i % 4, bytes / 4096 * 4096);
    }
}
