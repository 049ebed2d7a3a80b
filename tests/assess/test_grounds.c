/* SPDX-License-Identifier: MIT */
/* A diagnosis has grounds: families of devices, made from the published
 * formats, with what must be found on them, exactly, and their near misses. */
#include <stdio.h>

#include "diagnose.h"

/* A volume without a table that names it, wherever partitions begin. */
static void a_volume_behind_an_erased_start_is_found(void **state)
{
    static const uint64_t places[] = {63,    2048,   8192,   16384,  32768,
                                      65536, 131072, 206848, 264192, 1026048};

    (void)state;
    for (int kind = 0; kind < KINDS; kind++) {
        for (size_t i = 0; i < sizeof places / sizeof places[0]; i++) {
            struct ram ram;
            char name[64];

            ram_open(&ram, 512, ALL, true);
            put(&ram, (enum kind)kind, places[i], 2000000);
            snprintf(name, sizeof name, "kind %d at %llu", kind,
                     (unsigned long long)places[i]);
            expect_findings(&ram, name, "start-erased");
            assert_true(s.facts.sample.volumes > 0);
            assert_int_equal(s.facts.sample.volume_lba, places[i]);
            assert_true(loses_content(SLATE_FINDING_START_ERASED));
            assert_false(s.facts.blank);
            ram_close(&ram);
        }
    }
}

static void fill(struct ram *ram, uint64_t from, uint64_t to, uint8_t byte)
{
    static uint8_t page[65536];

    memset(page, byte, sizeof page);
    for (uint64_t at = from; at < to; at += sizeof page)
        ram_put(ram, at, page,
                to - at < sizeof page ? (size_t)(to - at) : sizeof page);
}

/* Blank is one byte in every place, and says how many these are; data anywhere
 * that is looked at is none. */
static void blank_has_grounds(void **state)
{
    static const uint8_t bytes[] = {0x00, 0xFF, 0xA5, 0x01};
    char words[512];
    struct slate_text text;
    struct ram ram;

    (void)state;
    for (size_t i = 0; i < sizeof bytes; i++) {
        ram_open(&ram, i % 2 == 0 ? 512 : 4096, 4096, true);
        fill(&ram, 0, ram.facts.block_count * ram.facts.block_bytes, bytes[i]);
        expect_findings(&ram, "one byte", "blank");
        assert_false(loses_content(SLATE_FINDING_BLANK));
        assert_int_equal(s.facts.sample.byte, bytes[i]);
        ram_close(&ram);
    }
    ram_open(&ram, 512, ALL, true); /* erased flash behind a start of zeros */
    fill(&ram, 1048576, 67108864, 0xFF);
    expect_findings(&ram, "zeros, then ones", "blank");
    assert_true(s.facts.sample.places > 90);
    slate_text_start(&text, words, sizeof words);
    slate_finding_words(&s.facts,
                        &(struct slate_finding){.id = SLATE_FINDING_BLANK},
                        SLATE_FINDING_EVIDENCE, &text);
    assert_non_null(strstr(words, "what lies between was not read"));
    ram_close(&ram);
    for (uint64_t at = 1; at < 64; at *= 2) { /* noise at powers of two */
        ram_open(&ram, 512, ALL, true);
        craft_noise(&ram, at * 33554432, 8192);
        expect_findings(&ram, "noise", at < 64 ? "start-erased" : "blank");
        assert_true(loses_content(SLATE_FINDING_START_ERASED));
        ram_close(&ram);
    }
    ram_open(&ram, 512, ALL, true); /* the start, and nothing that is known */
    craft_text(&ram, 0, "a format of its own");
    expect_findings(&ram, "unknown", "unknown-content");
    assert_true(loses_content(SLATE_FINDING_UNKNOWN_CONTENT));
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true); /* a table without entries, data behind */
    craft_le(&ram, 510, 0xAA55, 2);
    put(&ram, EXT4, 2048, 2000000);
    expect_findings(&ram, "deleted", "start-erased +empty-table");
    assert_true(loses_content(SLATE_FINDING_EMPTY_TABLE));
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true); /* near miss: nothing behind it */
    craft_le(&ram, 510, 0xAA55, 2);
    expect_findings(&ram, "empty", "empty-table");
    assert_false(loses_content(SLATE_FINDING_EMPTY_TABLE));
    ram_close(&ram);
}

