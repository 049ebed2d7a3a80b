/* SPDX-License-Identifier: MIT */
/* ext4, composed: every rule of a fresh volume by an own reading, at both sides
 * of every edge. */
#include "check.h"
#include "composed.h"
#include "ext_check.h"
#include "turns.h"

#define MIB UINT64_C(1048576)
#define GIB (1024 * MIB)
#define TIB (1024 * GIB)

static struct ext_seen seen;
static union slate_volume_plan plan;
static struct slate_wish wish;

static const struct slate_format *ext4(void)
{
    return slate_format_of(SLATE_VOLUME_EXT4);
}

static enum slate_status try_plan(uint32_t block_bytes, uint64_t bytes,
                                  uint32_t unit_bytes)
{
    return composed_try(ext4(), &wish, block_bytes, bytes, unit_bytes, &plan);
}

static void check_volume(uint32_t block_bytes, uint64_t bytes,
                         uint32_t unit_bytes, uint32_t step)
{
    struct composed_volume volume = {ext4(), &plan, {0}, block_bytes};
    struct volume_blocks from;
    struct slate_figures figures;

    assert_ok(try_plan(block_bytes, bytes, unit_bytes));
    volume.range = wish.range;
    composed_blocks(&volume, &from);
    ext_check(&from, step, &seen);
    ext4()->figures(&plan, &figures);
    assert_int_equal(figures.cluster_bytes, seen.unit_bytes);
    assert_int_equal(figures.clusters, seen.units);
    assert_int_equal(figures.room_bytes, seen.free * seen.unit_bytes);
    assert_true(seen.units * seen.unit_bytes <= bytes);
    if (unit_bytes != 0)
        assert_int_equal(seen.unit_bytes, unit_bytes);
    if (step == 1)
        composed_extents(&volume);
}

static void volumes_of_every_block_and_unit_size(void **state)
{
    (void)state;
    composed_wish(&wish);
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        for (uint32_t unit = block < 1024 ? 1024 : block; unit <= 4096;
             unit *= 2) {
            check_volume(block, 8 * MIB, unit, 1);
            check_volume(block, 300 * MIB, unit, 1);
        }
        assert_status(try_plan(block, 300 * MIB, 8192), SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 300 * MIB, 512), SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 300 * MIB, 3072), SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 8 * MIB - block, 0), SLATE_ERR_TOO_SMALL);
        check_volume(block, 64 * MIB - block, 0, 1);
        assert_int_equal(seen.unit_bytes, block < 1024 ? 1024 : block);
        check_volume(block, 64 * MIB, 0, 1);
        assert_int_equal(seen.unit_bytes, 4096);
    }
    assert_string_equal(seen.label, "Shore 7");
    assert_int_equal(seen.root_mode, 0x41ED);
}

static void check_size(uint32_t block_bytes, uint64_t bytes)
{
    check_volume(block_bytes, bytes, 0, 1);
}

static void volumes_of_every_size(void **state)
{
    (void)state;
    composed_wish(&wish);
    composed_sizes(&wish, check_size);
}

/* A last group that cannot hold what it has to is left out: both sides of where
 * it can, for groups with a copy and without, and for a leader. */
static void the_last_group_is_whole_or_left_out(void **state)
{
    static const uint32_t groups[] = {1, 2, 3, 4, 9, 15, 16, 17, 27, 32};

    (void)state;
    composed_wish(&wish);
    wish.no_journal = true;
    for (size_t i = 0; i < sizeof groups / sizeof groups[0]; i++) {
        uint64_t full = 1 + (uint64_t)groups[i] * 8192;

        for (uint64_t more = 0; more < 560; more += more < 20 ? 1 : 67) {
            if (!turn_of(i + more, 4))
                continue;
            check_volume(512, (full + more) * 1024, 1024, 1);
            assert_true(seen.units == full || seen.units == full + more);
        }
    }
}

