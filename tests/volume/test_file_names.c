/* SPDX-License-Identifier: MIT */
/* Names of files and folders that are placed: short ones on FAT (specification
 * 1.03, 6.1 and 7), those that cannot stand on a volume, and start-up code. */
#include <stdio.h>

#include "placed.h"

#define MIB UINT64_C(1048576)

static struct session s;
static struct placed placed;
static struct tree tree;

static void begin(enum slate_volume_kind volume)
{
    struct wanted goal = {
        .volume = volume, .table_given = true, .table = SLATE_TABLE_NONE};

    session_want(&s, &goal);
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry =
        (struct slate_geometry){64 * MIB / 512, 512, 512, 0};
    placed_begin(&placed, &s.draft);
}

/* Worked out by hand. NULL: that is all its name. */
static const struct {
    const char *name, *short_name;
    bool is_long;
} short_names[] = {
    {"README.TXT", "README  TXT", false},
    {"NOTES", "NOTES      ", false},
    {"A1$%'-_@.~`!", "A1$%'-_@~`!", false},
    {"(){}^#&.X", "(){}^#& X  ", false},
    {"readme2.txt", "README2 TXT", true},
    {"Config.Sys", "CONFIG  SYS", true},
    {"ninechars.txt", "NINECH~1TXT", true},
    {"ninechart.txt", "NINECH~2TXT", true},
    {"ninechars.text", "NINECH~1TEX", true},
    {"two words", "TWOWOR~1   ", true},
    {"a b.c", "AB~1    C  ", true},
    {"two.stops.tar", "TWOSTO~1TAR", true},
    {"plus+[1].log", "PLUS__~1LOG", true},
    {".profile", "PROFIL~1   ", true},
    {"..both", "_~1     BOT", true},
    {"\xC3\x98l.txt", "_L~1    TXT", true},
    {"\xF0\x9F\x8C\x8A", "_~1        ", true},
    {"SURVEY~1.TXT", "SURVEY~1TXT", false},
    {"survey of may.txt", "SURVEY~2TXT", true},
    {"survey of june.txt", "SURVEY~3TXT", true},
};

#define SHORT_NAMES (sizeof short_names / sizeof short_names[0])

static void short_names_are_as_worked_out(void **state)
{
    (void)state;
    begin(SLATE_VOLUME_FAT16);
    for (size_t i = 0; i < SHORT_NAMES; i++)
        placed_add(&placed, 0, short_names[i].name, 0);
    assert_ok(slate_draft_make(&s.draft));
    for (size_t i = 0; i < SHORT_NAMES; i++) {
        const struct slate_spot *spot = &placed.files->spot[i + 1];

        if (memcmp(spot->short_name, short_names[i].short_name, 11) != 0)
            fail_msg("%s became %.11s, not %s", short_names[i].name,
                     (const char *)spot->short_name, short_names[i].short_name);
        assert_int_equal(spot->entries > 1, short_names[i].is_long);
    }
}

/* Many that begin alike, beside names that look like numbered ones: no two are
 * alike, as the own reading of the folder asserts. */
static void many_that_begin_alike(void **state)
{
    struct wanted goal = {.volume = SLATE_VOLUME_FAT32, .label = "MANY"};
    struct ram ram;
    uint32_t folder, other;
    char name[64];

    (void)state;
    ram_open(&ram, 512, 40 * MIB / 512, true);
    assert_ok(session_look(&s, &ram));
    session_want(&s, &goal);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    placed_begin(&placed, &s.draft);
    folder = placed_add_folder(&placed, 0, "alike");
    other = placed_add_folder(&placed, 0, "others");
    for (int i = 0; i < 1000; i++) {
        snprintf(name, sizeof name, "logbook of the day %d.txt", i);
        placed_add(&placed, folder, name, 0);
    }
    for (int i = 0; i < 12; i += 2) {
        snprintf(name, sizeof name, "LOGBOO~%d.TXT", i);
        placed_add(&placed, folder, name, 0);
        snprintf(name, sizeof name, "LO~%05d.TXT", i);
        placed_add(&placed, folder, name, 0);
        snprintf(name, sizeof name, "LOGBOOKS~%d.TXT", i);
        placed_add(&placed, folder, name, 0);
        snprintf(name, sizeof name, "L O~%05d.txt", i);
        placed_add(&placed, folder, name, 0);
    }
    for (int i = 0; i < 500; i++) {
        snprintf(name, sizeof name, "%c%c x.txt", 'a' + i % 26, 'a' + i / 26);
        placed_add(&placed, other, name, 0);
        snprintf(name, sizeof name, "x. %d", i);
        placed_add(&placed, other, name, 0);
    }
    placed_digest(&placed);
    assert_ok(slate_draft_make(&s.draft));
    assert_ok(session_enact(&s, sizeof s.work));
    placed_check(&placed, &s.draft, &ram, &tree);
    ram_close(&ram);
}

