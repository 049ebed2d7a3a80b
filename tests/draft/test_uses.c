/* SPDX-License-Identifier: MIT */
/* Who will read it? What each use is set up with on each kind of device and at
 * each size, and partitions that stand on cylinders. */
#include "check.h"

static struct session s;

#define GB 1000000000u
#define TB (UINT64_C(1000) * GB)

static enum slate_status plan(enum slate_use use, enum slate_device_kind kind,
                              uint64_t bytes)
{
    const struct slate_geometry geometry = {bytes / 512, 512, 512, 0};

    session_want(&s, &(struct wanted){.use = use});
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = geometry;
    s.draft.basis.device = kind;
    return slate_draft_make(&s.draft);
}

static bool is_remarked(const char *words)
{
    char said[400];
    struct slate_text text;

    slate_text_start(&text, said, sizeof said);
    for (uint32_t i = 0; slate_draft_remark(&s.draft, i, &text); i++) {
        if (strstr(said, words) != NULL)
            return true;
        slate_text_start(&text, said, sizeof said);
    }
    return false;
}

/* As technicians would have it, with the volumes that there are. */
static const struct {
    enum slate_use use;
    enum slate_device_kind kind;
    uint64_t bytes;
    enum slate_table_kind table;
    enum slate_volume_kind volume;
    bool active;
    const char *said;
} cases[] = {
    {SLATE_USE_ANYTHING, SLATE_DEVICE_STICK, 16ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "every computer, camera and player"},
    {SLATE_USE_ANYTHING, SLATE_DEVICE_STICK, 16 * 1048576, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT16, false, "too small for FAT32"},
    {SLATE_USE_ANYTHING, SLATE_DEVICE_DISK, 2 * TB, SLATE_TABLE_MBR,
     SLATE_VOLUME_EXFAT, false, "every computer of today"},
    {SLATE_USE_ANYTHING, SLATE_DEVICE_STICK, 32ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "every computer, camera and player"},
    {SLATE_USE_ANYTHING, SLATE_DEVICE_STICK, 64ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_EXFAT, false, "may not read exFAT"},
    {SLATE_USE_ANYTHING, SLATE_DEVICE_DISK, 8 * TB, SLATE_TABLE_GPT,
     SLATE_VOLUME_EXFAT, false, "every computer of today"},
    {SLATE_USE_CAMERA, SLATE_DEVICE_CARD, 2ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT16, false, "up to 2 GB"},
    {SLATE_USE_CAMERA, SLATE_DEVICE_CARD, 4ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "from 4 to 32 GB"},
    {SLATE_USE_CAMERA, SLATE_DEVICE_CARD, 32ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "from 4 to 32 GB"},
    {SLATE_USE_CAMERA, SLATE_DEVICE_CARD, 64ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_EXFAT, false, "up to 32 GB do not read exFAT"},
    {SLATE_USE_PLAYER, SLATE_DEVICE_STICK, 256ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "car radios"},
    {SLATE_USE_CONSOLE, SLATE_DEVICE_STICK, 128ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_EXFAT, false, "longer than 4 GiB"},
    {SLATE_USE_LOGGER, SLATE_DEVICE_CARD, 1ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT16, false, "loggers"},
    {SLATE_USE_LOGGER, SLATE_DEVICE_STICK, 16ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "loggers"},
    {SLATE_USE_DESKTOP, SLATE_DEVICE_DISK, 500ull * GB, SLATE_TABLE_GPT,
     SLATE_VOLUME_NTFS, false, "do not write to NTFS"},
    {SLATE_USE_DESKTOP, SLATE_DEVICE_STICK, 500ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_EXFAT, false, "eject it before unplugging"},
    {SLATE_USE_DESKTOP, SLATE_DEVICE_STICK, 16ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, false, "FAT32"},
    {SLATE_USE_LINUX, SLATE_DEVICE_STICK, 16ull * GB, SLATE_TABLE_GPT,
     SLATE_VOLUME_EXT4, false, "owners, rights and links"},
    {SLATE_USE_LINUX, SLATE_DEVICE_STICK, 36 * 1048576, SLATE_TABLE_GPT,
     SLATE_VOLUME_EXT4, false, "owners, rights and links"},
    {SLATE_USE_LINUX, SLATE_DEVICE_STICK, 9 * 1048576, SLATE_TABLE_GPT,
     SLATE_VOLUME_FAT16, false, "too small for FAT32"},
    {SLATE_USE_MAC, SLATE_DEVICE_DISK, 500ull * GB, SLATE_TABLE_GPT,
     SLATE_VOLUME_EXFAT, false, "as others do"},
    {SLATE_USE_OLD_PC, SLATE_DEVICE_DISK, 1ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT16, true, "first partition is active"},
    {SLATE_USE_OLD_PC, SLATE_DEVICE_DISK, 40ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, true, "8.4 GB"},
    {SLATE_USE_STARTUP, SLATE_DEVICE_STICK, 16ull * GB, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT32, true, "what firmware reads"},
    {SLATE_USE_STARTUP, SLATE_DEVICE_DISK, 120ull * GB, SLATE_TABLE_GPT,
     SLATE_VOLUME_FAT32, false, "what firmware reads"},
    {SLATE_USE_VINTAGE, SLATE_DEVICE_DISK, 20 * 1048576, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT16, true, "before 1988"},
    {SLATE_USE_VINTAGE, SLATE_DEVICE_DISK, 3 * 1048576, SLATE_TABLE_MBR,
     SLATE_VOLUME_FAT12, true, "only table of its time"},
};

