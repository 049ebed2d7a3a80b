/* SPDX-License-Identifier: MIT */
/* Volumes of other kinds, recognised by their signatures: each built here from
 * its specification, and each missed when one byte of the signature is off. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"

static struct session s;

struct patch {
    uint64_t at;
    const char *bytes;
    size_t length;
};

struct volume_row {
    enum slate_volume_kind kind;
    const char *words, *label;
    uint64_t bytes;
    struct patch patch[6]; /* the first one is the signature */
};

#define P(at, text)                                                            \
    {                                                                          \
        at, text, sizeof text - 1                                              \
    }

static const struct volume_row rows[] = {
    {SLATE_VOLUME_EXFAT,
     "exFAT",
     "",
     268435456,
     {P(3, "EXFAT   "), P(72, "\0\0\x08\0\0\0\0\0"), P(108, "\x09\x06")}},
    {SLATE_VOLUME_NTFS,
     "NTFS",
     "",
     268435456,
     {P(3, "NTFS    "), P(11, "\0\x02\x08"), P(40, "\xFF\xFF\x07\0\0\0\0\0")}},
    {SLATE_VOLUME_ENCRYPTED, "encrypted volume", "", 0, {P(3, "-FVE-FS-")}},
    {SLATE_VOLUME_LUKS,
     "LUKS, encrypted",
     "charts",
     0,
     {P(0, "LUKS\xBA\xBE"), P(6, "\0\2"), P(24, "charts")}},
    {SLATE_VOLUME_EXT2,
     "ext2",
     "station",
     104857600,
     {P(1080, "\x53\xEF"), P(1028, "\0\x64\0\0"), P(1048, "\2\0\0\0"),
      P(1144, "station")}},
    {SLATE_VOLUME_EXT3,
     "ext3",
     "",
     26214400,
     {P(1080, "\x53\xEF"), P(1028, "\0\x64\0\0"), P(1116, "\4\0\0\0")}},
    {SLATE_VOLUME_EXT4,
     "ext4",
     "",
     26214400,
     {P(1080, "\x53\xEF"), P(1028, "\0\x64\0\0"), P(1120, "\x40\0\0\0")}},
    {SLATE_VOLUME_XFS,
     "XFS",
     "tides",
     104857600,
     {P(0, "XFSB"), P(4, "\0\0\x10\0"), P(8, "\0\0\0\0\0\0\x64\0"),
      P(108, "tides")}},
    {SLATE_VOLUME_BTRFS,
     "Btrfs",
     "archive",
     104857600,
     {P(65600, "_BHRfS_M"), P(65648, "\0\0\x40\6\0\0\0\0"),
      P(65835, "archive")}},
    {SLATE_VOLUME_F2FS,
     "F2FS",
     "BOJE",
     104857600,
     {P(1024, "\x10\x20\xF5\xF2"), P(1060, "\0\x64\0\0\0\0\0\0"),
      P(1148, "B\0O\0J\0E\0")}},
    {SLATE_VOLUME_SQUASHFS,
     "SquashFS",
     "",
     4096000,
     {P(0, "hsqs"), P(40, "\0\x80\x3E\0\0\0\0\0")}},
    {SLATE_VOLUME_HFS_PLUS,
     "HFS+",
     "",
     104857600,
     {P(1024, "H+\0\4"), P(1064, "\0\0\x10\0"), P(1068, "\0\0\x64\0")}},
    {SLATE_VOLUME_HFS_PLUS, "HFS+", "", 0, {P(1024, "HX\0\5")}},
    {SLATE_VOLUME_APFS,
     "APFS container",
     "",
     104857600,
     {P(32, "NXSB"), P(36, "\0\x10\0\0"), P(40, "\0\x64\0\0\0\0\0\0")}},
    {SLATE_VOLUME_SWAP,
     "Linux swap",
     "swap-1",
     0,
     {P(4086, "SWAPSPACE2"), P(1052, "swap-1")}},
    {SLATE_VOLUME_LVM, "LVM member", "", 0, {P(536, "LVM2 001")}},
    {SLATE_VOLUME_RAID, "RAID member", "", 0, {P(4096, "\xFC\x4E\x2B\xA9")}},
};