static char of_255[256], of_256[257];

static const struct {
    const char *name, *why; /* NULL: it can stand there */
} names[] = {
    {"a", NULL},
    {"", "is empty"},
    {"a\x1F", "control character"},
    {"a\x7F", NULL},
    {"a\"b", "one of the characters"},
    {"a*b", "one of the characters"},
    {"a/b", "one of the characters"},
    {"a:b", "one of the characters"},
    {"a<b", "one of the characters"},
    {"a>b", "one of the characters"},
    {"a?b", "one of the characters"},
    {"a\\b", "one of the characters"},
    {"a|b", "one of the characters"},
    {"a+,;=[]b", NULL},
    {"a.", "ends in a space or a stop"},
    {"a ", "ends in a space or a stop"},
    {".", "ends in a space or a stop"},
    {"..", "ends in a space or a stop"},
    {" a", NULL},
    {".a", NULL},
    {"\xFF", "is not UTF-8"},
    {"a\xC3", "is not UTF-8"},
    {"\xED\xA0\x80", "is not UTF-8"},
    {of_255, NULL},
    {of_256, "longer than 255"},
};

static void names_that_cannot_stand_on_a_volume(void **state)
{
    static const enum slate_volume_kind kinds[] = {SLATE_VOLUME_FAT16,
                                                   SLATE_VOLUME_EXFAT};

    (void)state;
    memset(of_255, 'x', 255);
    memset(of_256, 'x', 256);
    for (size_t i = 0; i < 2 * sizeof names / sizeof names[0]; i++) {
        uint32_t folder;

        begin(kinds[i % 2]);
        folder = placed_add_folder(&placed, 0, "SURVEY");
        placed_add(&placed, folder, names[i / 2].name, 1);
        assert_status(slate_draft_make(&s.draft),
                      names[i / 2].why == NULL ? SLATE_OK : SLATE_ERR_NAME);
        if (names[i / 2].why == NULL)
            continue;
        assert_int_equal(s.draft.files.refused, 2);
        assert_non_null(strstr(s.draft.files.why, names[i / 2].why));
    }
}

static const struct {
    const char *a, *b;
    bool alike;
} pairs[] = {
    {"Track", "TRACK", true},
    {"Track", "TRACKS", false},
    {"\xC3\xB8", "\xC3\x98", true}, /* o with a stroke */
    {"\xC3\xB8", "o", false},
    {"\xC3\x9F", "SS", false},
    {"\xCF\x83", "\xCE\xA3", true}, /* sigma */
    {"a", "a.", false},             /* refused for its end */
    {"\xF0\x9F\x8C\x8A", "\xF0\x9F\x8C\x8B", false},
};

/* Two names beside one another that differ in case alone; in two folders they
 * may. */
static void names_that_differ_in_case_alone(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof pairs / sizeof pairs[0]; i++) {
        uint32_t folder;

        if (pairs[i].b[1] == '.')
            continue;
        begin(SLATE_VOLUME_EXFAT);
        placed_add(&placed, 0, pairs[i].a, 1);
        placed_add(&placed, 0, "between", 1);
        placed_add(&placed, 0, pairs[i].b, 1);
        assert_status(slate_draft_make(&s.draft),
                      pairs[i].alike ? SLATE_ERR_NAME : SLATE_OK);
        begin(SLATE_VOLUME_FAT16);
        folder = placed_add_folder(&placed, 0, "FOLDER");
        placed_add(&placed, 0, pairs[i].a, 1);
        placed_add(&placed, folder, pairs[i].b, 1);
        assert_ok(slate_draft_make(&s.draft));
    }
}