#define CASES (sizeof cases / sizeof cases[0])

static void uses_decide(void **state)
{
    bool seen[SLATE_USE_COUNT] = {false};

    (void)state;
    for (size_t i = 0; i < CASES; i++) {
        assert_ok(plan(cases[i].use, cases[i].kind, cases[i].bytes));
        seen[cases[i].use] = true;
        if (!is_remarked(cases[i].said) ||
            s.draft.part[0].format->kind != cases[i].volume)
            print_message("  case %zu: %s\n", i, cases[i].said);
        assert_int_equal(s.draft.table.kind, cases[i].table);
        assert_int_equal(s.draft.part[0].format->kind, cases[i].volume);
        assert_int_equal(slate_draft_entry(&s.draft, 0)->active,
                         cases[i].active);
        assert_true(is_remarked(cases[i].said));
    }
    for (int use = 0; use < SLATE_USE_COUNT; use++)
        assert_true(seen[use]);
}

static void a_volume_without_a_journal_is_told(void **state)
{
    (void)state;
    for (int without = 0; without < 2; without++) {
        assert_ok(plan(SLATE_USE_LINUX, SLATE_DEVICE_DISK, 64ull * GB));
        s.draft.part[0].ask.no_journal = without != 0;
        assert_ok(slate_draft_make(&s.draft));
        assert_int_equal(is_remarked("Without a journal"), without != 0);
    }
}

/* Beyond 2 TiB every use gets a GPT; who asks for an MBR is told what that
 * does not reach. */
static void no_advice_leaves_room_out_of_reach(void **state)
{
    const struct slate_geometry geometry = {8 * TB / 4096, 4096, 4096, 0};

    (void)state;
    for (int use = 0; use < SLATE_USE_COUNT; use++) {
        enum slate_status status =
            plan((enum slate_use)use, SLATE_DEVICE_DISK, 3 * TB);

        assert_int_equal(s.draft.table.kind, SLATE_TABLE_GPT);
        assert_true(status == SLATE_OK || status == SLATE_ERR_TOO_LARGE);
    }
    session_want(
        &s, &(struct wanted){.table_given = true, .table = SLATE_TABLE_MBR});
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = (struct slate_geometry){3 * TB / 512, 512, 512, 0};
    assert_ok(slate_draft_make(&s.draft));
    assert_true(is_remarked("reaches the first 2.2 TB: the other 801 GB"));
    /* larger blocks take it further */
    s.draft.basis.geometry = geometry;
    assert_ok(slate_draft_make(&s.draft));
    assert_false(is_remarked("reaches the first"));
}

