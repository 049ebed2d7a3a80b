/* SPDX-License-Identifier: MIT */
/* FAT12 and FAT16, composed: field by field against the on-disk specification
 * 1.03, and at the cluster counts that tell the kinds apart. What is right is
 * worked out from the boot block alone. */
#include "check.h"

static struct session s;

struct worked_out {
    uint32_t reserved, table, root, data, clusters, total;
    int bits;
};

static enum slate_status plan(enum slate_volume_kind kind, uint32_t block_bytes,
                              uint64_t blocks, uint32_t cluster_bytes)
{
    struct wanted goal = {.table_given = true,
                          .table = SLATE_TABLE_NONE,
                          .volume = kind,
                          .cluster_bytes = cluster_bytes,
                          .label = "winch 3"};
    struct slate_geometry geometry = {blocks, block_bytes, block_bytes, 0};

    return session_plan(&s, &goal, geometry);
}

/* Specification 1.03, 3.5. */
static void work_out(const uint8_t *b, struct worked_out *w)
{
    uint32_t block = (uint32_t)number_at(b, 11, 2);

    w->reserved = (uint32_t)number_at(b, 14, 2);
    w->table = (uint32_t)number_at(b, 22, 2);
    w->root = ((uint32_t)number_at(b, 17, 2) * 32 + block - 1) / block;
    w->total = (uint32_t)number_at(b, 19, 2);
    if (w->total == 0)
        w->total = (uint32_t)number_at(b, 32, 4);
    w->data = w->reserved + b[16] * w->table + w->root;
    w->clusters = (w->total - w->data) / b[13];
    w->bits = w->clusters < 4085 ? 12 : w->clusters < 65525 ? 16 : 32;
}

static void check_fields(const uint8_t *b, int bits, uint32_t block,
                         uint64_t blocks)
{
    struct worked_out w;

    work_out(b, &w);
    assert_int_equal(b[0], 0xEB);
    assert_int_equal(b[1], 0x3C);
    assert_int_equal(b[2], 0x90);
    assert_int_equal(number_at(b, 11, 2), block);
    assert_true(b[13] != 0 && (b[13] & (b[13] - 1)) == 0);
    if (blocks * block < 536870912)
        assert_int_equal(w.reserved, 1); /* old firmware counts on it */
    else
        assert_int_equal(w.data * block % 1048576, 0);
    assert_int_equal(b[16], 2);
    assert_int_equal(number_at(b, 17, 2) * 32 % block, 0);
    assert_true(number_at(b, 17, 2) > 0);
    assert_int_equal(w.total, blocks);
    assert_true((number_at(b, 19, 2) != 0) == (blocks < 65536));
    assert_true((number_at(b, 32, 4) != 0) == (blocks >= 65536));
    assert_int_equal(b[21], 0xF8);
    assert_int_equal(number_at(b, 24, 2), 63);
    assert_int_equal(number_at(b, 26, 2), 255);
    assert_int_equal(number_at(b, 28, 4), 0);
    assert_int_equal(b[36], 0x80);
    assert_int_equal(b[37], 0);
    assert_int_equal(b[38], 0x29);
    assert_memory_equal(b + 43, "WINCH 3    ", 11);
    assert_memory_equal(b + 54, bits == 12 ? "FAT12   " : "FAT16   ", 8);
    assert_int_equal(number_at(b, 510, 2), 0xAA55);
    assert_int_equal(w.bits, bits);
    assert_true((uint64_t)w.table * block * 8 >=
                (uint64_t)(w.clusters + 2) * (uint64_t)bits);
}

