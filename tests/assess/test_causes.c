/* SPDX-License-Identifier: MIT */
/* Causes are told apart, healthy devices stay healthy, one cause leads, and
 * what is offered can be done. */
#include <stdio.h>

#include "diagnose.h"
#include "tool_case.h"

/* The same volumes where blocks of the other size put them. */
static void another_dock_counts_in_other_blocks(void **state)
{
    static const enum kind kinds[] = {FAT32, NTFS, EXT4, EXFAT};

    (void)state;
    for (size_t i = 0; i < 4; i++) {
        struct ram small, large;

        /* made at 512, seen at 4096 */
        ram_open(&small, 512, ALL, true);
        ram_put_entry(&small, 0, mbr_type(kinds[i]), false, MIB, ALL - MIB);
        put(&small, kinds[i], MIB, ALL - MIB);
        ram_open(&large, 4096, ALL / 8, true);
        for (size_t j = 0; j < small.page_count; j++) {
            if (small.pages[j] != NULL)
                ram_put(&large, j * RAM_PAGE_BYTES, small.pages[j],
                        RAM_PAGE_BYTES);
        }
        look(&large);
        assert_int_equal(s.facts.made_for, 512);
        ram_close(&small);
        ram_close(&large);
    }
}

static void put_udf(struct ram *ram, uint32_t sector)
{
    craft_text(ram, 32769, "BEA01");
    craft_text(ram, 34817, "NSR03");
    craft_text(ram, 36865, "TEA01");
    craft_le(ram, 256ull * sector, 2, 2); /* anchor */
    craft_le(ram, 256ull * sector + 20, 32, 4);
    craft_le(ram, 32ull * sector + 2 * sector, 5, 2);
}

/* Healthy devices that look like trouble. */
static void healthy_devices_stay_healthy(void **state)
{
    struct craft_gpt linux_as_basic = {
        .partition = {{MIB, ALL - MIB - 34, 0, NULL, 0}}};
    struct ram ram;

    (void)state;
    open_with_table(&ram, false, FAT32, MIB, ALL - MIB);
    put(&ram, FAT32, MIB, ALL - MIB);
    craft_optical(&ram, 0, true, true);
    ram_put_entry(&ram, 0, 0x0C, false, MIB, ALL - MIB);
    expect_findings(&ram, "descriptors in the gap", "healthy");
    ram_close(&ram);
    open_with_table(&ram, false, FAT32, 64, ALL - 64); /* near miss */
    craft_optical(&ram, 0, true, false);
    ram_put_entry(&ram, 0, 0x17, false, 0, 96000);
    expect_findings(&ram, "descriptors in a partition",
                    "boot-image +small-table +attributes");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    put_udf(&ram, 512);
    expect_findings(&ram, "UDF in its own blocks", "no-table");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    put_udf(&ram, 2048);
    expect_findings(&ram, "UDF of a disc", "optical-image");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x83, false, MIB, ALL - MIB);
    craft_text(&ram, MIB * 512, "hsqs");
    craft_le(&ram, MIB * 512 + 28, 4, 2);
    craft_le(&ram, MIB * 512 + 40, 30000000, 8);
    expect_findings(&ram, "never fills it", "healthy");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &linux_as_basic);
    put(&ram, EXT4, MIB, ALL - MIB - 34);
    expect_findings(&ram, "ext4 as basic data", "foreign-volume");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x07, false, MIB, ALL - MIB);
    put(&ram, EXT4, MIB, ALL - MIB);
    expect_findings(&ram, "ext4 as type 07h", "foreign-volume");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true); /* near miss: a type that is specific */
    ram_put_entry(&ram, 0, 0x0C, false, MIB, ALL - MIB);
    put(&ram, EXT4, MIB, ALL - MIB);
    expect_findings(&ram, "ext4 as FAT", "type-disagrees");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true); /* code where entries would be */
    craft_le(&ram, 0, 0x9058EB, 3);
    craft_le(&ram, 446, 0x80, 1);
    craft_le(&ram, 450, 0x0C, 1);
    craft_le(&ram, 454, 5, 4);
    craft_le(&ram, 458, 9, 4);
    craft_le(&ram, 470, 77, 4);
    craft_le(&ram, 510, 0xAA55, 2);
    expect_findings(&ram, "start-up code", "unknown-content");
    ram_close(&ram);
}

