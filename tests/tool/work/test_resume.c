/* SPDX-License-Identifier: MIT */
/* Renewals that were interrupted, by a signal or by the power: told, gone on
 * with, or given up. */
#include <signal.h>

#include "tool_case.h"

/* Interrupts a renewal of the story's stick. */
static void interrupt_renewal(const char *more, int signal_number)
{
    char line[200];

    snprintf(line, sizeof line, "renew %s --label TIDE-7 --consent %s%s", tag,
             tag, more);
    p.interrupt_when = stick_is_marked;
    p.signal = signal_number;
    tool_run(&p, line);
    p.interrupt_when = NULL;
    p.signal = 0;
    assert_int_equal(p.code, 6);
    assert_non_null(strstr(p.err, "interrupted after"));
}

/* Each signal ends long work at a safe point; renew goes on from there, with no
 * other goal than before, or not at all. */
static void an_interrupted_renewal_is_gone_on_with_by_renew(void **state)
{
    static const int signals[] = {SIGHUP, SIGTERM, SIGPIPE, SIGINT};
    char line[200];

    (void)state;
    for (size_t i = 0; i < 4; i++) {
        assert_int_equal(fresh_bench(state), 0);
        interrupt_renewal("", signals[i]);
        if (i > 0)
            continue;
        snprintf(line, sizeof line, "renew %s --label OTHER --consent %s", tag,
                 tag);
        assert_int_equal(tool_run(&p, line), 3);
        assert_non_null(strstr(p.err, "with another goal is unfinished"));
        snprintf(line, sizeof line, "renew %s --consent %s", tag, tag);
        expect(line, 0, "already in place");
        assert_non_null(strstr(p.out, "TIDE-7"));
    }
    sh("mv $(ls -t $FOLDER/state/trueslate/*.draft.json | head -n 1) "
       "$FOLDER/away.json",
       0);
    snprintf(line, sizeof line, "renew %s --consent %s", tag, tag);
    assert_int_equal(tool_run(&p, line), 3);
    assert_non_null(strstr(p.err, "is not kept here"));
    snprintf(line, sizeof line, "draft %s -o $/away.json", tag);
    expect(line, 2, "no earlier draft"); /* the device still needs it */
    snprintf(line, sizeof line, "enact $/away.json --consent %s", tag);
    expect(line, 0, "already in place");
    expect("assess sim:tide-gauge-7", 0, "Nothing is wrong");
}

static void an_unfinished_renewal_can_be_given_up(void **state)
{
    char line[200];

    (void)state;
    interrupt_renewal(" -o $/one.json", SIGINT);
    snprintf(line, sizeof line,
             "renew %s -o $/one.json --consent %s --afresh "
             "--label NEW",
             tag, tag);
    assert_int_equal(tool_run(&p, line), 0);
    expect("assess sim:tide-gauge-7", 0, "\"NEW\"");
}

/* What is wanted of a device, another value than the draft has, and the one
 * that it has (NULL: nothing can be said to that effect). */
static const struct wish {
    const char *name, *other, *same;
} wishes[] = {
    {"for", "camera", "anything"},
    {"table", "gpt", "mbr"},
    {"cylinders", "fit", NULL},
    {"volume", "fat32", "exfat"},
    {"label", "OTHER", "TIDE-7"},
    {"cluster", "65536", "32768"},
    {"part", "4GB", NULL},
    {"keep", "all", NULL},
    {"overwrite", "random", "zero,AA"},
    {"read-back", "none", "all"},
    {"discard", "last", "first"},
    {"empty", "1", NULL},
    {"keep-code", NULL, NULL},
    {"keep-id", NULL, NULL},
    {"entries", "64", NULL},
    {"type", "0B", "07"},
    {"name", "OTHER", NULL},
    {"attributes", "gpt-hidden", NULL},
    {"bare", NULL, NULL},
    {"no-journal", NULL, NULL},
    {"active", NULL, NULL},
    {"logical", NULL, NULL},
    {"files", "$/put", NULL},
    {"files-first", "A.TXT", NULL},
    {"start-code", "$/code", NULL},
    {"bad", "7000000", "5000000"},
    {"bad-list", "$/bad", "$/bad-too"},
    {"within", "8GB", "12GB"},
    {"lift", "password", NULL},
    {"lasting", NULL, NULL},
};

