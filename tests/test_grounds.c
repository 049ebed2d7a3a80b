/* SPDX-License-Identifier: MIT */
/* A diagnosis has grounds: families of devices, made from the published
 * formats, with what must be found on them, exactly, and their near misses. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "craft.h"
#include "tool_case.h"

#define ALL 4194304u /* 2 GiB of 512-byte blocks */
#define MIB 2048u

static struct session s;
static struct slate_partition partition[1024];
static struct slate_volume volume[1024];
static unsigned cases;

enum kind {
    FAT16,
    FAT32,
    EXFAT,
    NTFS,
    EXT4,
    APFS,
    KINDS
};

static const uint8_t mbr_type[KINDS] = {0x0E, 0x0C, 0x07, 0x07, 0x83, 0xAF};

static void put(struct ram *ram, enum kind kind, uint64_t first, uint64_t count)
{
    switch (kind) {
    case FAT16:
        craft_fat(ram, first, 131072, 16);
        break;
    case FAT32:
        craft_fat32(ram, first, count, "TIDE");
        break;
    case EXFAT:
        craft_exfat(ram, first, count, "Tide");
        break;
    case NTFS:
        craft_ntfs(ram, first, count, "Tide");
        break;
    case EXT4:
        craft_ext4(ram, first, count, "tide");
        break;
    case APFS:
    case KINDS:
    default:
        craft_apfs(ram, first, count, "Tide");
    }
}

static void look(struct ram *ram)
{
    assert_ok(slate_media_open(&s.media, &ram->port));
    assert_ok(slate_assess_look_wide(&s.media, SLATE_DEPTH_FULL, s.work,
                                     sizeof s.work, &s.facts, partition, volume,
                                     1024));
    assert_true(s.media.traffic.commands <= 256);
    assert_true(s.media.traffic.blocks_read * ram->facts.block_bytes <=
                4194304);
    assert_int_equal(ram->writes, 0);
}

/* What must hold of every figure. */
static void check_figures(const struct ram *ram)
{
    uint64_t all = ram->facts.block_count * ram->facts.block_bytes;

    assert_true(slate_facts_shown_bytes(&s.facts) <= all);
    assert_true(slate_facts_unreached_bytes(&s.facts) <= all);
    assert_true(slate_facts_hidden_bytes(&s.facts) <= all);
}

/* Everything that is offered is what a draft takes. */
static void check_remedy(enum slate_finding_id id)
{
    struct slate_choices choices = {.seed = {7}};
    struct slate_remedy remedy;
    struct slate_basis basis;
    struct slate_draft draft;

    slate_finding_remedy(&s.facts, id, &remedy);
    if (remedy.kind != SLATE_REMEDY_RENEW)
        return;
    slate_basis_from(&s.facts, &basis);
    assert_int_equal(
        slate_draft_make(&remedy.goal, &basis, &choices, &draft) == SLATE_OK,
        remedy.feasible == SLATE_OK);
}

static void expect_findings(struct ram *ram, const char *name,
                            const char *expected)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    char found[512] = "";
    uint32_t count;

    look(ram);
    check_figures(ram);
    count = slate_assess_judge(&s.facts, findings);
    for (uint32_t i = 0; i < count; i++) {
        strcat(found, i == 0 ? "" : " ");
        strcat(found, findings[i].consequence ? "+" : "");
        strcat(found, slate_finding_name(findings[i].id));
        check_remedy(findings[i].id);
    }
    if (strcmp(found, expected) != 0)
        print_message("  %s\n", name);
    assert_string_equal(found, expected);
    cases++;
}

static bool loses_content(enum slate_finding_id id)
{
    struct slate_remedy remedy;

    slate_finding_remedy(&s.facts, id, &remedy);
    return remedy.loses_content;
}

