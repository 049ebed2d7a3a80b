/* SPDX-License-Identifier: MIT */
/* FAT32, composed and recognised, field by field against the on-disk
 * specification 1.03, at the edges of its geometry. */
#include "check.h"

static struct session s;

static void plan(uint32_t block_bytes, uint64_t blocks, uint32_t cluster_bytes,
                 enum slate_status expected)
{
    struct wanted goal = {.table_given = true,
                          .table = SLATE_TABLE_NONE,
                          .volume = SLATE_VOLUME_FAT32,
                          .cluster_bytes = cluster_bytes,
                          .label = "GAUGE 7"};
    struct slate_geometry geometry = {blocks, block_bytes, block_bytes, 0};

    assert_status(session_plan(&s, &goal, geometry), expected);
}

static struct slate_figures figures(void)
{
    struct slate_figures figures;

    s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
    return figures;
}

static void compose(uint64_t lba, uint8_t *block)
{
    session_compose(&s, lba, 1, block);
}

static void check_boot(const uint8_t *b, uint32_t block_bytes, uint32_t blocks)
{
    assert_int_equal(b[0], 0xEB);
    assert_int_equal(b[2], 0x90);
    assert_int_equal(number_at(b, 11, 2), block_bytes);
    assert_int_equal(b[16], 2);               /* tables */
    assert_int_equal(number_at(b, 17, 2), 0); /* root entries */
    assert_int_equal(number_at(b, 19, 2), 0); /* 16-bit total */
    assert_int_equal(b[21], 0xF8);            /* medium */
    assert_int_equal(number_at(b, 22, 2), 0); /* 16-bit table size */
    assert_int_equal(number_at(b, 32, 4), blocks);
    assert_int_equal(number_at(b, 40, 2), 0); /* both tables live */
    assert_int_equal(number_at(b, 42, 2), 0); /* version */
    assert_int_equal(number_at(b, 44, 4), 2); /* root cluster */
    assert_int_equal(number_at(b, 48, 2), 1); /* information block */
    assert_int_equal(number_at(b, 50, 2), 6); /* backup */
    assert_int_equal(b[64], 0x80);
    assert_int_equal(b[66], 0x29);
    assert_memory_equal(b + 71, "GAUGE 7    FAT32   ", 19);
    assert_int_equal(number_at(b, 510, 2), 0xAA55);
}

/* The rules of the specification, worked out from the boot block alone. */
static void check_geometry(const uint8_t *b, uint32_t block_bytes,
                           uint32_t blocks)
{
    uint32_t reserved = (uint32_t)number_at(b, 14, 2);
    uint32_t table = (uint32_t)number_at(b, 36, 4);
    uint32_t data = reserved + 2 * table;
    uint32_t clusters = (blocks - data) / b[13];

    assert_true(reserved >= 32);
    assert_true(clusters >= 65525 && clusters <= 268435445);
    assert_true((uint64_t)table * block_bytes / 4 >= clusters + 2);
    assert_int_equal(clusters, figures().clusters);
    assert_true(b[13] != 0 && (b[13] & (b[13] - 1)) == 0);
}

static void check_volume(uint32_t block_bytes, uint64_t blocks,
                         uint32_t cluster_bytes)
{
    static uint8_t b[4096], c[4096];
    uint64_t table;

    plan(block_bytes, blocks, cluster_bytes, SLATE_OK);
    compose(0, b);
    check_boot(b, block_bytes, (uint32_t)blocks);
    check_geometry(b, block_bytes, (uint32_t)blocks);
    compose(6, c);
    assert_memory_equal(b, c, block_bytes);
    compose(1, c);
    assert_int_equal(number_at(c, 0, 4), 0x41615252);
    assert_int_equal(number_at(c, 484, 4), 0x61417272);
    assert_int_equal(number_at(c, 488, 4), figures().clusters - 1);
    assert_int_equal(number_at(c, 492, 4), 3);
    assert_int_equal(number_at(c, 508, 4), 0xAA550000);
    table = number_at(b, 14, 2);
    compose(table, c);
    assert_int_equal(number_at(c, 0, 4), 0x0FFFFFF8);
    assert_int_equal(number_at(c, 4, 4), 0x0FFFFFFF);
    assert_true(number_at(c, 8, 4) >= 0x0FFFFFF8);
    assert_int_equal(number_at(c, 12, 8), 0);
    compose(table + number_at(b, 36, 4), b);
    assert_memory_equal(b, c, block_bytes);
    compose(figures().clusters_at, c);
    assert_memory_equal(c, "GAUGE 7    \x08", 12);
    assert_int_equal(number_at(c, 22, 2), 9 << 11 | 30 << 5 | 29);
    assert_int_equal(number_at(c, 24, 2), (2031 - 1980) << 9 | 5 << 5 | 17);
}

