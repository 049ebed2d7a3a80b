/* SPDX-License-Identifier: MIT */
/* Files that people give: read to the end or refused, whatever they are; and
 * commands that are interrupted before anything has begun. */
#include <stdio.h>
#include <stdlib.h>

#include "tool_case.h"

/* What may be given in place of a file. */
static const struct {
    const char *name, *made_by, *words;
} files[] = {
    {"utf16",
     "printf '\\377\\376' >utf16; printf '8\\0001\\0002\\000\\n\\000' >>utf16",
     "plain text in UTF-8"},
    {"utf16be", "printf '\\376\\377\\0008\\0001\\0002\\000\\n' >utf16be",
     "plain text in UTF-8"},
    {"zeros", "printf '812\\000\\000\\n' >zeros", "plain text in UTF-8"},
    {"latin", "printf '812 # Ol\\345\\n' >latin", "plain text in UTF-8"},
    {"cut", "printf '812 # Ol\\303' >cut", "plain text in UTF-8"},
    {"folder", "mkdir folder", "this is a folder"},
    {"pipe", "mkfifo pipe", "expected a regular file"},
    {"endless", "ln -s /dev/zero endless", "expected a regular file"},
    {"failing", "ln -s /proc/self/mem failing", "Input/output error"},
    {"large", "truncate -s 3G large", ""},
    {"none", "true", "No such file"},
};

#define FILES (sizeof files / sizeof files[0])

/* Where files are given; bytes: it need not be text. */
static const struct {
    const char *before, *after;
    bool bytes;
} uses[] = {
    {"draft file:card.img --bad-list ", "", false},
    {"lowlevel sim:winch-disk-2 --drive drum-20 --sticker ", "", false},
    {"draft file:card.img --table none --volume fat16 --start-code ", "", true},
    {"enact ", " --consent NAFAN-45", false},
    {"prove ", "", false},
    {"rewind ", " file:card.img", true},
    {"evidence ", "", true},
};

#define USES (sizeof uses / sizeof uses[0])

static int make_files(void **state)
{
    char line[300];

    if (fresh_bench(state) != 0)
        return 1;
    sh("cd $FOLDER && truncate -s 64M card.img", 0);
    for (size_t i = 0; i < FILES; i++) {
        snprintf(line, sizeof line, "cd $FOLDER && %s", files[i].made_by);
        sh(line, 0);
    }
    return 0;
}

/* Each in each place: an error of one line, an exit code of ours, and no time
 * or memory to speak of. */
static void what_is_no_such_file_is_refused(void **state)
{
    static struct program run;
    char line[400];
    int wrong = 0;

    (void)state;
    for (size_t i = 0; i < USES * FILES; i++) {
        size_t file = i % FILES, use = i / FILES;
        bool tells =
            !uses[use].bytes || strstr(files[file].words, "text") == NULL;

        snprintf(line, sizeof line,
                 "cd $FOLDER && timeout 20 $TOOL %s%s%s 2>&1 >said | tee err; "
                 "code=${PIPESTATUS[0]}; test $code -gt 1 -a $code -lt 8 -a "
                 "$(wc -l <err) = 1",
                 uses[use].before, files[file].name, uses[use].after);
        (void)shell_run(&run, line);
        if (run.code != 0 || (tells && strcmp(files[file].name, "none") != 0 &&
                              strstr(run.out, files[file].words) == NULL)) {
            print_message("%s\n%s%s\n", line, run.out, run.err);
            wrong++;
        }
    }
    assert_int_equal(wrong, 0);
}

/* Near misses: a mark ahead of it, other ends of lines, no end of the last. */
static void what_is_one_is_taken(void **state)
{
    (void)state;
    sh("cd $FOLDER && printf '\\357\\273\\277# Bj\\303\\266rn\\r\\n2100 "
       "2101\\r\\n2200-2203' >good && $TOOL draft file:card.img --bad-list "
       "good "
       "--json | tr -d ' \\n' >out && grep -q "
       "'\"bad\":\\[\\[2100,2\\],\\[2200,4\\]\\]' out",
       0);
    sh("cd $FOLDER && : >empty && $TOOL draft file:card.img --bad-list empty",
       0);
}

/* Ctrl-C at the prompt, where nothing has begun: as any other interruption. */
static void an_interruption_ahead_of_all_work(void **state)
{
    static const char *const lines[] = {
        "renew file:$/card.img",
        "overwrite file:$/card.img",
        "probe file:$/card.img --full",
    };
    static struct program run = {
        .at_terminal = true, .input = "\003", .type_after = "To agree"};

    (void)state;
    for (size_t i = 0; i < sizeof lines / sizeof lines[0]; i++) {
        (void)tool_run(&run, lines[i]);
        if (run.code != 6 || strstr(run.out, "interrupted") == NULL)
            print_message("%s\n%d\n%s\n", lines[i], run.code, run.out);
        assert_int_equal(run.code, 6);
        assert_non_null(strstr(run.out, "interrupted"));
    }
    sh("cd $FOLDER && cmp -n 1000000 card.img /dev/zero", 0);
}

/* With --json a program is told why there is no report, whatever the verb. */
static void programs_are_told_why(void **state)
{
    char verb[16], line[100];
    uint32_t seen = 0;
    static struct program help;

    (void)state;
    assert_int_equal(tool_run(&help, "--help"), 0);
    for (const char *at = strchr(help.out, '\n'); at != NULL;
         at = strchr(at + 1, '\n')) {
        if (sscanf(at, "\n  %15[a-z]", verb) != 1 || at[3] == ' ')
            continue;
        snprintf(line, sizeof line, "%s sim:nothing --json --bench $/none",
                 verb);
        if (tool_run(&p, line) == 0 || strstr(p.out, "\"shape\"") == NULL)
            fail_msg("%s: %d %s%s", line, p.code, p.out, p.err);
        seen++;
    }
    assert_true(seen > 20);
    expect("renew sim:nothing --json", 4, "there is no such device");
    expect_text("shape", "trueslate.error/1");
    assert_int_equal(number("exit_code"), 4);
}

/* A shape of the tool's has a schema. */
static void every_shape_has_a_schema(void **state)
{
    (void)state;
    sh("cd $SOURCE && for shape in $(grep -rhoE '\"trueslate\\.[a-z-]+/[0-9]+' "
       "tool | sed 's/.*\\.//' | sort -u); do name=${shape%/*}; case $name in "
       "capacity|resume) continue;; esac; grep -q \"trueslate.$shape\\\"\" "
       "docs/json/$name.schema.json || { echo $shape >&2; exit 1; }; done",
       0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_no_such_file_is_refused),
        cmocka_unit_test(what_is_one_is_taken),
        cmocka_unit_test(an_interruption_ahead_of_all_work),
        cmocka_unit_test(programs_are_told_why),
        cmocka_unit_test(every_shape_has_a_schema),
    };

    return cmocka_run_group_tests_name("given", tests, make_files, clean);
}
