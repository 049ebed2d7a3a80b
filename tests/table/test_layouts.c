/* SPDX-License-Identifier: MIT */
/* Layouts of many partitions: random ones are drafted, enacted and read back by
 * the reader of tables, and what was asked for is what is there. */
#include <stdio.h>

#include "check.h"
#include "craft.h"

static struct session s;
static uint32_t seed;

static uint32_t chance(uint32_t below)
{
    seed = seed * 1664525 + 1013904223;
    return (seed >> 8) % below;
}

static void begin(enum slate_table_kind table)
{
    session_want(&s, &(struct wanted){.table_given = true, .table = table});
    s.draft.parts = 0;
}

static void ask(enum slate_size_kind kind, uint64_t size, const char *label,
                bool bare)
{
    struct slate_ask one = {.size_kind = kind, .size = size, .bare = bare};

    if (!bare) /* without a volume it has none */
        strcpy(one.label, label);
    assert_ok(slate_draft_ask(&s.draft, &one));
}

static enum slate_status make(const struct ram *ram)
{
    assert_ok(slate_media_open(&s.media, &ram->port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    return slate_draft_make(&s.draft);
}

/* What was asked for in bytes is met, and passed by less than one alignment. */
static void check_size(const struct slate_part *part, uint32_t block)
{
    uint64_t bytes = part->range.count * block;

    if (part->ask.size_kind == SLATE_SIZE_BYTES)
        assert_true(bytes >= part->ask.size &&
                    bytes < part->ask.size + 1048576);
}

static void check_part(uint32_t i, const struct slate_partition *found,
                       uint32_t block)
{
    const struct slate_part *part = &s.draft.part[i];
    const struct slate_partition *entry = slate_draft_entry(&s.draft, i);

    assert_int_equal(found->first, part->range.first);
    assert_int_equal(found->count, part->range.count);
    assert_int_equal(found->number, entry->number);
    assert_int_equal(found->mbr_type, entry->mbr_type);
    assert_int_equal(found->active, part->ask.active);
    assert_int_equal(found->first * block % 1048576, 0);
    check_size(part, block);
    if (s.draft.table.kind != SLATE_TABLE_GPT)
        return;
    assert_memory_equal(found->id.bytes, entry->id.bytes, 16);
    assert_string_equal(found->name, entry->name);
}

/* Every partition, but for the container, is one that was asked for; the rest
 * of them has the volume that was drafted for it. */
static void check_read_back(struct ram *ram)
{
    static struct slate_partition partition[SESSION_PARTS + 1];
    static struct slate_volume volume[SESSION_PARTS + 1];
    const struct slate_facts_room room = {partition, volume, SESSION_PARTS + 1,
                                          s.found_seen, SLATE_EVIDENCE_RANGES};
    uint32_t at = 0;

    assert_ok(slate_media_open(&s.media, &ram->port));
    slate_facts_place(&s.facts, &room);
    assert_ok(slate_assess_look(&s.media, SLATE_DEPTH_FULL, s.work,
                                sizeof s.work, &s.facts));
    assert_int_equal(s.facts.layout.kind, s.draft.table.kind);
    assert_int_equal(
        slate_layout_check(&s.facts.layout, ram->facts.block_count),
        s.draft.goal.entries != 0 && s.draft.goal.entries < 128
            ? SLATE_LAYOUT_UNUSUAL_GPT
            : 0);
    assert_int_equal(s.facts.layout.count, s.draft.table.count);
    for (uint32_t i = 0; i < s.facts.layout.count; i++) {
        if (partition[i].role == SLATE_ROLE_EXTENDED)
            continue;
        check_part(at, &partition[i], ram->facts.block_bytes);
        if (s.draft.part[at].format == NULL)
            assert_false(slate_volume_is_known(volume[i].kind));
        else if (volume[i].kind != SLATE_VOLUME_UNREAD)
            assert_int_equal(volume[i].kind, s.draft.part[at].format->kind);
        at++;
    }
    assert_int_equal(at, s.draft.parts);
}

/* Parts of 1 to 40 MiB, some bare, one of them the rest. */
static void ask_at_random(uint32_t parts)
{
    uint32_t rest = chance(parts);

    for (uint32_t i = 0; i < parts; i++) {
        char label[20];

        snprintf(label, sizeof label, "BUOY %u", i);
        if (i == rest)
            ask(SLATE_SIZE_REST, 0, label, false);
        else
            ask(SLATE_SIZE_BYTES, 1048576 + chance(40000000), label,
                chance(4) == 0);
    }
    if (s.draft.goal.table != SLATE_TABLE_MBR)
        return;
    if (chance(3) == 0) { /* all of them, or from one on */
        s.draft.part[chance(parts < 4 ? parts : 4)].ask.standing =
            SLATE_STANDING_LOGICAL;
        return;
    }
    s.draft.part[chance(parts < 3 ? parts : 3)].ask.active = true;
}

static void random_layouts_read_back(void **state)
{
    static const uint32_t blocks[] = {512, 1024, 2048, 4096};

    (void)state;
    for (seed = 1; seed < 2000000000u; seed += 17000077) {
        enum slate_table_kind table =
            chance(2) == 0 ? SLATE_TABLE_MBR : SLATE_TABLE_GPT;
        uint32_t block = blocks[chance(4)];
        struct ram ram;

        ram_open(&ram, block, 8000000000u / block, true);
        craft_noise(&ram, 0, 4 * 1048576);
        begin(table);
        ask_at_random(1 + chance(table == SLATE_TABLE_MBR ? 60 : 128));
        assert_ok(make(&ram));
        assert_ok(session_enact(&s, sizeof s.work));
        assert_ok(session_prove(&s, sizeof s.work));
        check_read_back(&ram);
        ram_close(&ram);
    }
}

/* Each link leads to the next one, as the table's users follow it: worked out
 * here from the blocks alone. */
static void the_chain_is_as_hosts_follow_it(void **state)
{
    uint8_t b[512];
    uint64_t container, link;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4000000, true);
    begin(SLATE_TABLE_MBR);
    for (int i = 0; i < 7; i++)
        ask(SLATE_SIZE_BYTES, 100 << 20, "WINCH", false);
    assert_ok(make(&ram));
    assert_ok(session_enact(&s, sizeof s.work));
    ram_get(&ram, 0, b, sizeof b);
    for (int i = 0; i < 3; i++)
        assert_int_equal(b[450 + 16 * i], 0x0C);
    assert_int_equal(b[498], 0x0F);
    container = link = number_at(b, 502, 4);
    assert_int_equal(container + number_at(b, 506, 4),
                     s.draft.part[6].range.first + 204800);
    for (int i = 3; i < 7; i++) {
        ram_get(&ram, link * 512, b, sizeof b);
        assert_int_equal(number_at(b, 510, 2), 0xAA55);
        assert_int_equal(b[450], 0x0C);
        assert_int_equal(link + number_at(b, 454, 4),
                         s.draft.part[i].range.first);
        assert_int_equal(number_at(b, 458, 4), 204800);
        for (int zero = 478; zero < 510; zero++)
            assert_int_equal(b[zero], 0);
        if (i == 6) {
            assert_int_equal(number_at(b, 462, 8) | number_at(b, 470, 8), 0);
            break;
        }
        assert_int_equal(b[466], 0x05);
        assert_int_equal(number_at(b, 474, 4), 2048 + 204800);
        link = container + number_at(b, 470, 4);
    }
    ram_close(&ram);
}

static void sizes_and_shares_are_as_asked(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4000000, true); /* 2048000000 bytes */
    begin(SLATE_TABLE_MBR);
    ask(SLATE_SIZE_SHARE, 500, "A", false);
    ask(SLATE_SIZE_SHARE, 500, "B", false);
    assert_ok(make(&ram));
    assert_int_equal(s.draft.part[0].range.count,
                     (4000000 - 2048) / 2 / 2048 * 2048);
    assert_int_equal(s.draft.part[1].range.first + s.draft.part[1].range.count,
                     4000000);
    begin(SLATE_TABLE_GPT);
    ask(SLATE_SIZE_REST, 0, "A", false);
    ask(SLATE_SIZE_BYTES, 1000000000, "B", false);
    assert_ok(make(&ram));
    assert_int_equal(s.draft.part[0].range.first, 2048);
    assert_int_equal(s.draft.part[1].range.first % 2048, 0);
    assert_true(s.draft.part[1].range.count >= 1953125);
    assert_true(
        4000000 - 33 -
            (s.draft.part[1].range.first + s.draft.part[1].range.count) <
        2048);
    begin(SLATE_TABLE_MBR);
    ask(SLATE_SIZE_BYTES, (uint64_t)(4000000 - 2048) * 512, "ALL", false);
    assert_ok(make(&ram));
    s.draft.part[0].ask.size++;
    assert_status(make(&ram), SLATE_ERR_TOO_SMALL);
    ram_close(&ram);
}