static void put_row(struct ram *ram, const struct volume_row *row,
                    uint64_t byte)
{
    for (size_t i = 0; i < 6 && row->patch[i].length > 0; i++)
        ram_put(ram, byte + row->patch[i].at, row->patch[i].bytes,
                row->patch[i].length);
}

static void read_at(const struct ram *ram, uint64_t first, uint64_t count,
                    struct slate_volume *volume)
{
    struct slate_range range = {first, count};

    assert_ok(slate_media_open(&s.media, &ram->port));
    assert_ok(
        slate_volume_read(&s.media, &range, SLATE_DEPTH_FULL, s.work, volume));
}

static void every_kind_is_recognised_in_every_block_size(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        for (uint32_t block = 512; block <= 4096; block *= 2) {
            uint64_t first = 1048576 / block;
            struct slate_volume v;
            struct ram ram;

            ram_open(&ram, block, 33554432 / block, false);
            put_row(&ram, &rows[i], 1048576);
            read_at(&ram, first, 20000000 / block, &v);
            assert_int_equal(v.kind, rows[i].kind);
            assert_string_equal(slate_volume_words(v.kind), rows[i].words);
            assert_string_equal(v.label, rows[i].label);
            assert_int_equal(v.bytes, rows[i].bytes);
            ram_close(&ram);
        }
    }
}

static void a_signature_that_is_off_by_a_bit_is_none(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        for (size_t at = 0; at < rows[i].patch[0].length; at++) {
            uint64_t byte = rows[i].patch[0].at + at;
            struct slate_volume v;
            struct ram ram;
            uint8_t value;

            ram_open(&ram, 512, 65536, false);
            put_row(&ram, &rows[i], 0);
            ram_get(&ram, byte, &value, 1);
            value ^= 0x04;
            ram_put(&ram, byte, &value, 1);
            read_at(&ram, 0, 65536, &v);
            assert_true(v.kind == SLATE_VOLUME_OTHER ||
                        v.kind == SLATE_VOLUME_NONE);
            ram_close(&ram);
        }
    }
}

/* Ranges that end ahead of the signature, or beyond the device. */
static void short_and_wild_ranges_are_read_within_bounds(void **state)
{
    struct slate_volume v;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 136, false); /* ends inside the Btrfs run */
    put_row(&ram, &rows[8], 0);
    read_at(&ram, 0, UINT64_MAX, &v);
    assert_int_equal(v.kind, SLATE_VOLUME_BTRFS);
    read_at(&ram, 0, 128, &v);
    assert_int_equal(v.kind, SLATE_VOLUME_NONE);
    read_at(&ram, 136, 1, &v); /* begins behind the end */
    assert_int_equal(v.kind, SLATE_VOLUME_NONE);
    read_at(&ram, 0, 0, &v);
    assert_int_equal(v.kind, SLATE_VOLUME_NONE);
    ram_close(&ram);
}

/* Absurd figures behind a good signature overflow nothing. */
static void absurd_figures_are_left_out(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_volume v;
        struct ram ram;
        uint8_t wild[8192];

        ram_open(&ram, 512, 65536, false);
        memset(wild, 0xFE, sizeof wild);
        ram_put(&ram, rows[i].patch[0].at / 4096 * 4096, wild, sizeof wild);
        ram_put(&ram, rows[i].patch[0].at, rows[i].patch[0].bytes,
                rows[i].patch[0].length);
        read_at(&ram, 0, 65536, &v);
        assert_true(strlen(v.label) < SLATE_LABEL_ROOM);
        ram_close(&ram);
    }
}

