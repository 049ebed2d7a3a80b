/* SPDX-License-Identifier: MIT */
/* MBR and GPT, composed and read back, field by field against the published
 * layouts (UEFI 2.10, 5.2 and 5.3). */
#include "check.h"

static struct session s;

static void draft_on(uint32_t block_bytes, uint64_t blocks,
                     enum slate_table_kind kind)
{
    struct wanted goal = {
        .table_given = true, .table = kind, .label = "SHORE 4"};
    struct ram ram;

    ram_open(&ram, block_bytes, blocks, true);
    assert_ok(session_draft(&s, &ram, &goal));
    ram_close(&ram);
}

static void compose(uint64_t lba, uint8_t *block)
{
    session_compose(&s, lba, 1, block);
}

static void mbr_has_the_published_fields(void **state)
{
    uint8_t b[512];

    (void)state;
    draft_on(512, 30546944, SLATE_TABLE_MBR);
    compose(0, b);
    assert_int_equal(number_at(b, 510, 2), 0xAA55);
    assert_int_not_equal(number_at(b, 440, 4), 0); /* disk signature */
    assert_int_equal(number_at(b, 444, 2), 0);
    assert_int_equal(b[446], 0x00); /* not active */
    /* block 2048 in a geometry of 255 heads, 63 sectors: 0/32/33 */
    assert_int_equal(b[447], 32);
    assert_int_equal(b[448], 33);
    assert_int_equal(b[449], 0);
    assert_int_equal(b[450], 0x0C);
    /* the end lies beyond cylinder 1023 */
    assert_int_equal(b[451], 0xFE);
    assert_int_equal(b[452], 0xFF);
    assert_int_equal(b[453], 0xFF);
    assert_int_equal(number_at(b, 454, 4), 2048);
    assert_int_equal(number_at(b, 458, 4), 30546944 - 2048);
    for (size_t i = 462; i < 510; i++)
        assert_int_equal(b[i], 0);
}

/* Independent of the library's own table-driven one. */
static uint32_t crc_bitwise(const uint8_t *bytes, size_t length)
{
    uint32_t crc = 0xFFFFFFFF;

    for (size_t i = 0; i < length; i++) {
        crc ^= bytes[i];
        for (int bit = 0; bit < 8; bit++)
            crc = crc >> 1 ^ ((crc & 1) != 0 ? 0xEDB88320 : 0);
    }
    return ~crc;
}

static void check_gpt_header(const uint8_t *h, uint64_t lba, uint64_t other,
                             uint64_t array, uint64_t first, uint64_t last)
{
    uint8_t copy[92];

    assert_memory_equal(h, "EFI PART", 8);
    assert_int_equal(number_at(h, 8, 4), 0x00010000);
    assert_int_equal(number_at(h, 12, 4), 92);
    assert_int_equal(number_at(h, 20, 4), 0);
    assert_int_equal(number_at(h, 24, 8), lba);
    assert_int_equal(number_at(h, 32, 8), other);
    assert_int_equal(number_at(h, 40, 8), first);
    assert_int_equal(number_at(h, 48, 8), last);
    assert_int_equal(number_at(h, 72, 8), array);
    assert_int_equal(number_at(h, 80, 4), 128);
    assert_int_equal(number_at(h, 84, 4), 128);
    memcpy(copy, h, sizeof copy);
    memset(copy + 16, 0, 4);
    assert_int_equal(number_at(h, 16, 4), crc_bitwise(copy, sizeof copy));
}

static void check_gpt(uint32_t block_bytes, uint64_t blocks)
{
    uint64_t array = 16384 / block_bytes, last = blocks - 1;
    static uint8_t b[4096], head[4096], entries[16384];
    char type[SLATE_GUID_TEXT];
    struct slate_guid guid;

    draft_on(block_bytes, blocks, SLATE_TABLE_GPT);
    compose(0, b);
    assert_int_equal(b[450], 0xEE);
    assert_int_equal(number_at(b, 447, 3), 0x000200); /* CHS 0/0/2 */
    assert_int_equal(number_at(b, 454, 4), 1);
    assert_int_equal(number_at(b, 458, 4),
                     last > UINT32_MAX ? UINT32_MAX : last);
    compose(1, head);
    check_gpt_header(head, 1, last, 2, 2 + array, last - array - 1);
    session_compose(&s, 2, (uint32_t)array, entries);
    assert_int_equal(number_at(head, 88, 4),
                     crc_bitwise(entries, sizeof entries));
    memcpy(guid.bytes, entries, 16);
    slate_guid_text(&guid, type);
    assert_string_equal(type, "EBD0A0A2-B9E5-4433-87C0-68B6B72699C7");
    assert_int_equal(number_at(entries, 32, 8) * block_bytes, 1048576);
    assert_int_equal(number_at(entries, 40, 8), last - array - 1);
    assert_memory_equal(entries + 56, "S\0H\0O\0R\0E\0 \0004\0\0\0", 16);
    for (size_t i = 128; i < sizeof entries; i++)
        assert_int_equal(entries[i], 0);
    compose(last, b);
    check_gpt_header(b, last, 1, last - array, 2 + array, last - array - 1);
    assert_memory_equal(b + 56, head + 56, 16);
    compose(last - array, b);
    assert_memory_equal(b, entries, block_bytes);
}