static void volumes_of_every_block_and_cluster_size(void **state)
{
    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        for (uint32_t cluster = block; cluster <= 65536; cluster *= 2)
            check_volume(block, 8589934592u / block, cluster);
        check_volume(block, 8589934592u / block, 0);
    }
}

/* A hundred sizes, odd ones too, from 300 MB to 16 TiB, as far as blocks go. */
static void volumes_of_every_size(void **state)
{
    uint32_t seed = 11;

    (void)state;
    for (uint32_t i = 0; i < 100; i++) {
        uint32_t block = 512u << i % 4;
        uint64_t blocks = (UINT64_C(600000) << i % 13) + (seed >> 14);

        seed = seed * 1664525 + 1013904223;
        check_volume(block, blocks > UINT32_MAX ? UINT32_MAX : blocks, 0);
    }
}

static void smallest_and_largest_volume(void **state)
{
    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        uint64_t least, most;

        slate_format_of(SLATE_VOLUME_FAT32)->limits(block, &least, &most);
        least /= block;
        assert_int_equal(most / block, UINT32_MAX);
        check_volume(block, least, 0);
        assert_int_equal(figures().clusters, 65525);
        plan(block, least - 1, 0, SLATE_ERR_TOO_SMALL);
        check_volume(block, UINT32_MAX, 0);
        plan(block, (uint64_t)UINT32_MAX + 1, 0, SLATE_ERR_TOO_LARGE);
    }
    /* 2^28 clusters and more are not FAT32 */
    plan(512, UINT32_MAX, 512, SLATE_ERR_TOO_LARGE);
    plan(512, 131072, 4096, SLATE_ERR_TOO_SMALL);
    plan(512, 0, 0, SLATE_ERR_ARGUMENT);
    plan(520, 1000000, 0, SLATE_ERR_BLOCK_SIZE);
    plan(512, 1000000, 600, SLATE_ERR_CLUSTER);
    plan(4096, 1000000, 2048, SLATE_ERR_CLUSTER);
    plan(512, 10000000, 131072, SLATE_ERR_CLUSTER);
}

static void clusters_are_chosen_by_size_and_aligned(void **state)
{
    static const struct {
        uint64_t bytes;
        uint32_t cluster;
    } rows[] = {{67108864, 512},       {536870912, 4096},
                {15640035328, 8192},   {31000000000, 16384},
                {64000000000, 32768},  {512000000000, 32768},
                {2000000000000, 65536}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        uint64_t data;

        plan(512, rows[i].bytes / 512, 0, SLATE_OK);
        assert_int_equal(figures().cluster_bytes, rows[i].cluster);
        data = figures().whole.first + figures().clusters_at;
        if (rows[i].bytes >= 536870912)
            assert_int_equal(data % 2048, 0);
    }
}

static void labels_are_adapted(void **state)
{
    static const struct {
        const char *wanted, *label;
        enum slate_status status;
    } rows[] = {{"", "", SLATE_OK},
                {"tide-7", "TIDE-7", SLATE_OK},
                {"  Buoy  ", "BUOY", SLATE_OK},
                {"north breakwater", "NORTH BREAK", SLATE_OK},
                {"a/b:c*d", "A_B_C_D", SLATE_OK},
                {"H\xC3\xA4"
                 "fen",
                 "H_FEN", SLATE_OK},
                {"bad\xFFlabel", "", SLATE_ERR_LABEL}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct wanted goal = {.volume = SLATE_VOLUME_FAT32};
        struct slate_geometry geometry = {1000000, 512, 512, 0};
        struct slate_figures figures;

        strcpy(goal.label, rows[i].wanted);
        assert_status(session_plan(&s, &goal, geometry), rows[i].status);
        if (rows[i].status != SLATE_OK)
            continue;
        s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
        assert_string_equal(figures.label, rows[i].label);
    }
}

