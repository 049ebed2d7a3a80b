/* SPDX-License-Identifier: MIT */
/* What is around a device disturbs the work on it, with every verb that
 * changes one: its host mounts it, standard streams are closed or full, what
 * has to be kept has no room, another run is at it. */
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "turns.h"
#include "verb_rows.h"

/* What the host of the bench remembers of a device: 1 mounted, 2 released. */
static unsigned mounted_state(void)
{
    json_t *kept = json_load_file(in_folder("bench/" READER ".state"), 0, NULL);
    unsigned value =
        (unsigned)json_integer_value(json_object_get(kept, "mounted"));

    json_decref(kept);
    return value;
}

/* Hosts mount what they find, at any moment; nobody has agreed to take it from
 * them. Once the device is claimed, they cannot. */
static void what_is_mounted_meanwhile_is_left_alone(void **state)
{
    unsigned refused = 0, done = 0;

    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        unsigned all, step;
        char line[400], members[120];

        if (!turn_of(i, 4))
            continue;
        fill_in(&rows[i], "sim:" READER, line);
        all = commands_of(&rows[i], line);
        step = all / (turns_are_all() ? 80 : 20) | 1;
        for (unsigned at = 1; at < all; at += step) {
            snprintf(members, sizeof members,
                     ", \"mounted\": {\"at\": \"/srv/logger\", "
                     "\"at_command\": %u}",
                     at);
            begin(&rows[i], members);
            (void)tool_run(&p, line);
            assert_int_not_equal(mounted_state(), 2);
            if (p.code == 0) {
                done++;
                continue;
            }
            refused++;
            if (p.code != 4 || !is_as_before(&rows[i]))
                print_message("%s, mounted at %u of %u\ncode %d %s\n", line, at,
                              all, p.code, p.err);
            assert_int_equal(p.code, 4);
            assert_int_equal(mounted_state(), 1);
            assert_true(is_as_before(&rows[i]));
        }
    }
    print_message("  %u refused, %u done\n", refused, done);
    assert_true(refused > 0 && done > 0);
}

/* Mounted when it is shown: released once somebody agrees, everywhere; and
 * where that cannot be, nobody is asked. */
static void what_is_mounted_before_is_released(void **state)
{
    char line[400];

    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        begin(&rows[i], ", \"mounted\": {\"at\": \"/srv/logger\"}");
        fill_in(&rows[i], "sim:" READER, line);
        if (tool_run(&p, line) != 0)
            print_message("%s\ncode %d %s\n", line, p.code, p.err);
        assert_int_equal(p.code, 0);
        assert_int_equal(mounted_state(), 2);
        assert_non_null(strstr(p.out, "/srv/logger"));
        begin(&rows[i], ", \"mounted\": {\"at\": \"/srv/logger\", \"held_by\": "
                        "\"tide-recorder\"}");
        expect(line, 4, "/srv/logger cannot be released: tide-recorder works");
        assert_true(is_as_before(&rows[i]));
        *strstr(line, " --consent") = '\0';
        expect(line, 4, "/srv/logger cannot be released: tide-recorder works");
    }
}

/* A line for a shell that stands in the folder. */
static void from_folder(char *line)
{
    for (char *at; (at = strstr(line, "$/")) != NULL;)
        memmove(at, at + 2, strlen(at + 2) + 1);
}

/* What may be wrong with the streams that a command is given. */
static const char *const streams[] = {
    "<&-",        ">&-",         "2>&-",        "<&- >&- 2>&-",
    ">/dev/full", "2>/dev/full", "| head -c 1", "2>&1 | head -c 1"};

#define STREAMS (sizeof streams / sizeof streams[0])

/* What there is to be seen of the device, in a sentence. */
static void take_sight(char sight[400])
{
    const char *at;

    expect("assess sim:" READER, 0, "");
    at = strstr(p.out, "You see");
    assert_true(at != NULL || strstr(p.out, "Nothing is wrong") != NULL);
    snprintf(sight, 400, "%s", at == NULL ? "nothing wrong" : at);
    if (strstr(sight, "\n  Why") != NULL)
        *strstr(sight, "\n  Why") = '\0';
}

/* Done, or as before, or told as unfinished; and nothing that was meant for a
 * stream stands on the device. */