/* Up to the largest: some of the groups are looked at. */
static void large_volumes(void **state)
{
    static const struct {
        uint64_t bytes;
        uint32_t step;
    } sizes[] = {{40 * GIB, 1},      {2 * TIB, 97},
                 {15 * TIB, 1009},   {16 * TIB, 1021},
                 {17 * TIB, 1031},   {64 * TIB, 10007},
                 {128 * TIB, 30011}, {3 * TIB + 123456 * 4096, 101}};
    uint64_t least, most;

    (void)state;
    composed_wish(&wish);
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        if (!turn_of(i / 2, 4))
            continue;
        check_volume(i % 2 == 0 ? 512 : 4096, sizes[i].bytes, 0, sizes[i].step);
        assert_int_equal(seen.units, sizes[i].bytes / 4096);
    }
    ext4()->limits(512, &least, &most);
    assert_int_equal(least, 8 * MIB);
    assert_true(most >= 64 * TIB);
    assert_ok(try_plan(512, most, 0));
    assert_status(try_plan(512, most + 4096, 0), SLATE_ERR_TOO_LARGE);
}

static void journals(void **state)
{
    static const struct {
        uint64_t bytes;
        uint32_t units;
    } sizes[] = {{8 * MIB, 1024},    {60 * MIB, 1024},  {512 * MIB, 2048},
                 {GIB, 4096},        {16 * GIB, 65536}, {32 * GIB, 131072},
                 {64 * GIB, 131072}, {2 * TIB, 131072}};

    (void)state;
    composed_wish(&wish);
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        if (!turn_of(i, 4))
            continue;
        check_volume(512, sizes[i].bytes, 0,
                     sizes[i].bytes > 16 * GIB ? 97 : 1);
        assert_int_equal(seen.journal_units, sizes[i].units);
    }
    wish.no_journal = wish.shared = true;
    check_volume(512, 16 * GIB, 0, 1);
    assert_int_equal(seen.journal_units, 0);
    assert_int_equal(seen.root_mode, 0x41FF);
}

static void labels_are_cut_at_a_character(void **state)
{
    static const struct {
        const char *wanted, *label;
    } rows[] = {{"", ""},
                {"sixteen bytes ok", "sixteen bytes ok"},
                {"seventeen bytes no", "seventeen bytes "},
                {"fifteen bytes \xC3\xB8", "fifteen bytes \xC3\xB8"},
                {"fifteen bytes +\xC3\xB8", "fifteen bytes +"}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        composed_wish(&wish);
        wish.label = rows[i].wanted;
        check_volume(512, 20 * MIB, 0, 1);
        assert_string_equal(seen.label, rows[i].label);
    }
    wish.label = "\xFF";
    assert_status(try_plan(512, 20 * MIB, 0), SLATE_ERR_LABEL);
}

/* Bad blocks are units of their own file, and all that a volume keeps goes
 * around them, but for what has to be where it is. */
static struct slate_range bad_range[1400];
static struct slate_ranges bad = {bad_range, 0, 0};

static void check_bad_volume(uint32_t count, uint32_t block, uint64_t bytes,
                             uint32_t unit)
{
    bad.room = bad.count = count;
    wish.bad = &bad;
    check_volume(block, bytes, unit, 1);
    for (uint32_t i = 0; i < count; i++) {
        uint64_t per = seen.unit_bytes / block;
        uint64_t first = (bad_range[i].first - wish.range.first) / per;
        uint64_t last =
            (bad_range[i].first + bad_range[i].count - 1 - wish.range.first) /
            per;

        for (uint64_t at = first; at <= last && at < seen.units; at++) {
            uint32_t k = 0;

            while (k < seen.bad_runs &&
                   at - seen.bad_first[k] >= seen.bad_count[k])
                k++;
            assert_true(k < seen.bad_runs);
        }
    }
}

/* One bad block, at every place of the first groups in turn: the volume goes
 * around it, or says that it cannot. */