/* A boot block of 16-bit fields, as older volumes have it. */
static void put_small_fat(struct ram *ram, uint64_t byte, uint32_t blocks,
                          uint8_t cluster, uint16_t table)
{
    uint8_t b[512] = {0xEB, 0x3C, 0x90};

    memcpy(b + 3, "GAUGELOG\0\2", 10);
    b[13] = cluster;
    b[14] = 1;
    b[16] = 2;
    b[18] = 2; /* 512 root entries */
    b[19] = (uint8_t)blocks;
    b[20] = (uint8_t)(blocks >> 8);
    b[21] = 0xF8;
    b[22] = (uint8_t)table;
    b[23] = (uint8_t)(table >> 8);
    memcpy(b + 38, "\x29\x78\x56\x34\x12OLD LABEL  FAT     ", 24);
    memcpy(b + 510, "\x55\xAA", 2);
    ram_put(ram, byte, b, sizeof b);
    ram_put(ram, byte + 512 * (1 + 2 * (uint64_t)table), "BAROMETER  \x08", 12);
}

static void small_fats_are_recognised_by_their_clusters(void **state)
{
    struct slate_range all = {0, 65536};
    struct slate_volume v;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 65536, true);
    assert_ok(slate_media_open(&s.media, &ram.port));
    /* 1 + 2 * 12 + 32 = 57 ahead; 4084 and 4085 clusters */
    put_small_fat(&ram, 0, 57 + 4084, 1, 12);
    assert_ok(slate_volume_read(&s.media, &all, SLATE_DEPTH_FULL, s.work, &v));
    assert_int_equal(v.kind, SLATE_VOLUME_FAT12);
    put_small_fat(&ram, 0, 57 + 4085, 1, 12);
    assert_ok(slate_volume_read(&s.media, &all, SLATE_DEPTH_FULL, s.work, &v));
    assert_int_equal(v.kind, SLATE_VOLUME_FAT16);
    assert_string_equal(v.label, "BAROMETER"); /* not "OLD LABEL" */
    assert_int_equal(v.serial, 0x12345678);
    assert_int_equal(v.bytes, (57 + 4085) * 512);
    put_small_fat(&ram, 0, 57, 1, 12); /* no room for a cluster */
    assert_ok(slate_volume_read(&s.media, &all, SLATE_DEPTH_FULL, s.work, &v));
    assert_int_equal(v.kind, SLATE_VOLUME_OTHER);
    ram_close(&ram);
}

static void renewed_volumes_are_recognised(void **state)
{
    struct wanted goal = {.label = "Tide 7"};
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 30546944, false);
    assert_ok(session_draft(&s, &ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.volume[0].kind, SLATE_VOLUME_FAT32);
    assert_string_equal(s.facts.volume[0].label, "TIDE 7");
    assert_int_equal(s.facts.volume[0].serial, figures().serial);
    assert_true(s.facts.volume[0].free_known);
    assert_int_equal(s.facts.volume[0].free_clusters,
                     s.facts.volume[0].clusters - 1);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(volumes_of_every_block_and_cluster_size),
        cmocka_unit_test(volumes_of_every_size),
        cmocka_unit_test(smallest_and_largest_volume),
        cmocka_unit_test(clusters_are_chosen_by_size_and_aligned),
        cmocka_unit_test(labels_are_adapted),
        cmocka_unit_test(small_fats_are_recognised_by_their_clusters),
        cmocka_unit_test(renewed_volumes_are_recognised),
    };

    return cmocka_run_group_tests_name("fat32", tests, NULL, NULL);
}
