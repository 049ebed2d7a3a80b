/* SPDX-License-Identifier: MIT */
/* GPTs that others wrote: unusual sizes, and headers that lie. Built here byte
 * by byte, not with our composer. */
#include "check.h"

static struct session s;

struct table {
    uint32_t header_bytes, entry_bytes, entries;
    uint64_t array_lba;
};

static void put(uint8_t *at, uint64_t value, int length)
{
    for (int i = 0; i < length; i++, value >>= 8)
        at[i] = (uint8_t)value;
}

/* One partition of 4096 blocks at 2048, as entry 2, named in Greek. */
static void put_array(struct ram *ram, const struct table *t, uint32_t *crc)
{
    static uint8_t array[1048576];
    size_t length = (size_t)t->entries * t->entry_bytes;
    uint8_t *entry = array + 2 * (size_t)t->entry_bytes;

    memset(array, 0, sizeof array);
    if (t->entries > 2 && length <= sizeof array) {
        memset(entry, 0x11, 16);
        memset(entry + 16, 0x22, 16);
        put(entry + 32, 2048, 8);
        put(entry + 40, 2048 + 4095, 8);
        put(entry + 48, 1, 8);
        memcpy(entry + 56, "\xB2\x03\xB3\x03\0\0", 6);
    }
    if (length > sizeof array)
        length = sizeof array;
    *crc = slate_crc32(0, array, length);
    if (t->array_lba < 8000)
        ram_put(ram, t->array_lba * 512, array,
                length < 65536 ? length : 65536);
}

static void put_gpt(struct ram *ram, const struct table *t)
{
    uint8_t h[512] = "EFI PART";
    uint32_t crc;

    put_array(ram, t, &crc);
    put(h + 8, 0x10000, 4);
    put(h + 12, t->header_bytes, 4);
    put(h + 24, 1, 8);
    put(h + 32, ram->facts.block_count - 1, 8);
    memset(h + 56, 0x33, 16);
    put(h + 72, t->array_lba, 8);
    put(h + 80, t->entries, 4);
    put(h + 84, t->entry_bytes, 4);
    put(h + 88, crc, 4);
    if (t->header_bytes <= 512)
        put(h + 16, slate_crc32(0, h, t->header_bytes), 4);
    ram_put(ram, 512, h, sizeof h);
    ram_put_entry(ram, 0, 0xEE, false, 1, 16383);
}

static bool is_read(const struct table *t)
{
    struct ram ram;
    bool gpt;

    ram_open(&ram, 512, 16384, false);
    put_gpt(&ram, t);
    assert_ok(session_look(&s, &ram));
    gpt = s.facts.layout.kind == SLATE_TABLE_GPT;
    assert_int_equal(gpt, s.facts.layout.primary.state == SLATE_GPT_SOUND);
    if (!gpt) { /* the protective entry is what is left */
        assert_int_equal(s.facts.layout.count, 1);
        assert_int_equal(s.facts.partition[0].mbr_type, 0xEE);
    }
    ram_close(&ram);
    return gpt;
}

static void unusual_sizes_are_read(void **state)
{
    static const struct table good[] = {
        {92, 128, 128, 2},  {92, 128, 4, 2},    {92, 256, 128, 2},
        {92, 512, 16, 2},   {128, 128, 128, 2}, {512, 128, 128, 2},
        {92, 128, 128, 40}, {92, 128, 1024, 2}, {92, 128, 3, 9}};

    (void)state;
    for (size_t i = 0; i < sizeof good / sizeof good[0]; i++) {
        assert_true(is_read(&good[i]));
        assert_int_equal(s.facts.layout.count, 1);
        assert_int_equal(s.facts.partition[0].number, 3);
        assert_int_equal(s.facts.partition[0].first, 2048);
        assert_int_equal(s.facts.partition[0].count, 4096);
        assert_int_equal(s.facts.partition[0].attributes, 1);
        assert_string_equal(s.facts.partition[0].name, "\xCE\xB2\xCE\xB3");
    }
}

