/* SPDX-License-Identifier: MIT */
/* exFAT, composed: every rule of its specification 1.00 by an own reading, at
 * both sides of every edge. */
#include "check.h"
#include "exfat_check.h"

#define MIB UINT64_C(1048576)
#define GIB (1024 * MIB)

static struct session s;
static struct exfat_seen seen;
static union slate_volume_plan made; /* the volume planned last */
static struct slate_figures plan;
static struct slate_wish wish;

/* What no extent covers is noise: a volume must not depend on it. */
static void read_composed(void *context, uint64_t block, uint8_t *data)
{
    const struct slate_composer *composer =
        &slate_format_of(SLATE_VOLUME_EXFAT)->composer;
    const union slate_volume_plan *of = context;
    uint64_t until;

    if (composer->covers(of, plan.whole.first + block, &until))
        assert_ok(composer->fill(of, plan.whole.first + block, 1, data));
    else
        memset(data, 0xE7, wish.block_bytes);
}

static enum slate_status try_plan(uint32_t block_bytes, uint64_t blocks,
                                  uint32_t cluster_bytes)
{
    enum slate_status status;

    wish.range.count = blocks;
    wish.block_bytes = block_bytes;
    wish.cluster_bytes = cluster_bytes;
    status = slate_format_of(SLATE_VOLUME_EXFAT)->plan(&wish, &made);
    if (status == SLATE_OK)
        slate_format_of(SLATE_VOLUME_EXFAT)->figures(&made, &plan);
    return status;
}

static void check_volume(uint32_t block_bytes, uint64_t blocks,
                         uint32_t cluster_bytes)
{
    struct exfat_blocks from = {
        &made, read_composed, block_bytes, blocks, wish.range.first, NULL,
        0,     NULL};

    assert_ok(try_plan(block_bytes, blocks, cluster_bytes));
    exfat_check(&from, &seen);
    assert_int_equal(plan.cluster_bytes, seen.cluster_bytes);
    assert_int_equal(plan.clusters, seen.clusters);
    assert_int_equal(plan.room_bytes, (uint64_t)(seen.clusters - seen.used) *
                                          seen.cluster_bytes);
    if (cluster_bytes != 0)
        assert_int_equal(seen.cluster_bytes, cluster_bytes);
}

static void wish_anew(void)
{
    wish = (struct slate_wish){.range = {2048, 0},
                               .align_bytes = 1048576,
                               .id = {0x78, 0x56, 0x34, 0x12, 9, 9},
                               .label = "Tide 7"};
}

static void volumes_of_every_block_and_cluster_size(void **state)
{
    (void)state;
    wish_anew();
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        for (uint32_t cluster = block; cluster <= 32 * MIB; cluster *= 2)
            check_volume(block, 300 * MIB / block, cluster);
        assert_status(try_plan(block, 300 * MIB / block, 64 * MIB),
                      SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 300 * MIB / block, block / 2),
                      SLATE_ERR_CLUSTER);
        assert_status(try_plan(block, 300 * MIB / block, 3 * block),
                      SLATE_ERR_CLUSTER);
    }
    assert_int_equal(seen.serial, 0x12345678);
    assert_int_equal(seen.label[0], 'T');
    assert_int_equal(seen.label[5], '7');
    assert_int_equal(seen.label[6], 0);
}

/* A hundred sizes, odd ones too, from the smallest to petabytes. */
static void volumes_of_every_size(void **state)
{
    uint32_t seed = 7;

    (void)state;
    wish_anew();
    for (uint32_t i = 0; i < 100; i++) {
        uint64_t bytes = MIB << i % 24;

        seed = seed * 1664525 + 1013904223;
        wish.range.first = i % 3 == 0 ? 0 : seed % 100000;
        check_volume(512u << i % 4, bytes / (512u << i % 4) + (seed >> 12), 0);
    }
}

static void smallest_and_largest_volume(void **state)
{
    (void)state;
    wish_anew();
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        uint64_t least, most;

        slate_format_of(SLATE_VOLUME_EXFAT)->limits(block, &least, &most);
        assert_int_equal(least, MIB); /* 3.1.5 */
        check_volume(block, least / block, 0);
        assert_status(try_plan(block, least / block - 1, 0),
                      SLATE_ERR_TOO_SMALL);
        /* 2^32 - 11 clusters of 32 MiB, and what stands ahead of them */
        assert_true(most >= UINT64_C(0xFFFFFFF5) * 32 * MIB);
        assert_true(most < UINT64_C(0xFFFFFFF6) * 32 * MIB + 32 * GIB);
        wish.align_bytes = 0;
        assert_ok(try_plan(block, most / block, 0));
        assert_true(plan.clusters >= 0xFFFFFFF4); /* one goes to align */
        assert_status(try_plan(block, most / block + 131072, 0),
                      SLATE_ERR_TOO_LARGE);
        wish.align_bytes = 1048576;
    }
    assert_status(try_plan(512, UINT64_MAX / 512, 0), SLATE_ERR_TOO_LARGE);
    assert_status(try_plan(512, UINT64_C(1) << 42, 512), SLATE_ERR_TOO_LARGE);
    assert_status(try_plan(520, 1000000, 0), SLATE_ERR_BLOCK_SIZE);
    assert_status(try_plan(8192, 1000000, 0), SLATE_ERR_BLOCK_SIZE);
    assert_status(try_plan(512, 0, 0), SLATE_ERR_TOO_SMALL);
    assert_status(try_plan(512, 2 * 2048, 2 * MIB), SLATE_ERR_TOO_SMALL);
}

