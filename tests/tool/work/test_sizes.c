/* SPDX-License-Identifier: MIT */
/* Sticks that have less than they claim, in the main job: never renewed to a
 * size that is not there, whatever way they lie; and sound ones are never
 * accused. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "tool_case.h"
#include "turns.h"

#define CLAIMED 524288u

static const char *const beyonds[] = {"wrap", "drop", "zeros", "noise"};
static const unsigned sizes[] = {65536,  65537,  131072, 200003,
                                 262144, 262145, 400000, 520000};

static void lay_liar_of(const char *beyond, unsigned claims, unsigned has)
{
    char members[300];

    snprintf(members, sizeof members,
             "{\"blocks\": %u, \"true_blocks\": %u, \"beyond\": \"%s\", "
             "\"bytes_per_second\": 0, \"content\": [{\"at\": 1048576, "
             "\"text\": \"the tide of the fourth\"}]}",
             claims, has, beyond);
    lay_device("bargain-64", members);
    sh("rm -rf $FOLDER/state", 0);
}

static void lay_liar(const char *beyond, unsigned has)
{
    lay_liar_of(beyond, CLAIMED, has);
}

/* The ways in which many are renewed. */
static const char *const ways[] = {
    "renew sim:bargain-64 --consent %s",
    "renew sim:bargain-64 --table gpt --volume ntfs --consent %s",
    "renew sim:bargain-64 --table none --volume exfat --consent %s",
    "renew sim:bargain-64 sim:logger-card-4 --consent %s"};

static void a_liar_is_named_before_anything_is_written(void **state)
{
    unsigned tried = 0;

    (void)state;
    for (unsigned i = 0; i < 4 * 8 * 4; i++) {
        const char *beyond = beyonds[i % 4];
        unsigned has = sizes[i / 4 % 8];
        char line[200], told[60];

        if (!turn_of(i / 4 + i, 8))
            continue;
        lay_liar(beyond, has);
        assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
        take_tag();
        sh("cp --sparse=always $FOLDER/bench/bargain-64.blocks $FOLDER/before",
           0);
        snprintf(line, sizeof line, ways[i / 32], tag);
        (void)tool_run(&p, line);
        snprintf(told, sizeof told, "claims 268 MB and has %.3g MB",
                 has * 512 / 1e6);
        if (p.code != 5 || strstr(p.err, "its capacity is false") == NULL ||
            strstr(p.err, told) == NULL)
            print_message("%s\n%s, %u: code %d %s\n", line, beyond, has, p.code,
                          p.err);
        assert_int_equal(p.code, 5);
        assert_non_null(strstr(p.err, "its capacity is false"));
        assert_non_null(strstr(p.err, told));
        assert_non_null(strstr(p.err, "--within proved"));
        sh("cmp $FOLDER/bench/bargain-64.blocks $FOLDER/before", 0);
        tried++;
    }
    assert_true(tried >= 12);
}

/* What it has can be used, and is proved. */
static void what_is_there_is_used_on_wish(void **state)
{
    char line[200];

    (void)state;
    lay_liar("drop", 200003);
    assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
    take_tag();
    snprintf(line, sizeof line, "renew sim:bargain-64 --consent %s", tag);
    expect("renew sim:bargain-64", 3, "To agree, add");
    assert_non_null(strstr(p.out, "try far places, and put them back"));
    assert_int_equal(tool_run(&p, line), 5);
    snprintf(line, sizeof line,
             "renew sim:bargain-64 --within proved --consent %s", tag);
    expect(line, 0, "Proved");
    assert_null(strstr(p.out, "try far places"));
    /* nobody is asked where nobody wants to know: then proof is what is left */
    lay_liar("drop", 200003);
    snprintf(line, sizeof line,
             "renew sim:bargain-64 --table gpt --no-probe --consent %s", tag);
    assert_int_equal(tool_run(&p, line), 5);
    assert_non_null(strstr(p.err, "not proved"));
    assert_non_null(strstr(p.err, "to find out what it keeps:\n  trueslate "
                                  "probe "));
    assert_null(strstr(p.err, "to go on"));
}