/* The first blocks of a volume are gone, its copy of them is not. */
static void a_lost_first_block_is_told_with_its_copy(void **state)
{
    static const struct {
        enum kind kind;
        enum slate_volume_kind lost;
        uint64_t erased, copy; /* bytes; of the volume, 0: its last block */
    } rows[] = {
        {FAT32, SLATE_VOLUME_FAT32, 512, 6 * 512},
        {FAT32, SLATE_VOLUME_FAT32, 1024, 6 * 512},
        {EXFAT, SLATE_VOLUME_EXFAT, 512, 12 * 512},
        {NTFS, SLATE_VOLUME_NTFS, 512, 0},
        {NTFS, SLATE_VOLUME_NTFS, 131072, 0},
        {EXT4, SLATE_VOLUME_EXT4, 4096, 32768 * 4096ull},
        {EXT4, SLATE_VOLUME_EXT4, 65536, 32768 * 4096ull},
    };

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        for (int way = 0; way < 4; way++) {
            uint64_t count = ALL - MIB - 34;
            struct ram ram;

            open_with_table(&ram, way % 2 == 1, rows[i].kind, MIB, count);
            put(&ram, rows[i].kind, MIB, count);
            if (way < 2)
                craft_erase(&ram, MIB * 512ull, (size_t)rows[i].erased);
            else
                craft_noise(&ram, MIB * 512ull, (size_t)rows[i].erased);
            look(&ram);
            assert_int_equal(volume[0].lost, rows[i].lost);
            assert_int_equal(volume[0].copy_lba,
                             rows[i].copy == 0 ? MIB + count - 1
                                               : MIB + rows[i].copy / 512);
            expect_findings(&ram, "lost", "no-volume");
            assert_int_equal(slate_facts_shown_bytes(&s.facts), 0);
            ram_close(&ram);
        }
    }
}

/* A partition that holds nothing is told, but for types that never do. */
static void a_partition_without_a_volume_is_told(void **state)
{
    static const uint8_t types[] = {0x01, 0x06, 0x0B, 0x0C, 0x07,
                                    0x83, 0x82, 0xAF, 0xEF};
    static const struct slate_guid
        start_up = {{0x48, 0x61, 0x68, 0x21, 0x49, 0x64, 0x6F, 0x6E, 0x74, 0x4E,
                     0x65, 0x65, 0x64, 0x45, 0x46, 0x49}},
        reserved = {{0x16, 0xE3, 0xC9, 0xE3, 0x5C, 0x0B, 0xB8, 0x4D, 0x81, 0x7D,
                     0xF9, 0x2D, 0xF0, 0x02, 0x15, 0xAE}};
    struct craft_gpt bare = {
        .partition = {{MIB, MIB, 0, &start_up, 0},
                      {2 * MIB, 16 * MIB, 0, &reserved, 0},
                      {18 * MIB, ALL - 18 * MIB - 34, 0, NULL, 0}}};
    struct ram ram;

    (void)state;
    for (size_t i = 0; i < sizeof types; i++) {
        ram_open(&ram, 512, ALL, true);
        ram_put_entry(&ram, 0, types[i], false, MIB, ALL - MIB);
        expect_findings(&ram, "zeros", "no-volume");
        craft_text(&ram, MIB * 512, "something else");
        expect_findings(&ram, "content", "no-volume");
        ram_close(&ram);
    }
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &bare);
    put(&ram, NTFS, 18 * MIB, ALL - 18 * MIB - 34);
    expect_findings(&ram, "never a volume", "healthy");
    ram_close(&ram);
    ram_open(&ram, 512, ALL, true);
    ram_put_entry(&ram, 0, 0x0C, false, MIB, ALL / 2);
    ram_put_entry(&ram, 1, 0xDA, false, ALL / 2 + MIB, ALL / 2 - MIB);
    put(&ram, FAT32, MIB, ALL / 2);
    expect_findings(&ram, "of a program", "healthy");
    ram_close(&ram);
}