static void gpt_has_the_published_fields(void **state)
{
    (void)state;
    check_gpt(512, 30546944);
    check_gpt(1024, 2097152);
    check_gpt(2048, 1048576);
    check_gpt(4096, 1048576);
}

static void layouts_read_back_as_drafted(void **state)
{
    static const enum slate_table_kind kinds[] = {
        SLATE_TABLE_NONE, SLATE_TABLE_MBR, SLATE_TABLE_GPT};
    static const uint32_t sizes[] = {512, 1024, 2048, 4096};

    (void)state;
    for (size_t i = 0; i < 12; i++) {
        struct wanted goal = {.table_given = true, .table = kinds[i % 3]};
        struct ram ram;

        ram_open(&ram, sizes[i / 3], 2147483648u / sizes[i / 3], false);
        assert_ok(session_draft(&s, &ram, &goal));
        assert_ok(session_enact(&s, slate_draft_work_bytes(&s.draft)));
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.layout.kind, kinds[i % 3]);
        assert_int_equal(
            slate_layout_check(&s.facts.layout, s.media.geometry.block_count),
            0);
        if (kinds[i % 3] == SLATE_TABLE_GPT) {
            assert_true(s.facts.layout.primary.state == SLATE_GPT_SOUND);
            assert_true(s.facts.layout.backup.state == SLATE_GPT_SOUND);
        }
        if (kinds[i % 3] == SLATE_TABLE_NONE)
            assert_int_equal(s.facts.whole.kind, SLATE_VOLUME_FAT32);
        else
            assert_int_equal(s.facts.volume[0].kind, SLATE_VOLUME_FAT32);
        ram_close(&ram);
    }
}

/* Every single byte of both GPT copies matters: with one changed, that copy is
 * not sound, and the other one still is read. */
static void a_damaged_gpt_copy_is_noticed(void **state)
{
    struct wanted goal = {.table_given = true, .table = SLATE_TABLE_GPT};
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 1048576, true);
    assert_ok(session_draft(&s, &ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
    for (uint64_t at = 512; at < 512 + 92; at += 1) {
        uint8_t byte, wrong;

        ram_get(&ram, at, &byte, 1);
        wrong = byte ^ 0x10;
        ram_put(&ram, at, &wrong, 1);
        assert_ok(session_look(&s, &ram));
        assert_false(s.facts.layout.primary.state == SLATE_GPT_SOUND);
        assert_true(s.facts.layout.backup.state == SLATE_GPT_SOUND);
        assert_int_equal(s.facts.layout.kind, SLATE_TABLE_GPT);
        assert_int_equal(s.facts.layout.count, 1);
        ram_put(&ram, at, &byte, 1);
    }
    ram_close(&ram);
}

static void mbr_check_finds_oddities(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 100000, true);
    ram_put_entry(&ram, 0, 0x0C, true, 2048, 50000);
    ram_put_entry(&ram, 2, 0x83, true, 40000, 70000);
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.count, 2);
    assert_int_equal(s.facts.partition[1].number, 3);
    assert_int_equal(slate_layout_check(&s.facts.layout, 100000),
                     SLATE_LAYOUT_BEYOND_END | SLATE_LAYOUT_OVERLAP |
                         SLATE_LAYOUT_TWO_ACTIVE);
    assert_int_equal(slate_layout_end(&s.facts.layout, 100000), 100000);
    ram_put_entry(&ram, 0, 0x0C, true, 2048, 37952); /* they touch: allowed */
    ram_put_entry(&ram, 2, 0x83, false, 40000, 60000);
    assert_ok(session_look(&s, &ram));
    assert_int_equal(slate_layout_check(&s.facts.layout, 100000), 0);
    ram_close(&ram);
}

/* Whatever stands in the deciding blocks, reading ends and stays in bounds. */
static void noise_is_read_without_harm(void **state)
{
    uint32_t seed = 20310517;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4096, true);
    for (int round = 0; round < 400; round++) {
        static uint8_t noise[40960];

        for (size_t i = 0; i < sizeof noise; i++) {
            seed = seed * 1664525 + 1013904223;
            noise[i] = (uint8_t)(seed >> 24);
        }
        memcpy(noise + 510, "\x55\xAA", 2);
        memcpy(noise + 512, "EFI PART", round % 2 == 0 ? 8 : 0);
        for (int slot = 0; slot < 4; slot++)
            noise[446 + 16 * slot] = round % 3 == 0 ? 0x80 : 0x00;
        if (round % 5 == 0)
            memcpy(noise, "\xEB\x58\x90NOISE   \0\x02\x08\x20\0\x02", 17);
        ram_put(&ram, 0, noise, sizeof noise);
        assert_ok(session_look(&s, &ram));
    }
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(mbr_has_the_published_fields),
        cmocka_unit_test(gpt_has_the_published_fields),
        cmocka_unit_test(layouts_read_back_as_drafted),
        cmocka_unit_test(a_damaged_gpt_copy_is_noticed),
        cmocka_unit_test(mbr_check_finds_oddities),
        cmocka_unit_test(noise_is_read_without_harm),
    };

    return cmocka_run_group_tests_name("table", tests, NULL, NULL);
}