static const struct {
    enum slate_table_kind table;
    enum slate_size_kind kind[3];
    uint64_t size[3];
    uint32_t parts, refused;
    enum slate_status status;
} refused[] = {
    {SLATE_TABLE_MBR,
     {SLATE_SIZE_REST, SLATE_SIZE_REST},
     {0},
     2,
     1,
     SLATE_ERR_PARTS},
    {SLATE_TABLE_MBR,
     {SLATE_SIZE_SHARE, SLATE_SIZE_SHARE},
     {600, 401},
     2,
     1,
     SLATE_ERR_PARTS},
    {SLATE_TABLE_GPT, {SLATE_SIZE_SHARE}, {1001}, 1, 0, SLATE_ERR_PARTS},
    {SLATE_TABLE_GPT, {SLATE_SIZE_SHARE}, {UINT64_MAX}, 1, 0, SLATE_ERR_PARTS},
    {SLATE_TABLE_GPT, {SLATE_SIZE_BYTES}, {0}, 1, 0, SLATE_ERR_TOO_SMALL},
    {SLATE_TABLE_GPT,
     {SLATE_SIZE_BYTES},
     {UINT64_MAX},
     1,
     0,
     SLATE_ERR_TOO_SMALL},
    {SLATE_TABLE_MBR,
     {SLATE_SIZE_BYTES, SLATE_SIZE_BYTES},
     {2000000000, 48000001},
     2,
     1,
     SLATE_ERR_TOO_SMALL},
    {SLATE_TABLE_MBR,
     {SLATE_SIZE_BYTES, SLATE_SIZE_REST},
     {2046951424},
     2,
     1,
     SLATE_ERR_TOO_SMALL},
    {SLATE_TABLE_NONE, {SLATE_SIZE_BYTES}, {1000000000}, 1, 0, SLATE_ERR_PARTS},
    {SLATE_TABLE_NONE,
     {SLATE_SIZE_REST, SLATE_SIZE_SHARE},
     {0, 1},
     2,
     1,
     SLATE_ERR_PARTS}};