static void clusters_are_chosen_by_size_and_aligned(void **state)
{
    static const struct {
        uint64_t bytes;
        uint32_t cluster;
    } rows[] = {{8000000, 4096},           {256 * MIB, 4096},
                {256 * MIB + 1024, 32768}, {32 * GIB, 32768},
                {32 * GIB + 1024, 131072}, {64000000000, 131072},
                {2000000000000, 131072},   {16 * 1024 * GIB, 1048576}};

    (void)state;
    wish_anew();
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        uint64_t align = rows[i].bytes >= 64 * MIB ? MIB : 4096;
        uint8_t boot[512];

        assert_ok(try_plan(512, rows[i].bytes / 512, 0));
        assert_int_equal(plan.cluster_bytes, rows[i].cluster);
        assert_int_equal((plan.whole.first + plan.clusters_at) * 512 % align,
                         0);
        read_composed(&made, 0, boot);
        assert_int_equal(
            (plan.whole.first + number_at(boot, 80, 4)) * 512 % 4096, 0);
    }
    wish.align_bytes = 4 * 1048576; /* an erase unit of the device */
    assert_ok(try_plan(512, GIB / 512, 0));
    assert_int_equal((plan.whole.first + plan.clusters_at) * 512 % (4 * MIB),
                     0);
}

static void names_are_compared_in_upper_case(void **state)
{
    static const uint16_t pairs[][2] = {
        {'a', 'A'},       {'z', 'Z'},       {'A', 'A'},       {'0', '0'},
        {0xE4, 0xC4},     {0xFF, 0x178},    {0xDF, 0xDF},     {0x131, 0x131},
        {0x17F, 0x17F},   {0x101, 0x100},   {0x3C9, 0x3A9},   {0x44F, 0x42F},
        {0x561, 0x531},   {0x1E01, 0x1E00}, {0x24D0, 0x24B6}, {0xFF41, 0xFF21},
        {0xFFFF, 0xFFFF}, {0xD800, 0xD800}, {0x250, 0x2C6F},  {0x4E2D, 0x4E2D}};

    (void)state;
    wish_anew();
    check_volume(512, 100 * MIB / 512, 0);
    for (size_t i = 0; i < sizeof pairs / sizeof pairs[0]; i++)
        assert_int_equal(seen.upper[pairs[i][0]], pairs[i][1]);
    for (uint32_t i = 0; i < 65536; i++) /* once is enough */
        assert_int_equal(seen.upper[seen.upper[i]], seen.upper[i]);
}

static void labels_are_adapted(void **state)
{
    static const struct {
        const char *wanted, *label;
        enum slate_status status;
    } rows[] = {{"", "", SLATE_OK},
                {"Tide 7", "Tide 7", SLATE_OK},
                {"  Buoy  ", "Buoy", SLATE_OK},
                {"north breakwater", "north break", SLATE_OK},
                {"a/b:c*d", "a_b_c_d", SLATE_OK},
                {"H\xC3\xA4"
                 "fen Nord",
                 "H\xC3\xA4"
                 "fen Nord",
                 SLATE_OK},
                {"\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A"
                 "\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A",
                 "\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A"
                 "\xF0\x9F\x8C\x8A\xF0\x9F\x8C\x8A",
                 SLATE_OK},
                {"bad\xFFlabel", "", SLATE_ERR_LABEL}};

    (void)state;
    wish_anew();
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        wish.label = rows[i].wanted;
        assert_status(try_plan(512, 100000, 0), rows[i].status);
        if (rows[i].status == SLATE_OK)
            assert_string_equal(plan.label, rows[i].label);
    }
    wish.label = NULL;
    check_volume(512, 100000, 0);
    assert_int_equal(seen.label[0], 0);
    wish.label = "H\xC3\xA4"
                 "fen";
    check_volume(512, 100000, 0);
    assert_int_equal(seen.label[1], 0xE4);
}

static void renewed_volumes_are_recognised(void **state)
{
    struct wanted goal = {.volume = SLATE_VOLUME_EXFAT, .label = "Tide 7"};
    struct ram ram;
    const struct slate_volume *found;

    (void)state;
    ram_open(&ram, 512, 30546944, false);
    assert_ok(session_draft(&s, &ram, &goal));
    s.draft.part[0].format->figures(&s.draft.part[0].volume, &plan);
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
    assert_ok(session_look(&s, &ram));
    found = &s.facts.volume[0];
    assert_int_equal(s.facts.partition[0].mbr_type, 0x07);
    assert_int_equal(found->kind, SLATE_VOLUME_EXFAT);
    assert_string_equal(found->label, "Tide 7");
    assert_int_equal(found->serial, plan.serial);
    assert_int_equal(found->copy, SLATE_COPY_EQUAL);
    assert_false(found->dirty);
    assert_true(found->free_known);
    assert_int_equal(found->free_clusters,
                     plan.room_bytes / plan.cluster_bytes);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(volumes_of_every_block_and_cluster_size),
        cmocka_unit_test(volumes_of_every_size),
        cmocka_unit_test(smallest_and_largest_volume),
        cmocka_unit_test(clusters_are_chosen_by_size_and_aligned),
        cmocka_unit_test(names_are_compared_in_upper_case),
        cmocka_unit_test(labels_are_adapted),
        cmocka_unit_test(renewed_volumes_are_recognised),
    };

    return cmocka_run_group_tests_name("exfat", tests, NULL, NULL);
}