/* Both tables begin alike, and all else in them is zero. */
static void check_tables(const uint8_t *b, int bits, uint32_t block)
{
    static const uint8_t begins[] = {0xF8, 0xFF, 0xFF, 0xFF};
    static uint8_t c[4096], d[4096];
    struct worked_out w;

    work_out(b, &w);
    session_compose(&s, w.reserved, 1, c);
    session_compose(&s, w.reserved + w.table, 1, d);
    assert_memory_equal(c, d, block);
    assert_memory_equal(c, begins, bits == 12 ? 3 : 4);
    for (uint32_t i = bits == 12 ? 3 : 4; i < block; i++)
        assert_int_equal(c[i], 0);
    for (uint32_t i = 1; i < w.table; i++) {
        session_compose(&s, w.reserved + w.table + i, 1, c);
        assert_true(c[0] == 0 && memcmp(c, c + 1, block - 1) == 0);
    }
    session_compose(&s, w.reserved + 2 * (uint64_t)w.table, 1, c);
    assert_memory_equal(c, "WINCH 3    \x08", 12);
    assert_int_equal(number_at(c, 22, 2), 9 << 11 | 30 << 5 | 29);
    assert_int_equal(number_at(c, 24, 2), (2031 - 1980) << 9 | 5 << 5 | 17);
    session_compose(&s, w.data - 1, 1, c);
    if (w.root > 1)
        assert_true(c[0] == 0 && memcmp(c, c + 1, block - 1) == 0);
}

static void check_volume(enum slate_volume_kind kind, uint32_t block,
                         uint64_t blocks, uint32_t cluster)
{
    static uint8_t b[4096];
    int bits = kind == SLATE_VOLUME_FAT12 ? 12 : 16;
    struct slate_figures figures;
    struct worked_out w;

    assert_ok(plan(kind, block, blocks, cluster));
    session_compose(&s, 0, 1, b);
    check_fields(b, bits, block, blocks);
    check_tables(b, bits, block);
    work_out(b, &w);
    s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
    assert_int_equal(figures.clusters, w.clusters);
    assert_int_equal(figures.cluster_bytes, b[13] * block);
    if (cluster != 0)
        assert_int_equal(figures.cluster_bytes, cluster);
    assert_int_equal(figures.room_bytes,
                     (uint64_t)w.clusters * figures.cluster_bytes);
}

static void every_block_and_cluster_size(void **state)
{
    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        for (uint32_t cluster = block; cluster <= 65536; cluster *= 2) {
            check_volume(SLATE_VOLUME_FAT12, block, 3000 * (cluster / block),
                         cluster);
            check_volume(SLATE_VOLUME_FAT16, block, 30000 * (cluster / block),
                         cluster);
        }
        check_volume(SLATE_VOLUME_FAT12, block, 8388608 / block, 0);
        check_volume(SLATE_VOLUME_FAT16, block, 1000000000 / block, 0);
    }
}

/* Blocks in all with so many clusters of one block, counted up from the
 * specification. */
static uint64_t blocks_for(int bits, uint32_t block, uint32_t clusters,
                           uint32_t root_entries)
{
    uint32_t table_bytes = ((clusters + 2) * (uint32_t)bits + 7) / 8;

    return 1 + 2 * (uint64_t)((table_bytes + block - 1) / block) +
           root_entries * 32 / block + clusters;
}

/* One cluster more or less is another kind, and told to be. */
static void kinds_end_where_the_specification_says(void **state)
{
    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        /* 4085 clusters of 512 bytes are not yet a device of 512 entries */
        uint32_t root = block == 512 ? 224 : 512;
        uint64_t last_12 = blocks_for(12, block, 4084, root);
        uint64_t first_16 = blocks_for(16, block, 4085, root);
        uint64_t last_16 = blocks_for(16, block, 65524, 512);

        check_volume(SLATE_VOLUME_FAT12, block, last_12, block);
        assert_status(plan(SLATE_VOLUME_FAT12, block, last_12 + 1, block),
                      SLATE_ERR_TOO_LARGE);
        check_volume(SLATE_VOLUME_FAT16, block, first_16, block);
        assert_status(plan(SLATE_VOLUME_FAT16, block, first_16 - 1, block),
                      SLATE_ERR_TOO_SMALL);
        check_volume(SLATE_VOLUME_FAT16, block, last_16, block);
        assert_status(plan(SLATE_VOLUME_FAT16, block, last_16 + 1, block),
                      SLATE_ERR_TOO_LARGE);
        assert_status(plan(SLATE_VOLUME_FAT32, block, last_16, block),
                      SLATE_ERR_TOO_SMALL);
    }
}

