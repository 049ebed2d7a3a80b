/* SPDX-License-Identifier: MIT */
/* Facts to findings: each cause with a device that shows it, and near misses
 * that must not. */
#include "check.h"

static struct session s;

/* The findings of a device as "lead(consequence) other". */
static void expect_findings(const struct ram *ram, const char *expected)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    char found[256] = "";
    uint32_t count;

    assert_ok(session_look(&s, ram));
    count = slate_assess_judge(&s.facts, findings);
    for (uint32_t i = 0; i < count; i++) {
        const char *name = slate_finding_name(findings[i].id);

        strcat(found, i == 0 ? "" : " ");
        strcat(found, findings[i].consequence ? "+" : "");
        strcat(found, name);
    }
    assert_string_equal(found, expected);
}

/* A device renewed to one full volume, healthy. */
static void open_renewed(struct ram *ram, uint64_t blocks,
                         enum slate_table_kind table)
{
    struct slate_goal goal = {
        .table_given = true, .table = table, .label = "SHORE"};

    ram_open(ram, 512, blocks, true);
    assert_ok(session_draft(&s, ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
}

static void healthy_devices_have_no_trouble(void **state)
{
    struct ram ram;

    (void)state;
    for (int table = 0; table < 3; table++) {
        open_renewed(&ram, 4194304, (enum slate_table_kind)table);
        expect_findings(&ram, "healthy");
        assert_true(slate_facts_hold_content(&s.facts));
        ram_close(&ram);
    }
}

static void blank_devices_are_blank_in_zeros_and_ones(void **state)
{
    static uint8_t ones[65536];
    struct ram ram;

    (void)state;
    ram_open(&ram, 4096, 16, true);
    expect_findings(&ram, "blank");
    assert_false(slate_facts_hold_content(&s.facts));
    memset(ones, 0xFF, sizeof ones);
    ram_put(&ram, 0, ones, sizeof ones);
    expect_findings(&ram, "blank");
    ram_put(&ram, 65535, "x", 1); /* near miss: one byte at the end */
    expect_findings(&ram, "unknown-content");
    ram_close(&ram);
    ram_open(&ram, 512, 1, true); /* the smallest device */
    expect_findings(&ram, "blank");
    ram_close(&ram);
}

static void capacity_hidden_by_a_small_table(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4194304, true); /* 2 GiB */
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 1000000);
    expect_findings(&ram, "small-table");
    assert_int_equal(slate_facts_hidden_bytes(&s.facts),
                     (4194304 - 1002048) * 512u);
    /* just below a hundredth: the usual rounding at the end */
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 4194304 - 2048 - 41900);
    expect_findings(&ram, "healthy");
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 4194304 - 2048 - 42000);
    expect_findings(&ram, "small-table");
    ram_close(&ram);
    ram_open(&ram, 512, 131072, true); /* 64 MiB: below 8 MiB is no loss */
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 131072 - 2048 - 16000);
    expect_findings(&ram, "healthy");
    ram_close(&ram);
}

static void left_over_boot_image(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 30546944, true);
    ram_put(&ram, 0, "\xFA\x31\xC0", 3);
    ram_put_entry(&ram, 0, 0x0E, true, 2048, 93750);
    expect_findings(&ram, "boot-image +small-table");
    /* near misses: not active; no code; most of the device in use */
    ram_put_entry(&ram, 0, 0x0E, false, 2048, 93750);
    expect_findings(&ram, "small-table");
    ram_put_entry(&ram, 0, 0xEF, false, 2048, 93750); /* start-up partition */
    expect_findings(&ram, "boot-image +small-table");
    ram_put(&ram, 0, "\0\0\0", 3);
    ram_put_entry(&ram, 0, 0x0E, true, 2048, 93750);
    expect_findings(&ram, "small-table");
    ram_put(&ram, 0, "\xFA\x31\xC0", 3);
    ram_put_entry(&ram, 0, 0x0E, true, 2048, 20000000);
    expect_findings(&ram, "small-table");
    ram_close(&ram);
}

static void put_optical(struct ram *ram, bool bootable)
{
    uint8_t primary[2048] = "\1CD001\1";

    memset(primary + 40, ' ', 32);
    memcpy(primary + 40, "BUOY_INSTALL", 12);
    primary[80] = 0x00; /* 24,000 sectors: 49 MB */
    memcpy(primary + 80, "\xC0\x5D\0\0", 4);
    ram_put(ram, 32768, primary, sizeof primary);
    ram_put(ram, 34816, bootable ? "\0CD001\1" : "\2CD001\1", 7);
    ram_put(ram, 36864,
            "\xFF"
            "CD001\1",
            7);
}