/* Options of a run, which say nothing of what the device shall become. */
static const char of_a_run[] =
    " afresh anyway bench block-size consent erase evidence failed help "
    "journal "
    "json no-probe no-rewind output password probe read-all replace scan "
    "scan-from scan-writes seed then then-run usage way whole-drive ";

static bool is_wish(const char *name)
{
    for (size_t i = 0; i < sizeof wishes / sizeof wishes[0]; i++) {
        if (strcmp(wishes[i].name, name) == 0)
            return true;
    }
    return false;
}

/* An option that is new has to be among the one or the other. */
static void each_option_is_of_a_wish_or_of_a_run(void **state)
{
    char name[32], spaced[40];
    uint32_t seen = 0;

    (void)state;
    expect("renew --help", 0, "Usage");
    for (const char *at = strstr(p.out, " --"); at != NULL;
         at = strstr(at + 3, " --")) {
        if (at[-1] != ' ' && at[-1] != ',')
            continue; /* in a sentence */
        snprintf(name, sizeof name, "%.*s",
                 (int)strspn(at + 3, "abcdefghijklmnopqrstuvwxyz-"), at + 3);
        snprintf(spaced, sizeof spaced, " %s ", name);
        if (!is_wish(name) && strstr(of_a_run, spaced) == NULL)
            fail_msg("--%s is of a wish, or of a run", name);
        seen++;
    }
    assert_true(seen >= sizeof wishes / sizeof wishes[0]);
}

static void say(const char *name, const char *value)
{
    char line[300];

    snprintf(line, sizeof line, "renew %s --%s %s", tag, name,
             value == NULL ? "" : value);
    (void)tool_run(&p, line);
}

/* Whatever is wanted of an unfinished device that its draft does not want is
 * refused; what it wants as well goes on. Nothing is taken and passed over. */
static void no_wish_is_passed_over(void **state)
{
    int wrong = 0;

    (void)state;
    sh("cd $FOLDER && mkdir put && echo a >put/A.TXT && echo 7000000 >bad && "
       "echo 5000000 >bad-too && head -c 510 /dev/zero >code && "
       "printf '\125\252' >>code",
       0);
    interrupt_renewal(" --volume exfat --table mbr --cluster 32768 --type 07 "
                      "--overwrite zero,AA --read-back all --discard first "
                      "--bad 5000000 --within 12GB",
                      SIGINT);
    for (size_t i = 0; i < sizeof wishes / sizeof wishes[0]; i++) {
        say(wishes[i].name, wishes[i].other);
        if ((p.code == 3 && strstr(p.err, "with another goal") == NULL) ||
            (p.code != 2 && p.code != 3) || strstr(p.out, "Goes on") != NULL) {
            print_message("--%s: %d\n%s%s", wishes[i].name, p.code, p.out,
                          p.err);
            wrong++;
        }
        if (wishes[i].same == NULL)
            continue;
        say(wishes[i].name, wishes[i].same);
        if (p.code != 3 || strstr(p.out, "Goes on") == NULL) {
            print_message("--%s: %d\n%s%s", wishes[i].name, p.code, p.out,
                          p.err);
            wrong++;
        }
    }
    assert_int_equal(wrong, 0);
    assert_true(stick_is_marked());
}

/* There is no place for the draft: told before the first write. */
static void no_place_for_the_draft_stops_before_the_first_write(void **state)
{
    char line[200];

    (void)state;
    sh("stat -c '%y %b' $FOLDER/bench/tide-gauge-7.blocks > $FOLDER/before; "
       "rm -rf $FOLDER/state; echo > $FOLDER/state",
       0);
    snprintf(line, sizeof line, "renew %s --consent %s", tag, tag);
    assert_int_equal(tool_run(&p, line), 4);
    assert_non_null(strstr(p.err, "no place to keep the draft"));
    snprintf(line, sizeof line, "probe %s --consent %s", tag, tag);
    expect(line, 4, "no place to keep the probed blocks");
    sh("stat -c '%y %b' $FOLDER/bench/tide-gauge-7.blocks | cmp - "
       "$FOLDER/before && rm $FOLDER/state",
       0);
}

/* Lays a device out, small, whose power goes in a write; and renews it. Was it
 * cut? */