static void what_cannot_be_laid_out_is_refused(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4000000, true);
    for (size_t i = 0; i < sizeof refused / sizeof refused[0]; i++) {
        struct slate_text text;
        char words[256];

        begin(refused[i].table);
        for (uint32_t part = 0; part < refused[i].parts; part++)
            ask(refused[i].kind[part], refused[i].size[part], "", false);
        assert_status(make(&ram), refused[i].status);
        assert_int_equal(s.draft.refused, refused[i].refused);
        slate_text_start(&text, words, sizeof words);
        slate_draft_refusal_words(&s.draft, refused[i].status, &text);
        assert_true(strlen(words) > 20);
    }
    begin(SLATE_TABLE_GPT);
    for (int i = 0; i < 129; i++)
        ask(SLATE_SIZE_BYTES, 4 << 20, "", true);
    s.draft.goal.entries = 128;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    s.draft.goal.entries = 0; /* then the table has more of them */
    assert_ok(make(&ram));
    s.draft.goal.entries = 3;
    assert_status(make(&ram), SLATE_ERR_USE);
    s.draft.goal.entries = 1025;
    assert_status(make(&ram), SLATE_ERR_USE);
    begin(SLATE_TABLE_MBR); /* one active, and no logical one */
    for (int i = 0; i < 5; i++)
        ask(SLATE_SIZE_BYTES, 4 << 20, "", false);
    s.draft.part[4].ask.active = true;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    s.draft.part[4].ask.active = false;
    s.draft.part[1].ask.active = true;
    assert_ok(make(&ram));
    s.draft.part[0].ask.active = true;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    ram_close(&ram);
}