static void optical_disc_images(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 30546944, true);
    put_optical(&ram, false);
    expect_findings(&ram, "optical-image +small-table");
    assert_string_equal(s.facts.whole.label, "BUOY_INSTALL");
    put_optical(&ram, true);
    expect_findings(&ram, "boot-image +small-table");
    ram_put_entry(&ram, 0, 0x17, true, 1, 96000); /* a table on top */
    expect_findings(&ram, "boot-image +small-table");
    assert_int_equal(s.facts.optical.kind, SLATE_VOLUME_OPTICAL);
    ram_put(&ram, 32769, "XX", 2); /* near miss: no descriptor */
    expect_findings(&ram, "small-table");
    ram_close(&ram);
}

static void tables_that_do_not_fit(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 1000000, true);
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 1000000);
    expect_findings(&ram, "beyond-end");
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 600000);
    ram_put_entry(&ram, 1, 0x83, false, 600000, 399000);
    expect_findings(&ram, "overlap");
    ram_close(&ram);
}

static void gpt_remains_under_a_new_mbr(void **state)
{
    struct ram ram;

    (void)state;
    open_renewed(&ram, 4194304, SLATE_TABLE_GPT);
    ram_put_entry(&ram, 0, 0x0C, false, 2048, 4190000);
    expect_findings(&ram, "gpt-remains");
    assert_int_equal(s.facts.layout.kind, SLATE_TABLE_MBR);
    ram_close(&ram);
}

static void protected_and_unreadable_devices(void **state)
{
    struct ram ram;

    (void)state;
    open_renewed(&ram, 4194304, SLATE_TABLE_MBR);
    ram.facts.read_only = true;
    expect_findings(&ram, "write-protected");
    ram.fail_read = 2048;
    assert_status(session_look(&s, &ram), SLATE_ERR_READ);
    assert_int_equal(s.media.fault.lba, 2048);
    assert_null(s.media.witness);
    ram_close(&ram);
}

static void sizes_that_nobody_sells(void **state)
{
    struct ram ram;

    (void)state;
    open_renewed(&ram, 44040192, SLATE_TABLE_MBR); /* 22.5 GB */
    ram.facts.identity.transport = SLATE_TRANSPORT_USB;
    expect_findings(&ram, "odd-size");
    ram.facts.identity.transport = SLATE_TRANSPORT_IMAGE; /* files may */
    expect_findings(&ram, "healthy");
    ram_close(&ram);
    open_renewed(&ram, 60506112, SLATE_TABLE_MBR); /* 30.98 GB, so 32 */
    ram.facts.identity.transport = SLATE_TRANSPORT_USB;
    expect_findings(&ram, "healthy");
    ram_close(&ram);
}

static void every_finding_has_all_its_words(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 30546944, true);
    ram_put_entry(&ram, 0, 0x0E, true, 2048, 93750);
    assert_ok(session_look(&s, &ram));
    for (int id = 0; id < SLATE_FINDINGS_MAX; id++) {
        for (int part = 0; part < 3; part++) {
            char words[512];
            struct slate_text text;

            slate_text_start(&text, words, sizeof words);
            slate_finding_words(&s.facts, (enum slate_finding_id)id,
                                (enum slate_finding_part)part, &text);
            if (id == SLATE_FINDING_BEYOND_END && part == 1)
                continue; /* names a partition that this device has not */
            assert_true(strlen(words) > 10 && strlen(words) < 400);
            assert_int_equal(words[strlen(words) - 1], '.');
        }
    }
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
            struct slate_goal goal = {.table_given = true,
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

/* Never writes, and reads little on the largest devices too. */
static void looking_is_cheap_and_harmless(void **state)
{
    struct ram ram;

    (void)state;
    open_renewed(&ram, 3906250000, SLATE_TABLE_GPT); /* 2 TB */
    ram.writes = 0;
    assert_ok(session_look(&s, &ram));
    assert_int_equal(ram.writes, 0);
    assert_true(s.media.traffic.commands <= 64);
    assert_true(s.media.traffic.blocks_read * 512 <= 262144);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(healthy_devices_have_no_trouble),
        cmocka_unit_test(blank_devices_are_blank_in_zeros_and_ones),
        cmocka_unit_test(capacity_hidden_by_a_small_table),
        cmocka_unit_test(left_over_boot_image),
        cmocka_unit_test(optical_disc_images),
        cmocka_unit_test(tables_that_do_not_fit),
        cmocka_unit_test(gpt_remains_under_a_new_mbr),
        cmocka_unit_test(protected_and_unreadable_devices),
        cmocka_unit_test(sizes_that_nobody_sells),
        cmocka_unit_test(every_finding_has_all_its_words),
        cmocka_unit_test(images_tell_their_block_size),
        cmocka_unit_test(looking_is_cheap_and_harmless),
    };

    return cmocka_run_group_tests_name("assess", tests, NULL, NULL);
}
