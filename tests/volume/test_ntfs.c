/* SPDX-License-Identifier: MIT */
/* NTFS, composed: every rule of a fresh volume by an own reading, at both sides
 * of every edge. */
#include "check.h"
#include "ntfs_check.h"
#include "turns.h"

#define MIB UINT64_C(1048576)
#define GIB (1024 * MIB)
#define TIB (1024 * GIB)

static struct ntfs_seen seen;
static union slate_volume_plan plan;
static struct slate_wish wish;

static const struct slate_format *ntfs(void)
{
    return slate_format_of(SLATE_VOLUME_NTFS);
}

static enum slate_status try_plan(uint32_t block_bytes, uint64_t bytes,
                                  uint32_t cluster_bytes)
{
    return composed_try(ntfs(), &wish, block_bytes, bytes, cluster_bytes,
                        &plan);
}

static void check_planned(uint32_t step)
{
    struct composed_volume volume = {ntfs(), &plan, wish.range,
                                     wish.block_bytes};
    struct volume_blocks from;
    struct slate_figures figures;

    composed_blocks(&volume, &from);
    ntfs_check(&from, step, &seen);
    ntfs()->figures(&plan, &figures);
    assert_int_equal(figures.cluster_bytes, seen.cluster_bytes);
    assert_int_equal(figures.clusters, seen.clusters);
    assert_int_equal(figures.bad_clusters, seen.bad);
    assert_int_equal(figures.room_bytes, seen.free * seen.cluster_bytes);
    assert_int_equal(figures.serial, (uint32_t)seen.serial);
    composed_extents(&volume);
}

static void check_volume(uint32_t block_bytes, uint64_t bytes,
                         uint32_t cluster_bytes, uint32_t step)
{
    assert_ok(try_plan(block_bytes, bytes, cluster_bytes));
    check_planned(step);
    assert_int_equal(seen.cluster_bytes,
                     cluster_bytes == 0 ? 4096 : cluster_bytes);
}

static void volumes_of_every_block_and_cluster_size(void **state)
{
    (void)state;
    composed_wish(&wish);
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        for (uint32_t cluster = block; cluster <= 2 * MIB; cluster *= 2) {
            check_volume(block, 40 * MIB, cluster, 1);
            check_volume(block, 300 * MIB + 4096, cluster, 1);
        }
        assert_status(try_plan(block, 300 * MIB, 4194304), SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 300 * MIB, block / 2), SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 300 * MIB, 12288), SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 8 * MIB - block, 0), SLATE_ERR_TOO_SMALL);
        check_volume(block, 8 * MIB, 0, 1);
    }
    assert_string_equal(seen.label, "Shore 7");
    assert_false(seen.everyone);
    wish.shared = true;
    check_volume(512, 8 * MIB, 0, 1);
    assert_true(seen.everyone);
    assert_status(try_plan(8192, 300 * MIB, 0), SLATE_ERR_BLOCK_SIZE);
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

/* Up to the largest, with clusters that grow where 32 bits do not count more of
 * them. */
static void large_volumes(void **state)
{
    static const struct {
        uint64_t bytes;
        uint32_t cluster;
    } sizes[] = {{40 * GIB, 4096},        {2 * TIB, 4096},
                 {15 * TIB, 4096},        {16 * TIB - 4096, 4096},
                 {16 * TIB + 4096, 8192}, {32 * TIB, 8192},
                 {64 * TIB, 16384},       {1024 * TIB, 262144},
                 {8191 * TIB, 2097152},   {3 * TIB + 123456 * 4096, 4096}};
    uint64_t least, most;

    (void)state;
    composed_wish(&wish);
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        uint32_t block = i % 2 == 0 ? 512 : 4096;

        assert_ok(try_plan(block, sizes[i].bytes, 0));
        check_planned(10007);
        assert_int_equal(seen.cluster_bytes, sizes[i].cluster);
        assert_int_equal(seen.clusters,
                         (sizes[i].bytes - block) / sizes[i].cluster);
    }
    ntfs()->limits(512, &least, &most);
    assert_int_equal(least, 8 * MIB);
    assert_ok(try_plan(512, most, 0));
    check_planned(100003);
    assert_status(try_plan(512, most + 2 * MIB, 0), SLATE_ERR_TOO_LARGE);
    assert_status(try_plan(512, 3 * TIB, 512), SLATE_ERR_TOO_LARGE);
}

static void logs(void **state)
{
    static const struct {
        uint64_t bytes;
        uint32_t log;
    } sizes[] = {{8 * MIB, 262144},    {64 * MIB, 262144}, {65 * MIB, 524288},
                 {512 * MIB, 2097152}, {2 * GIB, 4194304}, {2 * TIB, 4194304}};

    (void)state;
    composed_wish(&wish);
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        check_volume(512, sizes[i].bytes, 0, 1009);
        assert_int_equal(seen.log_bytes, sizes[i].log);
    }
}

