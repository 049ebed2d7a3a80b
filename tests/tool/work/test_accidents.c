/* SPDX-License-Identifier: MIT */
/* Accidents, with every verb that changes a device: another medium comes into
 * the reader at any command, another image comes under the name at the
 * prompt. Nothing but what was shown is changed, to the byte. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "tool_case.h"
#include "turns.h"
#include "verb_rows.h"

/* Blocks of the other medium that are not as they were; they are again. */
static unsigned changed_blocks(void)
{
    unsigned changed;

    shell_run(&shell,
              "cd $FOLDER && cmp -l bench/" OTHER ".blocks other.blocks | awk "
              "'{ b[int(($1 - 1) / ENVIRON[\"BYTES\"])] = 1 } END { print "
              "length(b) }'; cp "
              "--sparse=always other.blocks bench/" OTHER ".blocks");
    assert_int_equal(sscanf(shell.out, "%u", &changed), 1);
    return changed;
}

/* Without an accident it is done. */
static void each_is_done_where_nothing_happens(void **state)
{
    char line[400];

    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        begin(&rows[i], "");
        fill_in(&rows[i], "sim:" READER, line);
        if (tool_run(&p, line) != 0)
            print_message("%s\ncode %d %s\n", line, p.code, p.err);
        assert_int_equal(p.code, 0);
    }
}

#define CHUNK 4096u /* blocks that are written between two looks, at most */

/* A reader may tell of the swap, or not. What was looked at by then is what was
 * shown; behind the look the other medium is left alone. Where nothing tells of
 * it, what goes out between two looks is lost, and the next one ends it. */
static void another_medium_is_left_alone(void **state)
{
    unsigned swaps = 0, refused = 0;

    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        unsigned all, looked, missed = 0, step;
        char line[400];

        if (!turn_of(i, 7))
            continue;
        fill_in(&rows[i], "sim:" READER, line);
        all = commands_of(&rows[i], line);
        looked = commands_of(&rows[i], "assess sim:" READER);
        assert_true(looked < all && all < 16384);
        step = (all - looked) / (turns_are_all() ? 60 : 8) | 1;
        print_message("  %s: %u of %u commands to look\n", line, looked, all);
        for (unsigned at = looked; at < all; at += step) {
            bool told = at % 4 < 2;
            unsigned changed;
            char swap[120];

            snprintf(swap, sizeof swap,
                     ", \"swap\": {\"at_command\": %u, \"with\": \"" OTHER
                     "\", \"told\": %s}",
                     at, told ? "true" : "false");
            begin(&rows[i], swap);
            (void)tool_run(&p, line);
            swaps++;
            refused += p.code != 0 ? 1u : 0u;
            changed = changed_blocks();
            if (changed == 0)
                continue;
            print_message("  at %u of %u, %s, %u blocks: %s", at, all,
                          told ? "told" : "not told", changed, p.err);
            assert_false(told);
            assert_true(changed <= CHUNK);
            assert_int_not_equal(p.code, 0);
            missed++;
        }
        assert_true(missed <= 3);
    }
    assert_true(swaps > 10 && refused > swaps / 3);
}

/* The cable is in again; the power does not fail any more. */
static void plug_in(void)
{
    json_t *about = json_load_file(in_folder("bench/" READER ".json"), 0, NULL);

    json_object_del(about, "power_cut_at_command");
    json_object_del(about, "torn_write");
    json_object_del(about, "torn_unreadable");
    assert_int_equal(
        json_dump_file(about, in_folder("bench/" READER ".json"), 0), 0);
    json_decref(about);
    sh("rm -f $FOLDER/bench/*.state", 0);
}

/* The command that assess gives for one way or the other, carried out. */
static void take_the_way(const char *words)
{
    char line[700], command[600];
    const char *at = strstr(p.out, words);

    assert_non_null(at);
    assert_int_equal(
        sscanf(strchr(at, '\n'), "\n  trueslate %599[^\n]", command), 1);
    snprintf(line, sizeof line, "%s --consent %s", command, tag);
    if (tool_run(&p, line) != 0)
        print_message("%s\ncode %d %s\n", line, p.code, p.err);
    assert_int_equal(p.code, 0);
}