/* One header, by the numbers of UEFI 2.10, 5.3.2. */
static void check_header(const struct ram *ram, uint64_t lba, uint32_t entries,
                         uint32_t block)
{
    static uint8_t array[1024 * 128];
    uint32_t room = entries < 128 ? 16384 : entries * 128;
    uint64_t blocks = (room + block - 1) / block, last = ram->facts.block_count;
    uint8_t header[512];

    last--;
    ram_get(ram, lba * block, header, sizeof header);
    assert_int_equal(number_at(header, 40, 8), 2 + blocks);
    assert_int_equal(number_at(header, 48, 8), last - blocks - 1);
    assert_int_equal(number_at(header, 72, 8), lba == 1 ? 2 : last - blocks);
    assert_int_equal(number_at(header, 80, 4), entries);
    assert_int_equal(number_at(header, 84, 4), 128);
    ram_get(ram, number_at(header, 72, 8) * block, array, entries * 128);
    assert_int_equal(number_at(header, 88, 4),
                     slate_crc32(0, array, entries * 128));
}

static void entries_are_as_many_as_asked(void **state)
{
    static const uint32_t counts[] = {4, 5, 127, 128, 129, 200, 1000, 1024};

    (void)state;
    for (size_t i = 0; i < 2 * sizeof counts / sizeof counts[0]; i++) {
        uint32_t block = i % 2 == 0 ? 512 : 4096, entries = counts[i / 2];
        struct ram ram;

        ram_open(&ram, block, 2000000000 / block, true);
        begin(SLATE_TABLE_GPT);
        s.draft.goal.entries = entries;
        for (uint32_t part = 0; part < entries && part < SESSION_PARTS; part++)
            ask(SLATE_SIZE_BYTES, 1 << 20, "", true);
        assert_ok(make(&ram));
        assert_ok(session_enact(&s, 65536));
        assert_ok(session_prove(&s, 65536));
        check_header(&ram, 1, entries, block);
        check_header(&ram, ram.facts.block_count - 1, entries, block);
        check_read_back(&ram);
        ram_close(&ram);
    }
}

/* Under a new table, the code that starts machines and what hosts tell the
 * disk by. */
static void code_and_identifier_stay_when_asked(void **state)
{
    struct ram ram;
    uint8_t before[512], after[512];
    struct slate_guid id;

    (void)state;
    ram_open(&ram, 512, 4000000, true);
    ram_put_entry(&ram, 0, 0x0C, true, 2048, 100000);
    craft_noise(&ram, 0, 440);
    craft_le(&ram, 440, 0x51DE7E57, 4);
    ram_get(&ram, 0, before, sizeof before);
    for (int table = SLATE_TABLE_MBR; table <= SLATE_TABLE_GPT; table++) {
        struct ram copy;

        ram_copy(&copy, &ram);
        begin((enum slate_table_kind)table);
        ask(SLATE_SIZE_REST, 0, "KEPT", false);
        s.draft.goal.keep_code = true;
        s.draft.goal.keep_id = table == SLATE_TABLE_MBR;
        assert_ok(session_look(&s, &copy));
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        assert_ok(slate_draft_keep(&s.draft, &s.facts, &s.media, s.work));
        assert_ok(slate_draft_make(&s.draft));
        assert_ok(session_enact(&s, 65536));
        assert_ok(session_prove(&s, 65536));
        ram_get(&copy, 0, after, sizeof after);
        assert_memory_equal(before, after, 440);
        assert_int_equal(number_at(after, 440, 4),
                         table == SLATE_TABLE_MBR ? 0x51DE7E57 : 0);
        s.draft.goal.keep_id = true;
        assert_status(slate_draft_make(&s.draft),
                      table == SLATE_TABLE_MBR ? SLATE_OK : SLATE_ERR_PARTS);
        if (table == SLATE_TABLE_GPT) { /* what it is now, once more */
            assert_ok(session_look(&s, &copy));
            id = s.facts.layout.disk_id;
            begin(SLATE_TABLE_GPT);
            ask(SLATE_SIZE_REST, 0, "KEPT", false);
            s.draft.goal.keep_id = true;
            s.draft.choices.seed[0]++;
            assert_ok(make(&copy));
            assert_ok(session_enact(&s, 65536));
            assert_ok(session_look(&s, &copy));
            assert_memory_equal(id.bytes, s.facts.layout.disk_id.bytes, 16);
        }
        ram_close(&copy);
    }
    ram_close(&ram);
    ram_open(&ram, 512, 4000000, true); /* nothing is there */
    begin(SLATE_TABLE_MBR);
    ask(SLATE_SIZE_REST, 0, "", false);
    s.draft.goal.keep_id = true;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    s.draft.goal.keep_id = false;
    s.draft.goal.keep_code = true;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    assert_status(slate_draft_keep(&s.draft, &s.facts, &s.media, s.work),
                  SLATE_ERR_PARTS);
    ram_close(&ram);
}