static void streams_do_not_reach_the_device(void **state)
{
    unsigned done = 0;

    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        char line[400], all[700], wanted[400] = "", sight[400];

        fill_in(&rows[i], "sim:" READER, line);
        for (size_t j = 0; j < STREAMS; j++) {
            int code;

            if (!turn_of(i + j, 4))
                continue;
            if (wanted[0] == '\0') {
                begin(&rows[i], "");
                assert_int_equal(tool_run(&p, line), 0);
                take_sight(wanted);
            }
            begin(&rows[i], "");
            snprintf(all, sizeof all,
                     "cd $FOLDER && bash -o pipefail -c '$TOOL %.*s %s'", 300,
                     line, streams[j]);
            from_folder(all);
            code = shell_run(&shell, all);
            done += code == 0 ? 1u : 0u;
            assert_true(code < 128 || code == 128 + SIGPIPE);
            sh("! grep -qaE 'trueslate|True Slate|consent|Proved|progress' "
               "$FOLDER/bench/" READER ".blocks",
               0);
            if (code == 0 || is_as_before(&rows[i]))
                continue;
            take_sight(sight);
            if (strstr(sight, "interrupted") == NULL &&
                strcmp(sight, wanted) != 0)
                fail_msg("%s\ncode %d: %s\n%s", all, code, shell.err, sight);
        }
    }
    assert_true(done > ROWS);
}

/* No place where something can be kept: what keeps refuses ahead of the first
 * write, all else is done. */
static void what_cannot_be_kept_is_not_begun(void **state)
{
    static const char *const places[] = {
        "/dev/null",              /* no folder */
        "/proc/trueslate",        /* none can be made there */
        "$FOLDER/no/such/folder", /* can be made */
    };
    unsigned refused = 0;

    (void)state;
    for (size_t i = 0; i < ROWS; i++) {
        char line[400], all[700];

        fill_in(&rows[i], "sim:" READER, line);
        from_folder(line);
        for (size_t j = 0; j < sizeof places / sizeof places[0]; j++) {
            int code;

            begin(&rows[i], "");
            snprintf(all, sizeof all,
                     "cd $FOLDER && rm -rf no && XDG_STATE_HOME=%s $TOOL %s",
                     places[j], line);
            code = shell_run(&shell, all);
            if (code != 0 && (j == 2 || !is_as_before(&rows[i])))
                print_message("%s\ncode %d %s\n", all, code, shell.err);
            assert_true(code == 0 || (j != 2 && is_as_before(&rows[i])));
            assert_true(code == 0 || code == 3 || code == 4);
            refused += code != 0 ? 1u : 0u;
        }
    }
    print_message("  %u refused\n", refused);
    assert_true(refused > 0);
}

/* A renewal that stands still while it writes, for as long as others try. */
static pid_t begin_another(void)
{
    const char *tool = getenv("TOOL");
    char bench[300], at[300], one[32];
    pid_t child;

    snprintf(bench, sizeof bench, "%s", in_folder("bench"));
    snprintf(at, sizeof at, "%s", "sim:" READER);
    snprintf(one, sizeof one, "%s", tag);
    child = fork();
    assert_true(child >= 0);
    if (child == 0) {
        if (tool == NULL || freopen("/dev/null", "w", stdout) == NULL ||
            freopen("/dev/null", "w", stderr) == NULL)
            _exit(99);
        execl(tool, "trueslate", "renew", at, "--bench", bench, "--overwrite",
              "zero", "--no-rewind", "--consent", one, (char *)NULL);
        _exit(99);
    }
    return child;
}

static bool is_marked(void)
{
    char start[16] = "";
    FILE *blocks = fopen(in_folder("bench/" READER ".blocks"), "r");
    bool marked = blocks != NULL &&
                  fread(start, 1, sizeof start, blocks) == sizeof start &&
                  memcmp(start, "TRUE SLATE MARK", 15) == 0;

    if (blocks != NULL)
        fclose(blocks);
    return marked;
}

static void two_runs_do_not_meet(void **state)
{
    char line[400];
    int status;
    pid_t other;

    (void)state;
    begin(&rows[0], ", \"bytes_per_second\": 8000000");
    other = begin_another();
    while (!is_marked())
        usleep(20000);
    kill(other, SIGSTOP);
    sh("cd $FOLDER && cp --sparse=always bench/" READER ".blocks held.blocks",
       0);
    for (size_t i = 0; i < ROWS; i++) {
        fill_in(&rows[i], "sim:" READER, line);
        (void)tool_run(&p, line);
        if (p.code != 3 && p.code != 4 && p.code != 7)
            print_message("%s\ncode %d %s\n", line, p.code, p.err);
        assert_true(p.code == 3 || p.code == 4 ||
                    p.code == 7); /* nothing that could be relabelled */
        sh("cmp $FOLDER/bench/" READER ".blocks $FOLDER/held.blocks", 0);
    }
    kill(other, SIGCONT);
    assert_int_equal(waitpid(other, &status, 0), other);
    assert_true(WIFEXITED(status) && WEXITSTATUS(status) == 0);
    expect("assess sim:" READER, 0, "Nothing is wrong");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_mounted_meanwhile_is_left_alone),
        cmocka_unit_test(what_is_mounted_before_is_released),
        cmocka_unit_test(streams_do_not_reach_the_device),
        cmocka_unit_test(what_cannot_be_kept_is_not_begun),
        cmocka_unit_test(two_runs_do_not_meet),
    };

    return cmocka_run_group_tests_name("disturbed", tests, lay_bases, clean);
}
