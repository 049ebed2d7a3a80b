/* SPDX-License-Identifier: MIT */
/* Looking at devices: the findings of the whole bench, devices that cannot be
 * opened or read, what a look may cost, what an image tells of its blocks. What
 * tables and volumes get wrong is in the corpus. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "corpus.h"
#include "program.h"
#include "tool_case.h"
#include <trueslate/port_sim.h>

static struct session s;
static bool seen[SLATE_FINDING_HEALTHY + 1]; /* by id */

static void expect_findings(const char *name, const char *expected)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    uint32_t count = slate_assess_judge(&s.facts, findings);
    char found[512] = "";

    for (uint32_t i = 0; i < count; i++) {
        strcat(found, i == 0 ? "" : " ");
        strcat(found, findings[i].consequence ? "+" : "");
        strcat(found, slate_finding_name(findings[i].id));
        seen[findings[i].id] = true;
    }
    if (strcmp(found, expected) != 0)
        print_message("%s\n", name);
    assert_string_equal(found, expected);
}

struct bench_row {
    const char *name, *findings;
};

static const struct bench_row bench_rows[] = {
    {"archive-volume", "blank odd-size"},
    {"archive-zoned", "zoned blank"},
    {"array-disk-520", "array-blocks"},
    {"array-disk-pi", "blank protection-information"},
    {"bargain-64", "healthy"},
    {"buoy-stick-12", "healthy"},
    {"disk-sleepy", "healthy"},
    {"dock-eight-large", "block-size-mismatch +copy-differs +dirty"},
    {"dock-eight-small", "block-size-mismatch +copy-differs +dirty"},
    {"logger-card-3", "healthy"},
    {"logger-card-4", "healthy"},
    {"logger-card-5", "write-protected"},
    {"logger-card-6", "blank"},
    {"logger-card-7", "write-protected"},
    {"logger-card-8", "locked"},
    {"logger-card-9", "write-protected"},
    {"logger-card-10", "write-protected"},
    {"logger-card-11", "write-protected"},
    {"shore-disk-5", "locked"},
    {"shore-disk-6", "hidden-capacity"},
    {"shore-disk-7", "hidden-capacity"},
    {"buoy-stick-14", "write-protected"},
    {"buoy-stick-15", "attributes dirty"},
    {"tide-gauge-10", "healthy"},
    {"tide-gauge-11", "blank"},
    {"disk-reserved", "write-protected"},
    {"station-nvme-3", "write-protected blank"},
    {"station-nvme-4", "write-protected blank"},
    {"mast-camera-2", "write-protected optical-image +small-table two-units"},
    {"mast-camera-2/1", "two-units"},
    {"reader-empty", "no-medium"},
    {"shore-disk-1", "healthy"},
    {"shore-disk-3", "mbr-limit +unallocated"},
    {"shore-disk-4", "hidden-capacity"},
    {"station-nvme-1", "healthy"},
    {"station-nvme-2", "blank"},
    {"stick-cloned", "beyond-end"},
    {"stick-fallback", "unknown-capacity"},
    {"stick-locked", "write-protected"},
    {"tide-gauge-7", "boot-image +small-table"},
    {"tide-gauge-8", "healthy"},
    {"tide-gauge-9", "read-errors"},
    {"winch-disk-2", "other-controller +read-errors"},
    {"winch-disk-3", "no-sectors +read-errors"},
    {"winch-disk", "healthy"},
};

static void every_device_of_the_bench_is_judged(void **state)
{
    char from[512], why[SLATE_SIM_WHY_ROOM];

    (void)state;
    snprintf(from, sizeof from, "%s/share/bench", getenv("SOURCE"));
    assert_ok(slate_sim_lay(from, in_folder("bench"), why));
    for (size_t i = 0; i < sizeof bench_rows / sizeof bench_rows[0]; i++) {
        struct slate_sim *sim;
        enum slate_status status;

        assert_ok(
            slate_sim_open(in_folder("bench"), bench_rows[i].name, &sim, why));
        status = slate_media_open(&s.media, slate_sim_port(sim));
        if (status == SLATE_OK)
            assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
        else
            slate_assess_unopened(&s.media, status, &s.facts);
        expect_findings(bench_rows[i].name, bench_rows[i].findings);
        assert_true(s.media.traffic.commands <= 256);
        assert_int_equal(s.media.traffic.blocks_written, 0);
        slate_sim_close(sim);
    }
}

/* Nothing can be read, and the drive says of the first block why; near misses
 * are that alone, or something else (SPC-4, annex F). */