/* Sound ones, slow ones, cards over SPI, those with a cache. */
static void the_sound_are_not_accused(void **state)
{
    static const char *const names[] = {"tide-gauge-8", "logger-card-3",
                                        "logger-card-4", "stick-slow",
                                        "stick-short"};
    char line[200];

    (void)state;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        lay_device(names[i], "{\"blocks\": 262144, \"bytes_per_second\": 0}");
        snprintf(line, sizeof line, "assess sim:%s --json", names[i]);
        assert_int_equal(tool_run(&p, line), 0);
        take_tag();
        snprintf(line, sizeof line, "renew sim:%s --consent %s", names[i], tag);
        expect(line, 0, "Proved");
        assert_non_null(strstr(p.out, "try far places"));
    }
    /* a worn one keeps what it holds: no word of its size */
    lay_device("logger-worn", "{\"blocks\": 262144, \"bytes_per_second\": 0}");
    assert_int_equal(tool_run(&p, "assess sim:logger-worn --json"), 0);
    take_tag();
    snprintf(line, sizeof line, "renew sim:logger-worn --consent %s", tag);
    expect(line, 5, "is not to be trusted");
    assert_null(strstr(p.err, "claims"));
}

/* So does a draft of its own, and it tells of that as its first step. */
static void a_stored_draft_tries_as_well(void **state)
{
    char line[200];

    (void)state;
    for (unsigned i = 0; i < 4; i++) {
        lay_liar(beyonds[i], sizes[i * 2]);
        expect("draft sim:bargain-64 --label WAVES -o $/d.json --replace", 0,
               "1  try far places, and put them back");
        expect("draft sim:bargain-64 --json", 0, "tried_blocks");
        assert_int_equal(number("result.tried_blocks"), 32768); /* 16 MiB */
        sh("cp --sparse=always $FOLDER/bench/bargain-64.blocks $FOLDER/before",
           0);
        assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
        take_tag();
        snprintf(line, sizeof line, "enact $/d.json --consent %s", tag);
        assert_int_equal(tool_run(&p, line), 5);
        assert_non_null(strstr(p.err, "its capacity is false"));
        sh("cmp $FOLDER/bench/bargain-64.blocks $FOLDER/before", 0);
    }
    expect("draft sim:tide-gauge-8 --no-probe", 0,
           "1  put the unfinished mark");
    expect("draft sim:shore-disk-1", 0, "1  put the unfinished mark");
    expect("draft sim:shore-disk-1 --probe", 0, "1  try far places");
}

/* Where nothing was tried, what starts over at its beginning shows all the
 * same. */
static void starting_over_shows_untried(void **state)
{
    static const char *const wishes[] = {"--table mbr --volume fat32",
                                         "--table none --volume exfat",
                                         "--table mbr --volume ext4"};

    (void)state;
    for (unsigned i = 0; i < 3; i++) {
        char line[200];

        /* its last block is its first one */
        lay_liar_of("wrap", CLAIMED + 1, CLAIMED >> (i + 1));
        assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
        take_tag();
        snprintf(line, sizeof line,
                 "renew sim:bargain-64 %s --no-probe --consent %s", wishes[i],
                 tag);
        assert_int_equal(tool_run(&p, line), 5);
        assert_non_null(strstr(p.err, "other than what was written"));
        assert_non_null(strstr(p.err, "to find out what it keeps:"));
        assert_null(strstr(p.err, "to go on"));
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(a_liar_is_named_before_anything_is_written,
                               fresh_bench),
        cmocka_unit_test_setup(what_is_there_is_used_on_wish, fresh_bench),
        cmocka_unit_test_setup(the_sound_are_not_accused, fresh_bench),
        cmocka_unit_test_setup(a_stored_draft_tries_as_well, fresh_bench),
        cmocka_unit_test_setup(starting_over_shows_untried, fresh_bench),
    };

    return cmocka_run_group_tests_name("sizes", tests, NULL, clean);
}