/* Causes that had no name. */
static void causes_are_told_apart(void **state)
{
    static const struct slate_guid dynamic = {
        {0xA0, 0x60, 0x9B, 0xAF, 0x31, 0x14, 0x62, 0x4F, 0xBC, 0x68, 0x33, 0x11,
         0x71, 0x4A, 0x69, 0xAD}};
    struct craft_gpt alone = {.parts = CRAFT_BACKUP,
                              .partition = {{MIB, ALL - MIB - 34, 0, NULL, 0}}};
    struct craft_gpt one = {.partition = {{MIB, ALL - MIB - 34, 0, NULL, 0}}};
    struct craft_gpt other = {.parts = CRAFT_BACKUP,
                              .partition = {{MIB, MIB, 0, NULL, 3}}};
    struct craft_gpt spanned = {
        .partition = {{MIB, ALL - MIB - 34, 0, &dynamic, 0}}};
    struct craft_gpt twice = {.partition = {{MIB, ALL - MIB - 34, 0, NULL, 1},
                                            {MIB, ALL - MIB - 34, 0, NULL, 2}}};
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &alone);
    put(&ram, NTFS, MIB, ALL - MIB - 34);
    expect_findings(&ram, "second alone", "gpt-second-alone +start-erased");
    assert_false(loses_content(SLATE_FINDING_GPT_SECOND_ALONE)); /* mended */
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &one);
    craft_gpt(&ram, &other);
    put(&ram, NTFS, MIB, ALL - MIB - 34);
    expect_findings(&ram, "disagree", "gpt-copies-disagree");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x0C, false, MIB, ALL - MIB);
    put(&ram, FAT32, MIB, ALL - MIB);
    craft_le(&ram, MIB * 512 + 424, 0x4AD82E294967D63B, 8);
    craft_le(&ram, MIB * 512 + 432, 0x01D0E339A3F69983, 8);
    expect_findings(&ram, "encrypted behind a FAT front", "member");
    assert_int_equal(slate_facts_shown_bytes(&s.facts), 0);
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &spanned);
    put(&ram, NTFS, MIB, ALL - MIB - 34);
    craft_le(&ram, MIB * 512 + 40, 2 * ALL, 8); /* it spans devices */
    expect_findings(&ram, "dynamic", "member +copy-differs");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x83, false, MIB, ALL - MIB);
    put(&ram, EXT4, MIB, ALL - MIB - 256);
    craft_le(&ram, ((ALL - MIB) * 512ull / 65536 - 1) * 65536 + MIB * 512ull,
             0xA92B4EFC, 4);
    expect_findings(&ram, "mirror", "member");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &twice);
    put(&ram, NTFS, MIB, ALL - MIB - 34);
    expect_findings(&ram, "twice", "listed-twice +overlap");
    assert_true(slate_facts_shown_bytes(&s.facts) <= (ALL - MIB) * 512ull);
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x0F, false, MIB, 100000);
    ram_put_entry(&ram, 1, 0x0C, false, 1000000, ALL - 1000000);
    put(&ram, FAT32, 1000000, ALL - 1000000);
    craft_link(&ram, MIB, 0x0E, 63, 131072, 0); /* longer than its container */
    craft_fat(&ram, MIB + 63, 131072, 16);
    expect_findings(&ram, "logical outside",
                    "unallocated out-of-range misaligned");
    ram_close(&ram);
    ram_open(&ram, 512, 3907029168, true); /* 2 TB, 15 GB of it free */
    one.partition[0].count = 3907029168 - MIB - 34 - 29296875;
    craft_gpt(&ram, &one);
    put(&ram, NTFS, MIB, one.partition[0].count);
    expect_findings(&ram, "less than a hundredth", "unallocated");
    ram_close(&ram);
}

