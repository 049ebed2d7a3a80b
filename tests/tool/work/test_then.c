/* SPDX-License-Identifier: MIT */
/* What becomes of a device when all is done. */
#include <stdio.h>

#include "tool_case.h"

static void then(const char *name, const char *how, int code, const char *words)
{
    char line[300];

    snprintf(line, sizeof line, "scan sim:%s %s", name, how);
    expect(line, code, words);
}

static bool is_attached(const char *name)
{
    char line[100];

    snprintf(line, sizeof line, "assess sim:%s --json", name);
    return tool_run(&p, line) == 0;
}

static void lay_small(const char *name, const char *more)
{
    char members[200];

    snprintf(members, sizeof members,
             "{\"blocks\": 4096, \"native_blocks\": 0, \"content\": []%s}",
             more);
    lay_device(name, members);
}

static void each_way_to_let_go_is_gone(void **state)
{
    static const struct {
        const char *name, *how, *words;
        int code;
        bool stays;
    } rows[] = {
        {"tide-gauge-8", "--then spin-down", "it has stopped", 0, true},
        {"shore-disk-1", "--then spin-down", "it has stopped", 0, true},
        {"station-nvme-1", "--then spin-down", "no command to stop", 4, true},
        {"logger-card-3", "--then spin-down", "no command to stop", 4, true},
        {"tide-gauge-8", "--then eject", "it can be unplugged", 0, true},
        {"tide-gauge-8", "--then offline", "shows it no more", 0, false},
        {"shore-disk-1", "--then offline", "shows it no more", 0, false},
        {"station-nvme-1", "--then offline", "shows it no more", 0, false},
        {"logger-card-3", "--then offline", "shows it no more", 0, false},
        {"tide-gauge-8", "--then power-off", "its power is off", 0, false},
        {"shore-disk-1", "--then power-off", "cannot switch its power", 4,
         true},
    };

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        lay_small(rows[i].name, "");
        then(rows[i].name, rows[i].how, rows[i].code, rows[i].words);
        assert_int_equal(is_attached(rows[i].name), rows[i].stays);
    }
    then("tide-gauge-8", "--then away", 2, "spin-down, eject, offline");
}

/* What did not go well stays where it is, to be looked at. */
static void a_failure_keeps_the_device(void **state)
{
    (void)state;
    lay_small("tide-gauge-8",
              ", \"faults\": [{\"kind\": \"read\", \"first\": 77}]");
    then("tide-gauge-8", "--then offline", 4, "cannot be read");
    assert_true(is_attached("tide-gauge-8"));
}

/* It runs in either case, and knows how it went. */
static void a_command_of_the_users_is_run(void **state)
{
    (void)state;
    lay_small("tide-gauge-8", "");
    sh_answers("$TOOL scan sim:tide-gauge-8 --then offline --then-run "
               "'echo \"$TRUESLATE_DEVICE went $TRUESLATE_CODE\"'",
               0, "sim:tide-gauge-8 went 0");
    lay_small("tide-gauge-8",
              ", \"faults\": [{\"kind\": \"read\", \"first\": 77}]");
    sh_answers("$TOOL scan sim:tide-gauge-8 --then-run 'echo $TRUESLATE_CODE "
               ">$FOLDER/went' || cat $FOLDER/went",
               0, "4");
    lay_small("tide-gauge-8", "");
    then("tide-gauge-8", "--then-run false", 4, "--then-run failed");
}

/* Nothing was begun, so nothing has ended. */
static void a_refusal_runs_nothing(void **state)
{
    static const char *const lines[] = {
        "scan sim:tide-gauge-8 --writes",
        "scan sim:tide-gauge-8 --from 99999",
        "probe sim:tide-gauge-8",
        "probe sim:tide-gauge-8 --full",
        "renew sim:tide-gauge-8",
        "erase sim:station-nvme-1 --way format-erase"};

    (void)state;
    lay_small("tide-gauge-8", "");
    for (size_t i = 0; i < sizeof lines / sizeof lines[0]; i++) {
        char line[200];

        snprintf(line, sizeof line,
                 "$TOOL %s --then-run 'touch $FOLDER/ran' 2>/dev/null "
                 "</dev/null; test ! -e $FOLDER/ran",
                 lines[i]);
        sh(line, 0);
    }
}

/* Side by side, each by itself. */
static void several_are_let_go(void **state)
{
    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    sh("$TOOL renew sim:tide-gauge-7 sim:tide-gauge-8 --consent "
       "NAFAN-45,NUSER-37 --then offline --then-run 'echo $TRUESLATE_TAG "
       ">>$FOLDER/tags' >/dev/null 2>&1",
       0);
    sh_answers("sort $FOLDER/tags | tr '\\n' ' '", 0, "NAFAN-45 NUSER-37");
    assert_false(is_attached("tide-gauge-7"));
    assert_false(is_attached("tide-gauge-8"));
}

/* A port without the operation, and one that was built before there was one. */
static void a_port_need_not_know_it(void **state)
{
    struct slate_media media;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 2048, true);
    assert_ok(slate_media_open(&media, &ram.port));
    assert_status(slate_media_leave(&media, SLATE_LEAVE_OFFLINE),
                  SLATE_ERR_COMMAND);
    assert_status(slate_media_rest(&media), SLATE_ERR_COMMAND);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_way_to_let_go_is_gone),
        cmocka_unit_test(a_failure_keeps_the_device),
        cmocka_unit_test(a_command_of_the_users_is_run),
        cmocka_unit_test(a_refusal_runs_nothing),
        cmocka_unit_test(several_are_let_go),
        cmocka_unit_test(a_port_need_not_know_it),
    };

    return cmocka_run_group_tests_name("then", tests, fresh_bench, clean);
}