static void entries_say_what_was_asked(void **state)
{
    const struct slate_guid type = {{1, 2, 3, 4, 5, 6, 7, 8}};
    struct slate_partition *found;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 4000000, true);
    begin(SLATE_TABLE_GPT);
    ask(SLATE_SIZE_SHARE, 300, "ONE", false);
    ask(SLATE_SIZE_REST, 0, "TWO", false);
    s.draft.part[1].ask.gpt_type = type;
    s.draft.part[1].ask.attributes = SLATE_GPT_REQUIRED | SLATE_GPT_HIDDEN;
    strcpy(s.draft.part[1].ask.name, "Str\xC3\xB6mung");
    assert_ok(make(&ram));
    assert_ok(session_enact(&s, 65536));
    assert_ok(session_look(&s, &ram));
    found = &s.facts.partition[1];
    assert_memory_equal(found->type.bytes, type.bytes, 16);
    assert_int_equal(found->attributes, (uint64_t)1 | (uint64_t)1 << 62);
    assert_string_equal(found->name, "Str\xC3\xB6mung");
    assert_string_equal(s.facts.partition[0].name, "ONE");
    s.draft.part[1].ask.mbr_type = 0x83;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    s.draft.part[1].ask.mbr_type = 0;
    s.draft.part[1].ask.attributes = 2u << 2;
    assert_status(make(&ram), SLATE_ERR_USE);
    begin(SLATE_TABLE_MBR);
    ask(SLATE_SIZE_REST, 0, "ONE", false);
    s.draft.part[0].ask.mbr_type = 0x42;
    assert_ok(make(&ram));
    assert_int_equal(s.draft.table.partition[0].mbr_type, 0x42);
    for (int type_of = 0; type_of < 256; type_of++) {
        bool container = type_of == 0x05 || type_of == 0x0F || type_of == 0x85;

        s.draft.part[0].ask.mbr_type = (uint8_t)type_of;
        assert_status(slate_draft_make(&s.draft), container || type_of == 0xEE
                                                      ? SLATE_ERR_PARTS
                                                      : SLATE_OK);
    }
    s.draft.part[0].ask.mbr_type = 0;
    strcpy(s.draft.part[0].ask.name, "x");
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_PARTS);
    ram_close(&ram);
}

/* A table without partitions is what it is. */
static void an_empty_table_can_be_wanted(void **state)
{
    struct ram ram;

    (void)state;
    for (int table = SLATE_TABLE_MBR; table <= SLATE_TABLE_GPT; table++) {
        ram_open(&ram, 512, 100000, true);
        begin((enum slate_table_kind)table);
        assert_ok(make(&ram));
        assert_ok(session_enact(&s, sizeof s.work));
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.layout.kind, table);
        assert_int_equal(s.facts.layout.found, 0);
        ram_close(&ram);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(random_layouts_read_back),
        cmocka_unit_test(the_chain_is_as_hosts_follow_it),
        cmocka_unit_test(sizes_and_shares_are_as_asked),
        cmocka_unit_test(what_cannot_be_laid_out_is_refused),
        cmocka_unit_test(entries_are_as_many_as_asked),
        cmocka_unit_test(code_and_identifier_stay_when_asked),
        cmocka_unit_test(entries_say_what_was_asked),
        cmocka_unit_test(an_empty_table_can_be_wanted),
    };

    return cmocka_run_group_tests_name("layouts", tests, NULL, NULL);
}