/* Nothing stands in the way of the same command, whether there is something
 * left for it to do or not; a change in place finds its own work, and proves
 * it. */
static void expect_free(const char *line)
{
    bool in_place = strncmp(line, "mend", 4) == 0 ||
                    strncmp(line, "convert", 7) == 0 ||
                    strncmp(line, "relabel", 7) == 0;

    (void)tool_run(&p, line);
    if (in_place) {
        assert_int_equal(p.code, 0);
        assert_non_null(strstr(p.out, "before it was cut"));
        assert_non_null(strstr(p.out, "Proved"));
        sh("! ls $FOLDER/state/trueslate/*.draft.json 2>/dev/null", 0);
    }
    if (p.code != 0 && p.code != 3 && p.code != 7)
        print_message("%s\ncode %d %s\n", line, p.code, p.err);
    assert_true(p.code == 0 || p.code == 3 || p.code == 7); /* no room left */
    assert_null(strstr(p.err, "half-way"));
}

/* Cut at any command, the device is as it was, or as it shall be, or it is told
 * as unfinished, with both ways out; and no other command begins beside. */
static void a_cut_is_told_and_has_two_ways_out(void **state)
{
    unsigned untouched = 0, told = 0;

    (void)state;
    for (size_t i = 0; i < ROWS && rows[i].keeps; i++) {
        unsigned all, looked, n = 0;
        char line[400];

        fill_in(&rows[i], "sim:" READER, line);
        all = commands_of(&rows[i], line);
        looked = commands_of(&rows[i], "assess sim:" READER);
        for (unsigned at = all; at-- > looked;) {
            /* the last write is lost, half of it stays, or cannot be read */
            static const char *const tears[] = {"", ", \"torn_write\": true",
                                                (", \"torn_write\": true, "
                                                 "\"torn_unreadable\": true")};
            char cut[140];

            if (!turn_of(at, 20))
                continue;
            snprintf(cut, sizeof cut, ", \"power_cut_at_command\": %u%s", at,
                     tears[at / 20 % 3]);
            begin(&rows[i], cut);
            assert_int_not_equal(tool_run(&p, line), 0);
            plug_in();
            assert_int_equal(tool_run(&p, "assess sim:" READER), 0);
            if (strstr(p.out, "To go on with it") == NULL) {
                assert_null(strstr(p.out, "interrupted"));
                if (is_as_before(&rows[i]))
                    untouched++;
                else /* all of it was written, and nobody had looked at it */
                    expect_free(line);
                continue;
            }
            told++;
            assert_non_null(strstr(p.out, "interrupted"));
            if (n++ % 2 == 0) {
                take_the_way("To go on with it");
            } else {
                take_the_way("To put back");
                assert_true(is_as_before(&rows[i]));
            }
            assert_int_equal(tool_run(&p, "assess sim:" READER), 0);
            assert_null(strstr(p.out, "interrupted"));
        }
        print_message("  %s: %u told\n", line, n);
    }
    assert_true(untouched > 0 && told > 2);
}

/* Images: replaced, cut, grown, changed or gone while somebody reads the
 * question. */