/* What is said beats what is advised. */
static void what_is_asked_for_is_done(void **state)
{
    (void)state;
    session_want(&s, &(struct wanted){.use = SLATE_USE_LINUX,
                                      .table_given = true,
                                      .table = SLATE_TABLE_MBR,
                                      .volume = SLATE_VOLUME_FAT16});
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = (struct slate_geometry){2000000, 512, 512, 0};
    assert_ok(slate_draft_make(&s.draft));
    assert_int_equal(s.draft.table.kind, SLATE_TABLE_MBR);
    assert_int_equal(s.draft.part[0].format->kind, SLATE_VOLUME_FAT16);
    assert_false(is_remarked("neither owners"));
    assert_false(is_remarked("Linux"));
}

/* Geometries of old disks, and what firmware makes of larger ones. */
static const struct {
    uint32_t blocks;
    uint16_t heads, sectors, found_heads, found_sectors;
    uint8_t type;
} shapes[] = {{41820, 4, 17, 4, 17, 0x04},    /* 615 cylinders, 20 MB */
              {83640, 8, 17, 8, 17, 0x06},    /* 40 MB */
              {1000944, 0, 0, 16, 63, 0x06},  /* 993 cylinders */
              {8000000, 0, 0, 255, 63, 0x06}, /* 4 GB: two of them */
              {30000000, 255, 63, 255, 63, 0x0B}};

static uint32_t chs(const uint8_t *field, uint32_t heads, uint32_t sectors)
{
    uint32_t cylinder = field[2] | (field[1] & 0xC0u) << 2;

    return (cylinder * heads + field[0]) * sectors + (field[1] & 0x3Fu) - 1;
}

/* From a track to the end of a cylinder, and the same in every field. */
static void check_shape(size_t i, uint8_t *boot)
{
    uint32_t heads = shapes[i].found_heads, sectors = shapes[i].found_sectors;
    uint8_t block[512];
    struct slate_walk walk = {.moment = SLATE_MOMENT_COMMIT};
    struct slate_extent extent;
    uint32_t first, end;
    bool reached;

    assert_true(slate_draft_next(&s.draft, &walk, &extent));
    assert_ok(slate_draft_compose(&s.draft, &extent, 0, 1, block));
    first = (uint32_t)number_at(block, 454, 4);
    end = first + (uint32_t)number_at(block, 458, 4);
    assert_int_equal(block[446], 0x80);
    assert_int_equal(first, sectors);
    assert_int_equal(end % (heads * sectors), 0);
    assert_int_equal(chs(block + 447, heads, sectors), first);
    reached = end <= 1024 * heads * sectors;
    if (reached)
        assert_int_equal(chs(block + 451, heads, sectors), end - 1);
    else
        assert_int_equal(chs(block + 451, heads, sectors),
                         1024 * heads * sectors - 1);
    session_compose(&s, first, 1, boot);
    assert_int_equal(number_at(boot, 24, 2), sectors);
    assert_int_equal(number_at(boot, 26, 2), heads);
    assert_int_equal(number_at(boot, 28, 4), first);
    assert_int_equal(block[450], reached ? shapes[i].type : 0x0C);
}

static void old_disks_are_laid_out_by_cylinders(void **state)
{
    uint8_t boot[512];

    (void)state;
    for (size_t i = 0; i < sizeof shapes / sizeof shapes[0]; i++) {
        session_want(&s, &(struct wanted){.use = SLATE_USE_VINTAGE});
        strcpy(s.draft.basis.tag, "TARUK-47");
        s.draft.basis.geometry =
            (struct slate_geometry){shapes[i].blocks, 512, 512, 0};
        s.draft.goal.heads = shapes[i].heads;
        s.draft.goal.track_sectors = shapes[i].sectors;
        if (i == 3) {
            s.draft.part[0].ask.size_kind = SLATE_SIZE_SHARE;
            s.draft.part[0].ask.size = 500;
            assert_ok(slate_draft_ask(&s.draft, &(struct slate_ask){0}));
        }
        assert_ok(slate_draft_make(&s.draft));
        check_shape(i, boot);
    }
    s.draft.goal.heads = 0;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_USE);
    s.draft.goal.heads = 256;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_USE);
}