static void one_bad_block_anywhere(void **state)
{
    uint32_t refused = 0;

    (void)state;
    composed_wish(&wish);
    for (uint64_t unit = 0; unit < 45 * 1024; unit += unit < 40     ? 1
                                                      : unit < 2100 ? 7
                                                                    : 211) {
        bool fixed = unit < 3 || unit == 8193 || unit == 8194 ||
                     unit == 24577 || unit == 24578 || unit == 40961 ||
                     unit == 40962;

        bad_range[0] = (struct slate_range){2048 + 2 * unit + unit % 2, 1};
        bad.room = bad.count = 1;
        wish.bad = &bad;
        if (fixed) {
            assert_status(try_plan(512, 45 * MIB, 1024), SLATE_ERR_BAD_BLOCK);
            refused++;
            continue;
        }
        if (!turn_of(unit / 7, 4))
            continue;
        check_bad_volume(1, 512, 45 * MIB, 1024);
        assert_int_equal(seen.bad, 1);
    }
    assert_true(refused > 2);
}

/* Many, near one another and apart, until their list is too long. */
static void many_bad_blocks(void **state)
{
    static const uint32_t counts[] = {4, 5, 83, 84, 85, 168, 169, 336, 337};

    (void)state;
    for (size_t i = 0; i < sizeof counts / sizeof counts[0]; i++) {
        composed_wish(&wish);
        for (uint32_t k = 0; k < counts[i]; k++)
            bad_range[k] =
                (struct slate_range){2048 + 8 + (uint64_t)k * 40, 1 + k % 4};
        bad.room = bad.count = counts[i];
        wish.bad = &bad;
        if (counts[i] == 337) {
            assert_status(try_plan(512, 60 * MIB, 1024), SLATE_ERR_BAD_LIST);
            continue;
        }
        check_bad_volume(counts[i], 512, 60 * MIB, 1024);
        assert_int_equal(seen.map_units,
                         counts[i] <= 4 ? 0 : (counts[i] + 83) / 84);
    }
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        composed_wish(&wish);
        for (uint32_t k = 0; k < 1360; k++)
            bad_range[k] = (struct slate_range){
                2048 + (65536 + (uint64_t)k * 12288) / block, 1 + k % 2};
        check_bad_volume(1360, block, 300 * MIB, 4096);
        assert_int_equal(seen.map_units, 4);
        bad_range[1] =
            (struct slate_range){2048 + 77824 / block, 20480000 / block};
        for (uint32_t k = 2; k < 20; k++)
            bad_range[k] = (struct slate_range){
                2048 + 60000 + (uint64_t)k * 12288 / 512 * 8, 1};
        check_bad_volume(20, block, 300 * MIB, 2048 < block ? 4096 : 2048);
    }
}

/* Nothing but bad blocks where the bitmaps and inodes of a group of groups have
 * to be, or where the journal would be. */
static void bad_regions(void **state)
{
    (void)state;
    composed_wish(&wish);
    bad_range[0] = (struct slate_range){2048 + 2 * 9000, 2 * 15000};
    check_bad_volume(1, 512, 300 * MIB, 1024);
    bad_range[0] = (struct slate_range){2048 + 2 * 5000, 4 * 1024};
    check_bad_volume(1, 512, 45 * MIB, 1024);
    assert_int_equal(seen.journal_units, 1024);
    bad_range[0] = (struct slate_range){2048 + 16, 16000};
    check_bad_volume(1, 512, 45 * MIB, 1024); /* in the next group */
    bad_range[0] = (struct slate_range){2048 + 16, 2 * 8000};
    assert_status(try_plan(512, 8 * MIB, 1024), SLATE_ERR_BAD_BLOCK);
    bad_range[0] = (struct slate_range){0, 2048}; /* ahead of the volume */
    check_bad_volume(0, 512, 45 * MIB, 1024);
    assert_int_equal(seen.bad, 0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(volumes_of_every_block_and_unit_size),
        cmocka_unit_test(volumes_of_every_size),
        cmocka_unit_test(the_last_group_is_whole_or_left_out),
        cmocka_unit_test(large_volumes),
        cmocka_unit_test(journals),
        cmocka_unit_test(labels_are_cut_at_a_character),
        cmocka_unit_test(one_bad_block_anywhere),
        cmocka_unit_test(many_bad_blocks),
        cmocka_unit_test(bad_regions),
    };

    return cmocka_run_group_tests_name("ext4", tests, NULL, NULL);
}