static void no_number_of_partitions_is_too_large(void **state)
{
    static const uint32_t counts[] = {33, 48, 128, 200, 1000};

    (void)state;
    for (size_t i = 0; i < sizeof counts / sizeof counts[0]; i++) {
        uint64_t blocks = MIB + counts[i] * 8192ull + 300;
        struct ram ram;

        ram_open(&ram, 512, blocks, true);
        put_many(&ram, counts[i], counts[i] <= 128 ? 128 : 1024);
        for (uint32_t j = 0; j < counts[i] && j < 64; j++)
            craft_fat(&ram, MIB + j * 8192ull, 8192, 12);
        look(&ram);
        assert_int_equal(s.facts.layout.kind, SLATE_TABLE_GPT);
        assert_int_equal(s.facts.layout.count, counts[i]);
        assert_int_equal(s.facts.layout.found, counts[i]);
        assert_int_equal(volume[0].kind, SLATE_VOLUME_FAT12);
        assert_int_equal(volume[counts[i] - 1].kind, SLATE_VOLUME_UNREAD);
        assert_true(s.facts.cut_short);
        assert_true(slate_facts_unreached_bytes(&s.facts) == 0);
        assert_true(slate_facts_shown_bytes(&s.facts) >=
                    (counts[i] - 33) * 4194304ull);
        expect_findings(&ram, "many", "cut-short");
        /* with less room for the list the same is read */
        assert_ok(slate_media_open(&s.media, &ram.port));
        {
            struct slate_seen seen[SLATE_EVIDENCE_RANGES];
            uint32_t read = s.facts.evidence.count;

            memcpy(seen, s.facts.evidence.seen, read * sizeof seen[0]);
            assert_ok(session_look(&s, &ram));
            assert_int_equal(s.facts.evidence.count, read);
            assert_memory_equal(seen, s.facts.evidence.seen,
                                read * sizeof seen[0]);
            assert_int_equal(s.facts.layout.count, SLATE_FACTS_PARTITIONS);
            assert_int_equal(s.facts.layout.found, counts[i]);
        }
        /* a glance keeps to its own limit */
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(session_assess(&s, SLATE_DEPTH_GLANCE));
        assert_int_equal(s.facts.layout.kind, SLATE_TABLE_GPT);
        assert_true(s.media.traffic.commands <= 64);
        assert_true(s.media.traffic.blocks_read * 512 <= 65536);
        ram_close(&ram);
    }
}

static void a_hundred_logical_partitions_are_counted(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 100 * 16384 + MIB, true);
    ram_put_entry(&ram, 0, 0x0F, false, MIB, 100 * 16384);
    for (uint32_t i = 0; i < 100; i++)
        craft_link(&ram, MIB + i * 16384, 0x83, 63, 16384 - 63,
                   i == 99 ? 0 : (i + 1) * 16384);
    look(&ram);
    assert_int_equal(s.facts.layout.found, 101);
    assert_int_equal(s.facts.layout.count, 101);
    assert_int_equal(s.facts.layout.chain, SLATE_CHAIN_WHOLE);
    assert_int_equal(slate_facts_unreached_bytes(&s.facts), 0);
    ram_close(&ram);
}

/* A device that answers only at the third try, and one with damaged arrays:
 * what a look may take is kept, and what was not read is said. */
static enum slate_status third_try(void *context, uint64_t lba, uint32_t count,
                                   void *data)
{
    struct ram *ram = context;

    if (++ram->flushes % 3 != 0)
        return SLATE_ERR_READ;
    ram_get(ram, lba * 512, data, (size_t)count * 512);
    return SLATE_OK;
}

static void make_reads_tiring(struct ram *ram)
{
    static struct slate_port_ops ops;

    ops = *ram->port.ops;
    ops.read = third_try;
    ram->port.ops = &ops;
}

static void the_budget_is_kept_by_whoever_reads(void **state)
{
    struct ram ram;

    (void)state;
    for (int damaged = 0; damaged < 2; damaged++) {
        ram_open(&ram, 512, 9000000, true);
        put_many(&ram, 1000, 1024);
        if (damaged == 1) {
            craft_flip(&ram, 1024 + 100);
            craft_flip(&ram, (9000000 - 257) * 512ull + 100);
        }
        make_reads_tiring(&ram);
        look(&ram);
        assert_true(s.facts.cut_short);
        ram_close(&ram);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_volume_behind_an_erased_start_is_found),
        cmocka_unit_test(blank_has_grounds),
        cmocka_unit_test(a_lost_first_block_is_told_with_its_copy),
        cmocka_unit_test(a_partition_without_a_volume_is_told),
        cmocka_unit_test(no_number_of_partitions_is_too_large),
        cmocka_unit_test(a_hundred_logical_partitions_are_counted),
        cmocka_unit_test(the_budget_is_kept_by_whoever_reads),
    };

    return cmocka_run_group_tests_name("grounds", tests, NULL, told);
}