/* Each logical partition begins a track behind its link, and all slots fill
 * whole cylinders. */
static void logical_partitions_stand_on_cylinders(void **state)
{
    const uint64_t cylinder = 16 * 63;

    (void)state;
    session_want(&s, &(struct wanted){.use = SLATE_USE_VINTAGE});
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = (struct slate_geometry){1000944, 512, 512, 0};
    s.draft.parts = 0;
    for (int i = 0; i < 6; i++) {
        const struct slate_ask ask = {.size_kind = i == 2 ? SLATE_SIZE_REST
                                                          : SLATE_SIZE_BYTES,
                                      .size = i == 2 ? 0 : 30000000};

        assert_ok(slate_draft_ask(&s.draft, &ask));
    }
    assert_ok(slate_draft_make(&s.draft));
    assert_int_equal(s.draft.table.count, 7);
    for (uint32_t i = 0; i < 7; i++) {
        const struct slate_partition *one = &s.draft.table.partition[i];
        uint64_t lead = i == 0 || one->role == SLATE_ROLE_LOGICAL ? 63 : 0;

        assert_int_equal(one->first % cylinder, lead);
        assert_int_equal((one->first + one->count) % cylinder, 0);
        if (one->role == SLATE_ROLE_LOGICAL)
            assert_int_equal(one->link, one->first - 63);
        if (one->role == SLATE_ROLE_EXTENDED)
            assert_int_equal(one->mbr_type, 0x05);
        assert_true(i == 3 || one->count * 512 >= 30000000);
    }
    assert_int_equal(s.draft.table.partition[6].first +
                         s.draft.table.partition[6].count,
                     993 * cylinder);
}

/* The type in the table is the one that the volume has: no host takes it for
 * another one, whatever stands in it, under either table. */
static void types_agree_with_volumes(void **state)
{
    static const enum slate_table_kind tables[] = {SLATE_TABLE_MBR,
                                                   SLATE_TABLE_GPT};
    const struct slate_format *format;

    (void)state;
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        for (size_t k = 0; k < 2; k++) {
            struct slate_finding findings[SLATE_FINDINGS_MAX];
            struct wanted goal = {.table_given = true,
                                  .table = tables[k],
                                  .volume = format->kind};
            uint32_t count;
            struct ram ram;

            ram_open(&ram, 512,
                     format->kind == SLATE_VOLUME_FAT12 ? 32768 : 204800, true);
            assert_ok(session_draft(&s, &ram, &goal));
            assert_ok(session_enact(&s, sizeof s.work));
            assert_ok(session_look(&s, &ram));
            assert_int_equal(s.facts.layout.kind, tables[k]);
            assert_int_equal(s.facts.volume[0].kind, format->kind);
            count = slate_assess_judge(&s.facts, findings);
            for (uint32_t j = 0; j < count; j++)
                assert_int_not_equal(findings[j].id,
                                     SLATE_FINDING_TYPE_DISAGREES);
            if (tables[k] == SLATE_TABLE_MBR)
                assert_int_equal(s.facts.partition[0].mbr_type == 0x83,
                                 format->kind == SLATE_VOLUME_EXT4);
            ram_close(&ram);
        }
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(uses_decide),
        cmocka_unit_test(a_volume_without_a_journal_is_told),
        cmocka_unit_test(no_advice_leaves_room_out_of_reach),
        cmocka_unit_test(what_is_asked_for_is_done),
        cmocka_unit_test(old_disks_are_laid_out_by_cylinders),
        cmocka_unit_test(logical_partitions_stand_on_cylinders),
        cmocka_unit_test(types_agree_with_volumes),
    };

    return cmocka_run_group_tests_name("uses", tests, NULL, NULL);
}