/* Renewing such a volume names it as what is lost, and erases its signature. */
static void renewing_erases_what_identified_them(void **state)
{
    struct wanted goal = {.label = "FRESH"};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_volume v;
        struct ram ram;

        ram_open(&ram, 512, 262144, true);
        ram_put_entry(&ram, 0, 0x83, false, 40000, 200000);
        put_row(&ram, &rows[i], 40000 * 512);
        assert_ok(session_draft(&s, &ram, &goal));
        assert_int_equal(s.facts.volume[0].kind, rows[i].kind);
        assert_true(slate_facts_hold_content(&s.facts));
        assert_ok(session_enact(&s, sizeof s.work));
        read_at(&ram, 40000, 200000, &v);
        assert_int_equal(v.kind, SLATE_VOLUME_NONE);
        ram_close(&ram);
    }
}

/* What is left of an older volume where a younger one leaves it alone. */
static void the_younger_of_two_is_told(void **state)
{
    static const struct {
        enum slate_volume_kind younger, older;
    } pairs[] = {{SLATE_VOLUME_EXT2, SLATE_VOLUME_XFS},
                 {SLATE_VOLUME_EXT2, SLATE_VOLUME_APFS},
                 {SLATE_VOLUME_LUKS, SLATE_VOLUME_EXT2},
                 {SLATE_VOLUME_HFS_PLUS, SLATE_VOLUME_APFS},
                 {SLATE_VOLUME_F2FS, SLATE_VOLUME_XFS},
                 {SLATE_VOLUME_XFS, SLATE_VOLUME_SWAP},
                 {SLATE_VOLUME_XFS, SLATE_VOLUME_BTRFS}};

    (void)state;
    for (size_t i = 0; i < sizeof pairs / sizeof pairs[0]; i++) {
        struct slate_volume v;
        struct ram ram;

        ram_open(&ram, 512, 262144, true);
        for (int older = 1; older >= 0; older--) {
            size_t row = 0;

            while (rows[row].kind !=
                   (older == 1 ? pairs[i].older : pairs[i].younger))
                row++;
            put_row(&ram, &rows[row], 0);
        }
        read_at(&ram, 0, 262144, &v);
        assert_int_equal(v.kind, pairs[i].younger);
        ram_close(&ram);
    }
}

static bool document_has(const char *name, const char *words)
{
    static char text[262144];
    char path[512];
    FILE *file;
    size_t length;

    snprintf(path, sizeof path, "%s/docs/%s", getenv("SOURCE"), name);
    file = fopen(path, "r");
    assert_non_null(file);
    length = fread(text, 1, sizeof text - 1, file);
    fclose(file);
    assert_true(length < sizeof text - 1);
    text[length] = '\0';
    return strstr(text, words) != NULL;
}

/* Whatever is in the list stands in the documents. */
static void every_kind_is_documented(void **state)
{
    const struct slate_format *format;
    char item[64];

    (void)state;
    for (int i = 0; i < SLATE_VOLUME_KINDS; i++) {
        enum slate_volume_kind kind = (enum slate_volume_kind)i;

        if (slate_volume_is_known(kind) &&
            !document_has("volumes.md", slate_volume_words(kind)))
            fail_msg("docs/volumes.md lacks %s", slate_volume_words(kind));
    }
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        snprintf(item, sizeof item, "\n.Sy %s", format->composer.name);
        if (!document_has("trueslate.1", item))
            fail_msg("docs/trueslate.1 lacks %s", format->composer.name);
        snprintf(item, sizeof item, "\"%s\"", format->composer.name);
        if (!document_has("json/draft.schema.json", item))
            fail_msg("the schema of drafts lacks %s", format->composer.name);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_kind_is_recognised_in_every_block_size),
        cmocka_unit_test(a_signature_that_is_off_by_a_bit_is_none),
        cmocka_unit_test(short_and_wild_ranges_are_read_within_bounds),
        cmocka_unit_test(absurd_figures_are_left_out),
        cmocka_unit_test(renewing_erases_what_identified_them),
        cmocka_unit_test(the_younger_of_two_is_told),
        cmocka_unit_test(every_kind_is_documented),
    };

    return cmocka_run_group_tests_name("volumes", tests, NULL, NULL);
}
