/* SPDX-License-Identifier: MIT */
/* Memory cards as the file system specification of SD cards lays them out: the
 * numbers of its table, found in the bytes that a draft composes. */
#include "check.h"

#define MIB UINT64_C(1048576)
#define GIB (1024 * MIB)

static struct session s;

/* Up to each capacity: bits of FAT, or 64 for exFAT; blocks of a cluster and of
 * a boundary unit. */
static const struct {
    uint64_t most;
    uint32_t bits, cluster, boundary;
    uint32_t short_of; /* blocks: FAT and MBR do not reach quite so
                          far, nor FAT32 so low */
} rows[] = {{8 * MIB, 12, 16, 16, 0},         {64 * MIB, 12, 32, 32, 4096},
            {256 * MIB, 16, 32, 64, 0},       {1024 * MIB, 16, 32, 128, 0},
            {2048 * MIB, 16, 64, 128, 4096},  {32 * GIB, 32, 64, 8192, 0},
            {128 * GIB, 64, 256, 32768, 0},   {512 * GIB, 64, 512, 65536, 0},
            {2048 * GIB, 64, 1024, 131072, 1}};

#define ROWS (sizeof rows / sizeof rows[0])

/* The first part as a card's, or as whatever a use and a device are. */
static enum slate_status plan(uint64_t blocks, enum slate_use use,
                              enum slate_device_kind device,
                              const struct slate_ask *ask)
{
    session_want(&s, &(struct wanted){.use = use});
    s.draft.part[0].ask = *ask;
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = (struct slate_geometry){blocks, 512, 512, 0};
    s.draft.basis.device = device;
    return slate_draft_make(&s.draft);
}

static const struct slate_ask nothing_asked;

/* From the entry of the table, and the boot block that it leads to. */
static void check_card(uint64_t blocks, size_t row)
{
    struct slate_walk walk = {.moment = SLATE_MOMENT_COMMIT};
    struct slate_extent extent;
    static uint8_t mbr[512], b[512];
    uint64_t first, data, cluster;

    assert_true(slate_draft_next(&s.draft, &walk, &extent));
    assert_ok(slate_draft_compose(&s.draft, &extent, 0, 1, mbr));
    first = number_at(mbr, 454, 4);
    assert_int_equal(mbr[446], 0);
    assert_int_equal(first + number_at(mbr, 458, 4), blocks);
    session_compose(&s, first, 1, b);
    if (rows[row].bits == 64) {
        assert_memory_equal(b + 3, "EXFAT   ", 8);
        cluster = UINT64_C(1) << b[109];
        data = number_at(b, 88, 4);
        assert_int_equal(number_at(b, 80, 4), rows[row].boundary / 2);
        assert_int_equal(data, rows[row].boundary);
        assert_int_equal(mbr[450], 0x07);
    } else {
        bool large = rows[row].bits == 32;

        cluster = b[13];
        data = number_at(b, 14, 2) +
               2 * number_at(b, large ? 36 : 22, large ? 4 : 2) +
               number_at(b, 17, 2) / 16;
        assert_memory_equal(b + (large ? 82 : 54),
                            large                  ? "FAT32"
                            : rows[row].bits == 16 ? "FAT16"
                                                   : "FAT12",
                            5);
    }
    assert_int_equal(cluster, rows[row].cluster);
    assert_int_equal((first + data) % rows[row].boundary, 0);
    assert_true(first >= rows[row].boundary && first < 2 * rows[row].boundary);
    if (rows[row].bits >= 32)
        assert_int_equal(first, rows[row].boundary);
    else
        assert_int_equal(number_at(b, 14, 2), 1);
}

/* The largest of each class, and cards as they are sold: a little less. */
static void each_capacity_has_its_shape(void **state)
{
    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        static const uint32_t thousandths[] = {1000, 953, 800, 610};

        for (size_t j = 0; j < 4; j++) {
            uint64_t blocks = rows[i].most / 512 / 1000 * thousandths[j];

            if (j == 0)
                blocks = rows[i].most / 512 - rows[i].short_of;
            assert_ok(plan(blocks, SLATE_USE_ANYTHING, SLATE_DEVICE_CARD,
                           &nothing_asked));
            check_card(blocks, i);
            assert_ok(plan(blocks, SLATE_USE_CAMERA, SLATE_DEVICE_STICK,
                           &nothing_asked));
            check_card(blocks, i);
        }
        if (i + 1 < ROWS) {
            uint64_t blocks = rows[i].most / 512 + 16 * rows[i].short_of + 1;

            assert_ok(plan(blocks, SLATE_USE_ANYTHING, SLATE_DEVICE_CARD,
                           &nothing_asked));
            check_card(blocks, i + 1);
        }
    }
}

/* The format that a class has, asked for by name, changes nothing; any other
 * wish is followed, on the usual grid. */
static void what_is_asked_goes_ahead(void **state)
{
    static const struct slate_ask asks[] = {
        {.volume = SLATE_VOLUME_EXFAT},
        {.cluster_bytes = 16384},
        {.size_kind = SLATE_SIZE_BYTES, .size = 2 * GIB},
        {.bare = true}};
    const uint64_t blocks = 8 * GIB / 512;

    (void)state;
    assert_ok(plan(blocks, SLATE_USE_ANYTHING, SLATE_DEVICE_CARD,
                   &(struct slate_ask){.volume = SLATE_VOLUME_FAT32}));
    check_card(blocks, 5);
    for (size_t i = 0; i < sizeof asks / sizeof asks[0]; i++) {
        assert_ok(
            plan(blocks, SLATE_USE_ANYTHING, SLATE_DEVICE_CARD, &asks[i]));
        assert_int_equal(s.draft.part[0].range.first, 2048);
    }
    assert_ok(
        plan(blocks, SLATE_USE_ANYTHING, SLATE_DEVICE_STICK, &nothing_asked));
    assert_int_equal(s.draft.part[0].range.first, 2048);
    assert_ok(
        plan(blocks, SLATE_USE_CAMERA, SLATE_DEVICE_DISK, &nothing_asked));
    assert_int_equal(s.draft.part[0].range.first, 2048);
    assert_ok(plan(5 * 1024 * GIB / 512, SLATE_USE_ANYTHING, SLATE_DEVICE_CARD,
                   &nothing_asked)); /* larger than the table goes */
    assert_int_equal(s.draft.part[0].format->kind, SLATE_VOLUME_EXFAT);
    assert_ok(
        plan(4096, SLATE_USE_ANYTHING, SLATE_DEVICE_CARD, &nothing_asked));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_capacity_has_its_shape),
        cmocka_unit_test(what_is_asked_goes_ahead),
    };

    return cmocka_run_group_tests_name("cards", tests, NULL, NULL);
}