static void limits_are_where_plans_end(void **state)
{
    static const enum slate_volume_kind kinds[] = {SLATE_VOLUME_FAT12,
                                                   SLATE_VOLUME_FAT16};

    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        for (size_t i = 0; i < 2; i++) {
            uint64_t least, most;

            slate_format_of(kinds[i])->limits(block, &least, &most);
            check_volume(kinds[i], block, least / block, 0);
            assert_status(plan(kinds[i], block, least / block - 1, 0),
                          SLATE_ERR_TOO_SMALL);
            check_volume(kinds[i], block, most / block, 0);
            /* behind it, no more than what alignment leaves unused */
            assert_status(
                plan(kinds[i], block, (most + 1048576 + 32768) / block, 0),
                SLATE_ERR_TOO_LARGE);
        }
    }
}

/* As a technician expects them: FAT16 as in the specification's table; and of
 * a choice, FAT32 where it fits. */
static void sizes_and_kinds_are_chosen_as_expected(void **state)
{
    static const struct {
        uint64_t bytes;
        enum slate_volume_kind asked, kind;
        uint32_t cluster;
    } rows[] = {{1474560, SLATE_VOLUME_NONE, SLATE_VOLUME_FAT12, 512},
                {4000000, SLATE_VOLUME_NONE, SLATE_VOLUME_FAT16, 512},
                {16000000, SLATE_VOLUME_NONE, SLATE_VOLUME_FAT16, 1024},
                {32000000, SLATE_VOLUME_NONE, SLATE_VOLUME_FAT16, 2048},
                {64000000, SLATE_VOLUME_NONE, SLATE_VOLUME_FAT32, 512},
                {16000000, SLATE_VOLUME_FAT12, SLATE_VOLUME_FAT12, 4096},
                {128000000, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT16, 2048},
                {250000000, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT16, 4096},
                {512000000, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT16, 8192},
                {1000000000, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT16, 16384},
                {2000000000, SLATE_VOLUME_FAT16, SLATE_VOLUME_FAT16, 32768}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_figures figures;

        assert_ok(plan(rows[i].asked, 512, rows[i].bytes / 512, 0));
        assert_int_equal(s.draft.part[0].format->kind, rows[i].kind);
        s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
        assert_int_equal(figures.cluster_bytes, rows[i].cluster);
    }
    assert_status(plan(SLATE_VOLUME_FAT16, 512, 3000000000 / 512, 0),
                  SLATE_ERR_TOO_LARGE);
    assert_ok(plan(SLATE_VOLUME_FAT16, 512, 3000000000 / 512, 65536));
    assert_status(plan(SLATE_VOLUME_XFS, 512, 3000000, 0), SLATE_ERR_ARGUMENT);
    assert_status(plan(SLATE_VOLUME_NONE, 512, 5, 0), SLATE_ERR_TOO_SMALL);
}

/* In a partition, with the type that its size and place ask for; read back. */
static void in_partitions_they_are_recognised(void **state)
{
    static const struct {
        uint64_t bytes;
        enum slate_volume_kind kind;
        uint8_t type;
    } rows[] = {{4000000, SLATE_VOLUME_FAT12, 0x01},
                {20000000, SLATE_VOLUME_FAT16, 0x04},
                {200000000, SLATE_VOLUME_FAT16, 0x06},
                {2000000000, SLATE_VOLUME_FAT16, 0x06}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct wanted goal = {.volume = rows[i].kind, .label = "Winch 3"};
        uint8_t b[512];
        struct ram ram;

        ram_open(&ram, 512, rows[i].bytes / 512, true);
        assert_ok(session_draft(&s, &ram, &goal));
        assert_ok(session_enact(&s, sizeof s.work));
        assert_ok(session_prove(&s, sizeof s.work));
        ram_get(&ram, 0, b, sizeof b);
        assert_int_equal(b[450], rows[i].type);
        ram_get(&ram, 1048576, b, sizeof b);
        assert_int_equal(number_at(b, 28, 4), 2048); /* hidden blocks */
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.volume[0].kind, rows[i].kind);
        assert_string_equal(s.facts.volume[0].label, "WINCH 3");
        assert_int_equal(s.facts.volume[0].bytes,
                         s.facts.partition[0].count * 512);
        ram_close(&ram);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_block_and_cluster_size),
        cmocka_unit_test(kinds_end_where_the_specification_says),
        cmocka_unit_test(limits_are_where_plans_end),
        cmocka_unit_test(sizes_and_kinds_are_chosen_as_expected),
        cmocka_unit_test(in_partitions_they_are_recognised),
    };

    return cmocka_run_group_tests_name("fat16", tests, NULL, NULL);
}