static void expect_unread_to_be_told_apart(void)
{
    static const struct {
        uint32_t count;
        uint64_t far;
        uint8_t key, asc, ascq;
        const char *findings;
    } rows[] = {
        {2, 4194303, 3, 0x12, 0, "no-sectors +read-errors unfinished"},
        {9, 1, 3, 0x12, 0, "no-sectors +read-errors unfinished"},
        {2, 4194303, 3, 0x10, 0, "other-controller +read-errors unfinished"},
        {2, 4194303, 3, 0x10, 1, "read-errors unfinished"},
        {2, 4194303, 3, 0x11, 0, "read-errors unfinished"},
        {2, 4194303, 4, 0x12, 0, "read-errors unfinished"},
        {2, 2097151, 3, 0x12, 0, "read-errors unfinished"},
        {1, 0, 3, 0x12, 0, "read-errors unfinished"}};
    struct slate_unread *unread = &s.facts.unread;

    s.facts.guards = 0;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        unread->count = rows[i].count;
        unread->lba[0] = 0;
        unread->lba[1] = rows[i].far;
        unread->fault.has_sense = true;
        unread->fault.sense_key = rows[i].key;
        unread->fault.asc = rows[i].asc;
        unread->fault.ascq = rows[i].ascq;
        expect_findings("unread", rows[i].findings);
    }
    unread->count = 2;
    unread->lba[0] = 7; /* the start can be read */
    expect_findings("unread", "read-errors unfinished");
}

/* Those that no bench device and no corpus case shows are shown here. */
static void every_finding_has_a_case(void **state)
{
    struct slate_media media = {.units = 1};
    struct ram ram;

    (void)state;
    slate_assess_unopened(&media, SLATE_ERR_COMMAND, &s.facts);
    expect_findings("no answer", "no-answer");
    ram_open(&ram, 512, 4194304, true);
    assert_ok(session_draft(&s, &ram, &(struct wanted){.use = 0}));
    ram.fail_write = 3;
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_WRITE);
    assert_ok(session_look(&s, &ram));
    expect_findings("interrupted", "unfinished");
    s.facts.guards = 1; /* test_erase shows how devices come to say so */
    s.facts.guard[0].kind = SLATE_GUARD_ERASING;
    expect_findings("at work", "erasing unfinished");
    s.facts.guard[0].kind = SLATE_GUARD_UNERASED;
    s.facts.unread.count = 9;
    expect_findings("cut", "unerased +read-errors unfinished");
    expect_unread_to_be_told_apart();
    s.facts.guards = s.facts.unread.count = 0;
    s.facts.proved_blocks = s.facts.geometry.block_count - 1;
    expect_findings("less than it claims", "false-capacity unfinished");
    s.facts.proved_blocks = s.facts.geometry.block_count;
    expect_findings("what it claims", "unfinished");
    s.facts.marked = false; /* test_accidents shows how that is known */
    s.facts.halfway = true;
    expect_findings("cut in place", "halfway");
    ram_close(&ram);
    for (size_t i = 0; corpus_case(i) != NULL; i++) {
        for (int id = 0; id <= SLATE_FINDING_HEALTHY; id++) {
            const char *name = slate_finding_name((enum slate_finding_id)id);

            if (strstr(corpus_case(i)->findings, name) != NULL)
                seen[id] = true;
        }
    }
    for (int id = 0; id <= SLATE_FINDING_HEALTHY; id++) {
        if (!seen[id])
            print_message("no case shows %s\n",
                          slate_finding_name((enum slate_finding_id)id));
        assert_true(seen[id]);
    }
}

/* What can be read is told; nothing of what cannot is made up. */
static void what_cannot_be_read_is_told(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4194304, true);
    assert_ok(session_draft(
        &s, &ram,
        &(struct wanted){.table_given = true, .table = SLATE_TABLE_GPT}));
    assert_ok(session_enact(&s, sizeof s.work));
    ram.fail_read = 2; /* in the entries of the first copy */
    assert_ok(session_look(&s, &ram));
    expect_findings("entries", "read-errors +gpt-primary-damaged");
    assert_int_equal(s.facts.layout.primary.state, SLATE_GPT_UNREADABLE);
    assert_int_equal(s.facts.volume[0].kind, SLATE_VOLUME_FAT32);
    assert_int_equal(s.facts.unread.count, 1);
    assert_int_equal(s.facts.unread.lba[0], 2);
    ram.fail_read = 2048; /* the boot block of the volume */
    assert_ok(session_look(&s, &ram));
    expect_findings("boot block", "read-errors");
    assert_int_equal(s.facts.volume[0].kind, SLATE_VOLUME_UNREAD);
    assert_int_equal(s.media.fault.status, SLATE_OK);
    assert_null(s.media.policy.witness);
    assert_null(s.media.policy.unread);
    ram_close(&ram);
}

static void expect_block_bytes(const struct ram *ram, uint32_t expected)
{
    struct ram as_image = *ram;
    uint32_t found = 1;

    as_image.facts.block_count *= ram->facts.block_bytes / 512;
    as_image.facts.block_bytes = 512;
    as_image.port.context = &as_image;
    assert_ok(slate_media_open(&s.media, &as_image.port));
    assert_ok(slate_assess_block_bytes(&s.media, s.work, &found));
    assert_int_equal(found, expected);
}

static void images_tell_their_block_size(void **state)
{
    struct ram ram;

    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 8) {
        for (int table = 0; table < 3; table++) {
            struct wanted goal = {.table_given = true,
                                  .table = (enum slate_table_kind)table};

            ram_open(&ram, block, 1073741824 / block, true);
            expect_block_bytes(&ram, 0); /* blank: it does not tell */
            assert_ok(session_draft(&s, &ram, &goal));
            assert_ok(session_enact(&s, sizeof s.work));
            expect_block_bytes(&ram, block);
            ram_close(&ram);
        }
    }
}