static void labels_are_cut_at_a_character(void **state)
{
    static const struct {
        const char *wanted, *label;
    } rows[] = {{"", ""},
                {NULL, ""},
                {"thirty-two characters: 678901234",
                 "thirty-two characters: 678901234"},
                {"thirty-three characters: 89012345",
                 "thirty-three characters: 8901234"},
                {"a\tb", "a_b"},
                /* one of two units does not go where there is room for one */
                {"thirty-one characters: 67890123\xF0\x9F\x8C\x8A",
                 "thirty-one characters: 67890123"},
                {"thirty characters: 345678 0123\xF0\x9F\x8C\x8A",
                 "thirty characters: 345678 0123??"}};

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

/* Bad blocks: some, on the edges of all that a volume keeps, and so many that
 * their list needs further records. */
static struct slate_range bad_range[6000];
static struct slate_ranges bad = {bad_range, 0, 0};

static void check_bad(uint32_t count, uint32_t block, uint64_t bytes,
                      uint32_t cluster)
{
    uint64_t per;

    bad.room = bad.count = count;
    wish.bad = &bad;
    assert_ok(try_plan(block, bytes, cluster));
    check_planned(1);
    per = seen.cluster_bytes / block;
    for (uint32_t i = 0; i < count; i++) {
        uint64_t first = (bad_range[i].first - wish.range.first) / per;
        uint64_t last = bad_range[i].first + bad_range[i].count - 1;
        bool found = false;

        last = (last - wish.range.first) / per;
        last = last < seen.clusters ? last : seen.clusters - 1;
        for (uint32_t k = 0; k < seen.runs && !found; k++)
            found = strcmp(seen.run[k].who, "bad") == 0 &&
                    seen.run[k].first <= first &&
                    seen.run[k].first + seen.run[k].count > last;
        assert_true(found || first >= seen.clusters);
    }
}

static void bad_blocks_are_noted(void **state)
{
    (void)state;
    composed_wish(&wish);
    bad_range[0] = (struct slate_range){2048 + 16, 1};
    bad_range[1] = (struct slate_range){2048 + 700, 900};
    bad_range[2] = (struct slate_range){2048 + 40000, 1};
    bad_range[3] = (struct slate_range){2048 + 40002, 1};
    bad_range[4] = (struct slate_range){2048 + 40 * 2048 - 9, 3};
    check_bad(5, 512, 40 * MIB, 0);
    assert_int_equal(seen.bad_runs, 4); /* two are in one cluster */
    assert_int_equal(seen.parts, 0);
    check_bad(5, 512, 40 * MIB, 512);
    assert_int_equal(seen.bad_runs, 5);
    /* in the first cluster, when that is larger */
    assert_status(try_plan(512, 40 * MIB, 65536), SLATE_ERR_BAD_BLOCK);
    bad_range[0].first = 2048 + 128;
    check_bad(5, 512, 40 * MIB, 65536);
    /* neither the start nor the copy at the end can be elsewhere */
    bad_range[0].first = 2048;
    assert_status(try_plan(512, 40 * MIB, 0), SLATE_ERR_BAD_BLOCK);
    bad_range[0].first = 2048 + 15;
    assert_status(try_plan(512, 40 * MIB, 0), SLATE_ERR_BAD_BLOCK);
    bad_range[0].first = 2048 + 16;
    bad_range[4].first = 2048 + 40 * 2048 - 3;
    assert_status(try_plan(512, 40 * MIB, 0), SLATE_ERR_BAD_BLOCK);
    bad_range[4].count = 2;
    check_bad(5, 512, 40 * MIB, 0);
}

static void long_lists_of_bad_blocks(void **state)
{
    static const uint32_t counts[] = {1,  35,  36,  37,  50,   51,
                                      52, 101, 102, 103, 1000, 6000};

    (void)state;
    composed_wish(&wish);
    for (uint32_t block = 512; block <= 4096; block *= 8) {
        uint32_t apart = 8 * 4096 / block;

        for (size_t i = 0; i < sizeof counts / sizeof counts[0]; i++) {
            if (!turn_of(i + block / 4096, 4))
                continue;
            for (uint32_t k = 0; k < counts[i]; k++)
                bad_range[k] = (struct slate_range){
                    2048 + 16 + (uint64_t)k * apart + k % 7, 1 + k % 3};
            check_bad(counts[i], block, 300 * MIB, 0);
            assert_true(seen.bad_runs >= counts[i] / 2);
            assert_int_equal(seen.parts > 0,
                             seen.bad_runs > (block == 512 ? 36 : 217));
        }
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(volumes_of_every_block_and_cluster_size),
        cmocka_unit_test(volumes_of_every_size),
        cmocka_unit_test(large_volumes),
        cmocka_unit_test(logs),
        cmocka_unit_test(labels_are_cut_at_a_character),
        cmocka_unit_test(bad_blocks_are_noted),
        cmocka_unit_test(long_lists_of_bad_blocks),
    };

    return cmocka_run_group_tests_name("ntfs", tests, NULL, NULL);
}