static void an_image_that_changes_at_the_prompt_is_left_alone(void **state)
{
    static const char *const lines[] = {
        "renew file:a.img",
        "overwrite file:a.img --with zero",
        "relabel file:a.img --label NEXT --partition 1",
        "convert file:a.img --table gpt",
        "probe file:a.img",
        "probe file:a.img --full",
        "scan file:a.img --writes",
        "renew file:a.img --keep all --part rest"};
    static const char *const accidents[] = {
        "cp base.img other.img; mv other.img a.img", "truncate -s 20M a.img",
        "truncate -s 80M a.img",
        "printf MORE | dd of=a.img bs=1 seek=1048576 conv=notrunc 2>/dev/null",
        "rm a.img"};

    (void)state;
    sh("cd $FOLDER && truncate -s 64M base.img && cp base.img a.img && tag="
       "$($TOOL assess a.img --json | sed -n 's/^  \"tag\": "
       "\"\\(.*\\)\",$/\\1/p') "
       "&& echo $tag >image-tag && $TOOL renew a.img --table mbr --part 20MB "
       "--label WAVES --part 20MB --label TIDES --no-rewind --consent $tag && "
       "cp a.img base.img",
       0);
    for (size_t i = 0; i < sizeof lines / sizeof lines[0]; i++) {
        for (size_t j = 0; j < sizeof accidents / sizeof accidents[0]; j++) {
            if (!turn_of(i + j, 3))
                continue;
            setenv("LINE", lines[i], 1);
            setenv("ACCIDENT", accidents[j], 1);
            /* what the accident makes of it is what is there afterwards */
            shell_run(
                &shell,
                "cd $FOLDER && cp base.img a.img && eval \"$ACCIDENT\"; "
                "rm -f wanted.img; ! test -e a.img || mv a.img wanted.img; "
                "cp base.img a.img; $SOURCE/tests/support/at_prompt "
                "\"$ACCIDENT\" $(cat image-tag) $TOOL $LINE >shown; code=$?; "
                "test $code = 3 -o $code = 4 -o $code = 2 || echo \"code "
                "$code\"; if test -e wanted.img; then cmp a.img wanted.img; "
                "else ! test -e a.img; fi || echo changed; test $(grep -c "
                "'^trueslate: ' shown) = 1 || echo changed lines; tail -n1 "
                "shown");
            if (strstr(shell.out, "code ") != NULL ||
                strstr(shell.out, "changed") != NULL)
                fail_msg("%s, %s: %s", lines[i], accidents[j], shell.out);
        }
    }
}

/* Verbs of which no device in a reader can be had, or that go the way of one
 * that is a row: tray that of renew. */
static const char *const others[] = {"lowlevel", "tray"};

/* A verb that is new has to be among the rows. */
static void every_verb_that_asks_for_consent_is_tried(void **state)
{
    static struct program help;
    char verb[16], line[40];

    (void)state;
    assert_int_equal(tool_run(&p, "--help"), 0);
    for (const char *at = strchr(p.out, '\n'); at != NULL;
         at = strchr(at + 1, '\n')) {
        bool found = false;

        if (sscanf(at, "\n  %15[a-z] ", verb) != 1 || verb[1] == '\0')
            continue;
        snprintf(line, sizeof line, "%s --help", verb);
        if (tool_run(&help, line) != 0 || strstr(help.out, "--consent") == NULL)
            continue;
        for (size_t i = 0; i < ROWS; i++)
            found = found || strcmp(rows[i].verb, verb) == 0;
        for (size_t i = 0; i < sizeof others / sizeof others[0]; i++)
            found = found || strcmp(others[i], verb) == 0;
        if (!found)
            print_message("%s is not tried\n", verb);
        assert_true(found);
    }
}

static int lay_bases_of_4096(void **state)
{
    return lay_bases_of(state, 4096);
}

int main(void)
{
    int failed = 0;
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_is_done_where_nothing_happens),
        cmocka_unit_test(another_medium_is_left_alone),
        cmocka_unit_test(a_cut_is_told_and_has_two_ways_out),
        cmocka_unit_test(an_image_that_changes_at_the_prompt_is_left_alone),
        cmocka_unit_test(every_verb_that_asks_for_consent_is_tried),
    };

    if (turns_are_all() || !turn_of(0, 4))
        failed =
            cmocka_run_group_tests_name("accidents", tests, lay_bases, clean);
    if (failed == 0 && turn_of(0, 4))
        failed = cmocka_run_group_tests_name("accidents, blocks of 4096", tests,
                                             lay_bases_of_4096, clean);
    return failed;
}