/* A boot block that begins with a jump to a place, and code of which each byte
 * tells where it stands. */
static void make_code(uint8_t *code, uint32_t bytes, uint32_t to)
{
    for (uint32_t i = 0; i < bytes; i++)
        code[i] = (uint8_t)(i * 7 + i / 256 + 3);
    code[0] = to < 130 ? 0xEB : 0xE9;
    code[1] = (uint8_t)(to - (to < 130 ? 2 : 3));
    code[2] = to < 130 ? 0x90 : (uint8_t)((to - 3) >> 8);
    code[510] = 0x55;
    code[511] = 0xAA;
}

/* Code from the file, parameters as they are without it. */
static void check_code(enum slate_volume_kind kind, const uint8_t *code,
                       uint32_t from)
{
    uint8_t with[512], without[512];

    session_compose(&s, 0, 1, with);
    begin(kind);
    s.draft.part[0].ask.files = false;
    placed.files->count = 0;
    assert_ok(slate_draft_make(&s.draft));
    session_compose(&s, 0, 1, without);
    assert_memory_equal(with, code, 3);
    assert_memory_equal(with + 3, without + 3, from - 3);
    assert_memory_equal(with + from, code + from, 510 - from);
    assert_memory_equal(with + 510, "\x55\xAA", 2);
}

static enum slate_status try_code(enum slate_volume_kind kind, uint8_t *code,
                                  uint32_t bytes)
{
    begin(kind);
    s.draft.part[0].ask.files = false;
    placed.files->count = 0;
    s.draft.part[0].ask.start = true;
    s.draft.start = (struct slate_bytes){code, bytes, bytes};
    return slate_draft_make(&s.draft);
}

static void start_up_code_is_merged(void **state)
{
    static const struct {
        enum slate_volume_kind kind;
        uint32_t from; /* where the parameters end */
    } kinds[] = {{SLATE_VOLUME_FAT16, 62}, {SLATE_VOLUME_FAT32, 90}};
    static uint8_t code[1536];

    (void)state;
    for (size_t i = 0; i < 2; i++) {
        enum slate_volume_kind kind = kinds[i].kind;

        for (uint32_t to = kinds[i].from; to < 510; to += 56) {
            make_code(code, 512, to);
            assert_ok(try_code(kind, code, 512));
            check_code(kind, code, kinds[i].from);
        }
        make_code(code, 512, kinds[i].from - 1);
        assert_status(try_code(kind, code, 512), SLATE_ERR_START);
        make_code(code, 512, 510);
        assert_status(try_code(kind, code, 512), SLATE_ERR_START);
        make_code(code, 512, kinds[i].from);
        assert_status(try_code(SLATE_VOLUME_EXFAT, code, 512), SLATE_ERR_START);
        assert_status(try_code(kind, code, 511), SLATE_ERR_START);
        code[510] = 0;
        assert_status(try_code(kind, code, 512), SLATE_ERR_START);
    }
}

/* FAT32: the third block as well, and the copies of both; the second one is the
 * volume's own. */
static void start_up_code_of_three_blocks(void **state)
{
    static uint8_t code[1536];
    uint8_t boot[512], copy[512], info[512];

    (void)state;
    make_code(code, sizeof code, 90);
    assert_status(try_code(SLATE_VOLUME_FAT16, code, 1536), SLATE_ERR_START);
    assert_ok(try_code(SLATE_VOLUME_FAT32, code, 1536));
    for (uint64_t block = 0; block < 3; block++) {
        session_compose(&s, block, 1, boot);
        session_compose(&s, block + 6, 1, copy);
        assert_memory_equal(boot, copy, 512);
    }
    assert_memory_equal(boot, code + 1024, 510);
    session_compose(&s, 1, 1, info);
    assert_memory_equal(info, "RRaA", 4);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(short_names_are_as_worked_out),
        cmocka_unit_test(many_that_begin_alike),
        cmocka_unit_test(names_that_cannot_stand_on_a_volume),
        cmocka_unit_test(names_that_differ_in_case_alone),
        cmocka_unit_test(start_up_code_is_merged),
        cmocka_unit_test(start_up_code_of_three_blocks),
    };

    return cmocka_run_group_tests_name("file names", tests, NULL, NULL);
}