/* Never writes, and reads little on a large device that is well. */
static void looking_is_cheap_and_harmless(void **state)
{
    const struct wanted goal = {.table_given = true, .table = SLATE_TABLE_GPT};
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 3906250000, true); /* 2 TB */
    assert_ok(session_draft(&s, &ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
    ram.writes = 0;
    assert_ok(session_look(&s, &ram));
    expect_findings("renewed", "healthy");
    assert_true(slate_facts_hold_content(&s.facts));
    assert_int_equal(ram.writes, 0);
    assert_true(s.media.traffic.commands <= 64);
    assert_true(s.media.traffic.blocks_read * 512 <= 262144);
    ram_close(&ram);
    ram_open(&ram, 512, 4194304, true);
    assert_ok(session_look(&s, &ram));
    expect_findings("untouched", "blank");
    assert_false(slate_facts_hold_content(&s.facts));
    ram_close(&ram);
}

/* The table with most partitions, each with a volume that is read closely, on
 * blocks of the largest size. */
static void a_look_has_its_limits(void **state)
{
    struct slate_facts *facts = &s.facts;
    struct ram ram;

    (void)state;
    ram_open(&ram, 4096, 4194304, true);
    ram_put_entry(&ram, 0, 0x05, false, 256, 4000000);
    for (uint32_t i = 0; i < 60; i++) {
        uint64_t link = 256 + i * 40000ull;

        craft_le(&ram, link * 4096 + 450, 0x83, 1);
        craft_le(&ram, link * 4096 + 454, 256, 4);
        craft_le(&ram, link * 4096 + 458, 32768, 4);
        craft_le(&ram, link * 4096 + 466, 5, 1);
        craft_le(&ram, link * 4096 + 470, (i + 1) * 40000, 4);
        craft_le(&ram, link * 4096 + 474, 32768, 4);
        craft_le(&ram, link * 4096 + 510, 0xAA55, 2);
        craft_exfat(&ram, link + 256, 262144, "LOG");
    }
    assert_ok(session_look(&s, &ram));
    assert_true(s.media.traffic.commands <= 256);
    assert_true(s.media.traffic.blocks_read * 4096 <= 4194304);
    assert_int_equal(facts->layout.count, SLATE_FACTS_PARTITIONS);
    assert_true(facts->layout.found >= SLATE_FACTS_PARTITIONS);
    assert_int_equal(facts->volume[1].kind, SLATE_VOLUME_EXFAT);
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_ok(session_assess(&s, SLATE_DEPTH_GLANCE));
    assert_true(s.media.traffic.commands <= 64);
    assert_true(s.media.traffic.blocks_read * 4096 <= 65536);
    ram_close(&ram);
}

/* With less room, or none, less is listed; what is counted and judged stays,
 * and no draft is made of evidence that is not whole. */
static void facts_take_the_room_they_are_given(void **state)
{
    static struct slate_partition partition[4];
    static struct slate_volume volume[4];
    static struct slate_seen few[SLATE_EVIDENCE_RANGES];
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4000000, true);
    for (unsigned i = 0; i < 3; i++)
        ram_put_entry(&ram, i, 0x83, false, 2048 + i * 1000000, 900000);
    for (uint32_t rooms = 0; rooms <= 4; rooms += 2) {
        for (uint32_t ranges = 0; ranges <= SLATE_EVIDENCE_RANGES;
             ranges += SLATE_EVIDENCE_RANGES / 2) {
            const struct slate_facts_room room = {
                rooms == 0 ? NULL : partition, rooms == 0 ? NULL : volume,
                rooms, ranges == 0 ? NULL : few, ranges};
            struct slate_finding findings[SLATE_FINDINGS_MAX];

            session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
            assert_ok(slate_media_open(&s.media, &ram.port));
            slate_facts_place(&s.facts, &room);
            assert_ok(slate_assess_look(&s.media, SLATE_DEPTH_FULL, s.work,
                                        sizeof s.work, &s.facts));
            assert_int_equal(s.facts.layout.count, rooms < 3 ? rooms : 3);
            assert_int_equal(s.facts.layout.found, 3);
            assert_true(slate_assess_judge(&s.facts, findings) > 0);
            assert_status(slate_draft_base(&s.draft, &s.facts),
                          ranges == 0 ? SLATE_ERR_ROOM : SLATE_OK);
        }
    }
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_device_of_the_bench_is_judged),
        cmocka_unit_test(every_finding_has_a_case),
        cmocka_unit_test(what_cannot_be_read_is_told),
        cmocka_unit_test(images_tell_their_block_size),
        cmocka_unit_test(looking_is_cheap_and_harmless),
        cmocka_unit_test(a_look_has_its_limits),
        cmocka_unit_test(facts_take_the_room_they_are_given),
    };

    return cmocka_run_group_tests_name("assess", tests, NULL, clean);
}