static void lies_are_not_believed(void **state)
{
    static const struct table bad[] = {
        {91, 128, 128, 2},         /* header shorter than its fields */
        {513, 128, 128, 2},        /* longer than its block */
        {92, 0, 128, 2},           /* entries of nothing */
        {92, 127, 128, 2},         /* smaller than an entry's fields */
        {92, 1024, 128, 2},        /* larger than a block */
        {92, 192, 128, 2},         /* no power of two */
        {92, 128, 0, 2},           /* none */
        {92, 128, 4294967295u, 2}, /* too many */
        {92, 128, 128, 16384},     /* beyond the end */
        {92, 128, 128, 16380},     /* reaching beyond it */
        {92, 128, 128, UINT64_MAX}};

    (void)state;
    for (size_t i = 0; i < sizeof bad / sizeof bad[0]; i++)
        assert_false(is_read(&bad[i]));
}

static void more_partitions_than_room_are_counted(void **state)
{
    struct slate_partition two[2];
    struct slate_layout layout = {.partition = two, .room = 2};
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 100000, true);
    for (unsigned slot = 0; slot < 4; slot++)
        ram_put_entry(&ram, slot, 0x83, false, 2048 + slot * 1000, 1000);
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_ok(slate_layout_read(&s.media, s.work, &layout));
    assert_int_equal(layout.count, 2);
    assert_int_equal(layout.found, 4);
    ram_close(&ram);
}

static void empty_and_strange_mbrs(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 100000, true);
    ram_put(&ram, 510, "\x55\xAA", 2); /* a table without partitions */
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.kind, SLATE_TABLE_MBR);
    assert_int_equal(s.facts.layout.found, 0);
    ram_put(&ram, 446, "\x01", 1); /* a status that is neither 00h nor 80h */
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.kind, SLATE_TABLE_NONE);
    ram_put(&ram, 446, "\x80", 1);
    ram_put(&ram, 510, "\x55\xAB", 2);
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.kind, SLATE_TABLE_NONE);
    ram_close(&ram);
}

/* The remarks that a draft makes, each where it belongs and nowhere else. */
static void expect_remark(const char *words, bool there)
{
    char remark[512];
    struct slate_text text;
    bool found = false;

    slate_text_start(&text, remark, sizeof remark);
    for (uint32_t i = 0; slate_draft_remark(&s.draft, i, &text); i++) {
        found = found || strstr(remark, words) != NULL;
        slate_text_start(&text, remark, sizeof remark);
    }
    assert_int_equal(found, there);
}

static void draft_bytes(uint64_t bytes, enum slate_use use,
                        enum slate_table_kind table, uint32_t cluster)
{
    struct wanted goal = {.use = use,
                          .table_given = true,
                          .table = table,
                          .cluster_bytes = cluster};
    struct slate_geometry geometry = {bytes / 512, 512, 512, 0};

    assert_ok(session_plan(&s, &goal, geometry));
}

static void remarks_stand_where_they_belong(void **state)
{
    (void)state;
    draft_bytes(64000000000, SLATE_USE_CAMERA, SLATE_TABLE_MBR, 0);
    expect_remark("Cameras that were made for cards up to 32 GB", true);
    expect_remark("MBR: every host", true);
    expect_remark("up to 4 GiB", false);
    expect_remark("64 KiB", false);
    draft_bytes(16000000000, SLATE_USE_CAMERA, SLATE_TABLE_GPT, 65536);
    expect_remark("Cameras that were made for cards up to 32 GB", false);
    expect_remark("up to 4 GiB", true);
    expect_remark("GPT: for everything new", true);
    expect_remark("Clusters of 64 KiB", true);
    draft_bytes(1000000000, SLATE_USE_LOGGER, SLATE_TABLE_NONE, 0);
    expect_remark("No table", true);
    expect_remark("up to 4 GiB", false);
    for (int use = 0; use < SLATE_USE_COUNT; use++) {
        assert_true(strlen(slate_use_name((enum slate_use)use)) >= 3);
        assert_true(strlen(slate_use_words((enum slate_use)use)) > 10);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(unusual_sizes_are_read),
        cmocka_unit_test(lies_are_not_believed),
        cmocka_unit_test(more_partitions_than_room_are_counted),
        cmocka_unit_test(empty_and_strange_mbrs),
        cmocka_unit_test(remarks_stand_where_they_belong),
    };

    return cmocka_run_group_tests_name("gpt", tests, NULL, NULL);
}