/* One cause leads; what follows from it is folded. */
static void consequences_are_folded(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x07, false, MIB, ALL / 4);
    put(&ram, NTFS, MIB, ALL - MIB);
    ram_put_entry(&ram, 0, 0x07, false, MIB, ALL / 4);
    expect_findings(&ram, "cut smaller", "volume-larger +small-table");
    ram_close(&ram);
    ram_open(&ram, 512, 4294967296 + 30000000, true);
    ram_put_entry(&ram, 0, 0x07, false, 256, 536870656);
    craft_ntfs(&ram, 2048, 500000000, "Dock");
    craft_le(&ram, 2048 * 512 + 11, 4096, 2); /* as made at 4096 */
    craft_le(&ram, 2048 * 512 + 13, 1, 1);
    craft_le(&ram, 2048 * 512 + 40, 536870655, 8);
    expect_findings(&ram, "limit of other blocks",
                    "block-size-mismatch +mbr-limit +small-table +no-volume");
    assert_int_equal(s.facts.made_for, 4096);
    ram_close(&ram);
}

/* Just at the borders of what can be composed: what is offered is taken. */
static void remedies_are_what_drafts_take(void **state)
{
    static const uint64_t blocks[] = {65525,      66000,      67000,     68000,
                                      69000,      70000,      72000,     100000,
                                      4294967295, 4294967296, 4294967297};

    (void)state;
    for (size_t i = 0; i < sizeof blocks / sizeof blocks[0]; i++) {
        struct wanted goal = {.table_given = true, .table = SLATE_TABLE_MBR};
        struct ram ram;

        ram_open(&ram, 512, blocks[i], true);
        expect_findings(&ram, "border", "blank");
        if (session_make(&s, &goal) == SLATE_OK)
            assert_true(s.draft.part[0].range.first +
                            s.draft.part[0].range.count <=
                        UINT32_MAX);
        ram_close(&ram);
    }
}

/* Several volumes on the image of a card are told as on the card. */
static void the_tool_says_how_many_more_there_are(void **state)
{
    struct ram ram;
    FILE *file = fopen(in_folder("many.img"), "w");
    static uint8_t page[65536];

    (void)state;
    ram_open(&ram, 512, MIB + 200 * 8192ull + 300, true);
    put_many(&ram, 200, 1024);
    for (uint32_t j = 0; j < 3; j++)
        craft_fat(&ram, MIB + j * 8192ull, 8192, 12);
    assert_non_null(file);
    for (size_t i = 0; i < ram.page_count; i++) {
        uint64_t left = ram.facts.block_count * 512 - i * RAM_PAGE_BYTES;
        size_t n = left < sizeof page ? (size_t)left : sizeof page;

        ram_get(&ram, i * RAM_PAGE_BYTES, page, n);
        assert_int_equal(fwrite(page, 1, n, file), n);
    }
    fclose(file);
    ram_close(&ram);
    expect("assess file:$/many.img", 0, "more partitions");
    assert_null(strstr(p.out, "- unallocated"));
    expect("assess file:$/many.img --json", 0, "several-volumes");
    check_schema("assess");
    {
        json_t *list = printed("partitions");

        assert_int_equal(json_array_size(list), 200);
        json_decref(list);
        list = printed("map");
        assert_int_equal(json_array_size(list), 200);
        json_decref(list);
    }
    expect("draft file:$/many.img", 0, "partitions more");
    expect("assess file:$/many.img --picture $/many.png", 0, "more");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(another_dock_counts_in_other_blocks),
        cmocka_unit_test(healthy_devices_stay_healthy),
        cmocka_unit_test(causes_are_told_apart),
        cmocka_unit_test(consequences_are_folded),
        cmocka_unit_test(remedies_are_what_drafts_take),
        cmocka_unit_test(the_tool_says_how_many_more_there_are),
    };

    return cmocka_run_group_tests_name("causes", tests, NULL, told);
}