static bool renew_cut_in(const char *device, uint64_t write)
{
    char members[320], line[200];

    snprintf(members, sizeof members,
             "{\"power_cut_in_write\": %llu, \"torn_write\": true, "
             "\"torn_unreadable\": true, \"power_cut_at_command\": 0, "
             "\"bytes_per_second\": 0, \"blocks\": 81920, \"content\": "
             "[{\"at\": 1048576, \"text\": \"TIDE LOG\"}]}",
             (unsigned long long)write);
    lay_device(device, members);
    snprintf(line, sizeof line, "assess sim:%s --json", device);
    expect(line, 0, "\"tag\"");
    take_tag();
    snprintf(line, sizeof line, "renew %s --label CUT --no-probe --consent %s",
             tag, tag);
    if (tool_run(&p, line) == 0)
        return false;
    assert_int_equal(p.code, 4);
    assert_non_null(strstr(p.err, "the draft is kept"));
    return true;
}

/* The last write is block 0's, as the first one is. */
static uint64_t last_write(const char *device)
{
    uint64_t cut = 1, whole = 2;

    while (renew_cut_in(device, whole)) {
        cut = whole;
        whole *= 2;
    }
    while (whole - cut > 1) {
        uint64_t between = (cut + whole) / 2;

        if (renew_cut_in(device, between))
            cut = between;
        else
            whole = between;
    }
    return cut;
}

/* Block 0 was cut as it was written, and cannot be read. */
static void expect_told_and_resumed(const char *device)
{
    char line[200];

    snprintf(line, sizeof line, "assess %s --json", tag);
    expect(line, 0, "");
    expect_text("findings.0.id", "unfinished");
    check_schema("assess");
    snprintf(line, sizeof line, "assess %s", tag);
    expect(line, 0, "Block 0 cannot be read");
    assert_null(strstr(p.out, "key areas"));
    assert_non_null(strstr(p.out, "trueslate renew"));
    snprintf(line, sizeof line, "renew %s --consent %s", tag, tag);
    expect(line, 0, "Goes on");
    snprintf(line, sizeof line, "assess sim:%s", device);
    expect(line, 0, "\"CUT\"");
}

static void a_torn_block_0_that_cannot_be_read_is_resumed(void **state)
{
    static const char *devices[] = {"stick-storm", "logger-card-3",
                                    "station-nvme-1"};

    (void)state;
    for (size_t i = 0; i < 3; i++) {
        assert_true(renew_cut_in(devices[i], 1));
        expect_told_and_resumed(devices[i]);
        assert_true(renew_cut_in(devices[i], last_write(devices[i])));
        expect_told_and_resumed(devices[i]);
    }
}

/* What is kept is of another content: then it is a bad block like any other,
 * and the draft is left alone. */
static void a_draft_for_other_content_is_not_taken(void **state)
{
    char line[200];

    (void)state;
    assert_true(renew_cut_in("stick-storm", 1));
    sh("printf x | dd of=$FOLDER/bench/stick-storm.blocks bs=1 seek=1048580 "
       "conv=notrunc 2>/dev/null",
       0);
    snprintf(line, sizeof line, "assess %s --json", tag);
    expect(line, 0, "");
    expect_text("findings.0.id", "read-errors");
    setenv("TAG", tag, 1);
    sh("$TOOL enact $(ls -t $FOLDER/state/trueslate/$TAG-*.draft.json | head "
       "-n 1) --consent $TAG",
       3);
    assert_non_null(strstr(shell.err, "has changed"));
    snprintf(line, sizeof line, "renew %s --label ANEW --consent %s", tag, tag);
    expect(line, 0, "ANEW");
    assert_null(strstr(p.out, "Goes on"));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(an_interrupted_renewal_is_gone_on_with_by_renew),
        cmocka_unit_test(each_option_is_of_a_wish_or_of_a_run),
        cmocka_unit_test_setup(no_wish_is_passed_over, fresh_bench),
        cmocka_unit_test_setup(an_unfinished_renewal_can_be_given_up,
                               fresh_bench),
        cmocka_unit_test_setup(
            no_place_for_the_draft_stops_before_the_first_write, fresh_bench),
        cmocka_unit_test_setup(a_torn_block_0_that_cannot_be_read_is_resumed,
                               fresh_bench),
        cmocka_unit_test_setup(a_draft_for_other_content_is_not_taken,
                               fresh_bench),
    };

    return cmocka_run_group_tests_name("resume", tests, NULL, clean);
}