/* A volume without a table that names it, wherever partitions begin. */
static void a_volume_behind_an_erased_start_is_found(void **state)
{
    static const uint64_t places[] = {63,     2048,   8192,   16384,
                                      32768,  65536,  131072, 206848,
                                      264192, 1026048};

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
    slate_finding_words(&s.facts, SLATE_FINDING_BLANK, SLATE_FINDING_EVIDENCE,
                        &text);
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

static void open_with_table(struct ram *ram, bool gpt, enum kind kind,
                            uint64_t first, uint64_t count)
{
    struct craft_gpt table = {
        .partition = {
            {first, count, 0, kind == EXT4 ? &craft_linux : NULL, 0}}};

    ram_open(ram, 512, ALL, true);
    if (gpt)
        craft_gpt(ram, &table);
    else
        ram_put_entry(ram, 0, mbr_type[kind], false, (uint32_t)first,
                      (uint32_t)count);
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
    static const struct slate_guid start_up = {
        {0x48, 0x61, 0x68, 0x21, 0x49, 0x64, 0x6F, 0x6E, 0x74, 0x4E, 0x65, 0x65,
         0x64, 0x45, 0x46, 0x49}},
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

/* A GPT of any number of partitions, 4 MiB each, one behind the other. */
static void put_many(struct ram *ram, uint32_t count, uint32_t slots)
{
    uint64_t last = ram->facts.block_count - 1;
    uint32_t array_blocks = slots / 4;
    static uint8_t array[131072];
    uint8_t head[512];

    memset(array, 0, sizeof array);
    for (uint32_t i = 0; i < count; i++) {
        uint8_t *entry = array + (size_t)i * 128;

        memcpy(entry, slate_basic_data.bytes, 16);
        memset(entry + 16, 7, 16);
        entry[16] = (uint8_t)i;
        entry[17] = (uint8_t)(i >> 8);
        for (int b = 0; b < 8; b++) {
            entry[32 + b] = (uint8_t)((MIB + i * 8192ull) >> 8 * b);
            entry[40 + b] = (uint8_t)((MIB + i * 8192ull + 8191) >> 8 * b);
        }
    }
    for (int copy = 0; copy < 2; copy++) {
        uint64_t lba = copy == 0 ? 1 : last, at = copy == 0 ? 2 : last - 256;

        ram_put(ram, at * 512, array, (size_t)slots * 128);
        craft_erase(ram, lba * 512, 512);
        craft_text(ram, lba * 512, "EFI PART");
        craft_le(ram, lba * 512 + 8, 0x00010000, 4);
        craft_le(ram, lba * 512 + 12, 92, 4);
        craft_le(ram, lba * 512 + 24, lba, 8);
        craft_le(ram, lba * 512 + 32, copy == 0 ? last : 1, 8);
        craft_le(ram, lba * 512 + 40, 2 + array_blocks, 8);
        craft_le(ram, lba * 512 + 48, last - 257, 8);
        craft_le(ram, lba * 512 + 72, at, 8);
        craft_le(ram, lba * 512 + 80, slots, 4);
        craft_le(ram, lba * 512 + 84, 128, 4);
        craft_le(ram, lba * 512 + 88,
                 slate_crc32(0, array, (size_t)slots * 128), 4);
        ram_get(ram, lba * 512, head, 92);
        craft_le(ram, lba * 512 + 16, slate_crc32(0, head, 92), 4);
    }
    ram_put_entry(ram, 0, 0xEE, false, 1, (uint32_t)last);
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
            uint8_t digest[SLATE_DIGEST_BYTES];

            memcpy(digest, s.facts.digest, sizeof digest);
            assert_ok(session_look(&s, &ram));
            assert_memory_equal(digest, s.facts.digest, sizeof digest);
            assert_int_equal(s.facts.layout.count, SLATE_FACTS_PARTITIONS);
            assert_int_equal(s.facts.layout.found, counts[i]);
        }
        /* a glance keeps to its own limit */
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(slate_assess_look(&s.media, SLATE_DEPTH_GLANCE, s.work,
                                    sizeof s.work, &s.facts));
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

static void the_budget_is_kept_by_whoever_reads(void **state)
{
    struct slate_port_ops ops;
    struct ram ram;

    (void)state;
    for (int damaged = 0; damaged < 2; damaged++) {
        ram_open(&ram, 512, 9000000, true);
        put_many(&ram, 1000, 1024);
        if (damaged == 1) {
            craft_flip(&ram, 1024 + 100);
            craft_flip(&ram, (9000000 - 257) * 512ull + 100);
        }
        ops = *ram.port.ops;
        ops.read = third_try;
        ram.port.ops = &ops;
        look(&ram);
        assert_true(s.facts.cut_short);
        ram_close(&ram);
    }
}

/* The same volumes where blocks of the other size put them. */
static void another_dock_counts_in_other_blocks(void **state)
{
    static const enum kind kinds[] = {FAT32, NTFS, EXT4, EXFAT};

    (void)state;
    for (size_t i = 0; i < 4; i++) {
        struct ram small, large;

        /* made at 512, seen at 4096 */
        ram_open(&small, 512, ALL, true);
        ram_put_entry(&small, 0, mbr_type[kinds[i]], false, MIB, ALL - MIB);
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
    look(&ram);
    assert_int_equal(slate_assess_judge(&s.facts, (struct slate_finding[SLATE_FINDINGS_MAX]){{0}}) > 0, 1);
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
    struct craft_gpt twice = {
        .partition = {{MIB, ALL - MIB - 34, 0, NULL, 1},
                      {MIB, ALL - MIB - 34, 0, NULL, 2}}};
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, ALL, true);
    craft_gpt(&ram, &alone);
    put(&ram, NTFS, MIB, ALL - MIB - 34);
    expect_findings(&ram, "second alone", "gpt-second-alone +start-erased");
    assert_true(loses_content(SLATE_FINDING_GPT_SECOND_ALONE));
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
    static const uint64_t blocks[] = {65525, 66000,      67000,      68000,
                                      69000, 70000,      72000,      100000,
                                      4294967295, 4294967296, 4294967297};

    (void)state;
    for (size_t i = 0; i < sizeof blocks / sizeof blocks[0]; i++) {
        struct slate_goal goal = {.table_given = true, .table = SLATE_TABLE_MBR};
        struct slate_choices choices = {.seed = {1}};
        struct slate_basis basis;
        struct ram ram;

        ram_open(&ram, 512, blocks[i], true);
        expect_findings(&ram, "border", "blank");
        slate_basis_from(&s.facts, &basis);
        if (slate_draft_make(&goal, &basis, &choices, &s.draft) == SLATE_OK)
            assert_true(s.draft.volume.first + s.draft.volume.blocks <=
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

static int told(void **state)
{
    (void)state;
    print_message("  %u devices\n", cases);
    program_clean();
    return 0;
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
        cmocka_unit_test(another_dock_counts_in_other_blocks),
        cmocka_unit_test(healthy_devices_stay_healthy),
        cmocka_unit_test(causes_are_told_apart),
        cmocka_unit_test(consequences_are_folded),
        cmocka_unit_test(remedies_are_what_drafts_take),
        cmocka_unit_test(the_tool_says_how_many_more_there_are),
    };

    return cmocka_run_group_tests_name("grounds", tests, NULL, told);
}
