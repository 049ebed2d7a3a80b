/* SPDX-License-Identifier: MIT */
/* Lifts as steps of a draft: found, drafted, refused early, enacted; and what
 * has to be lifted before there can be a draft. */
#include <stdio.h>

#include "check.h"
#include "program.h"
#include "tool_case.h"
#include <trueslate/port_sim.h>

static struct session s;

/* The tag of a device of the bench. */
static const char *tag_of(const char *name)
{
    static char found[16];
    static struct program guards;
    char line[160];

    snprintf(line, sizeof line, "guards sim:%s", name);
    assert_int_equal(tool_run(&guards, line), 0);
    snprintf(found, sizeof found, "%.8s", guards.out);
    return found;
}

static void run(const char *verb, const char *name, const char *more, int code,
                const char *words)
{
    char line[300];

    snprintf(line, sizeof line, "%s sim:%s --consent %s %s", verb, name,
             tag_of(name), more);
    expect(line, code, words);
}

static void drafts_lift_what_stops_writing(void **state)
{
    (void)state;
    expect("draft sim:logger-card-5 -o $/d.json", 0,
           "1  lift temporary-write-protect, for good");
    expect("draft sim:logger-card-5 --json", 0, "lifts");
    check_schema("draft");
    expect_text("result.lifts.0.kind", "temporary-write-protect");
    expect("enact $/d.json --consent HEZES-67", 0,
           "Lifted     temporary-write-protect");
    expect("guards sim:logger-card-5", 0, "nothing protects");
    run("renew", "disk-protected", "--json", 0, "software-write-protect");
    check_schema("renew");
    expect_text("enact.lifted.0", "software-write-protect");
    run("renew", "station-nvme-3", "--lasting", 0, "one exFAT");
    run("renew", "logger-card-9", "", 0, "one FAT16");
    run("renew", "buoy-stick-14", "", 0, "until the power goes");
}

static void drafts_refuse_early_what_they_cannot_lift(void **state)
{
    (void)state;
    expect("draft sim:logger-card-7", 3, "permanent-write-protect: Nothing");
    expect("draft sim:stick-locked", 3, "slide it");
    expect("draft sim:logger-card-11", 3, "slider: Take the card out");
    expect("draft sim:station-nvme-4", 3, "worn-out");
    expect("draft sim:logger-card-8", 3, "--lift card-password");
    expect("draft sim:disk-reserved", 3, "--lift reservation");
    expect("draft sim:disk-reserved --lift reservation", 0,
           "1  lift reservation, for good");
    expect("draft sim:shore-disk-4 --lift hidden-area", 2, "lift it first");
    run("renew", "logger-card-10", "", 3, "cannot be lifted by a command");
    expect("assess sim:logger-card-7 --json", 0, "permanent");
    run("renew", "stick-locked", "", 3, "slide it");
}

/* Capacity and content that a guard conceals come to light first; the consent
 * is for the device, whose tag changes with them. */
static void what_is_concealed_is_lifted_before_the_draft(void **state)
{
    (void)state;
    run("renew", "shore-disk-4", "--lift hidden-area --lasting", 0,
        "hosts show 500 GB");
    expect("guards sim:shore-disk-4", 0, "nothing protects");
    run("renew", "shore-disk-6", "--lift overlay", 0, "hosts show 1 TB");
    run("renew", "logger-card-8", "--lift card-password --password wrong", 3,
        "card-password is not lifted");
    run("renew", "logger-card-8", "--lift card-password --password breakwater",
        0, "one FAT32");
}

static void a_forgotten_password_goes_with_the_content(void **state)
{
    (void)state;
    lay_device("logger-card-8", "{\"blocks\": 262144, \"content\": []}");
    run("guards", "logger-card-8", "--lift card-password --erase", 0,
        "Result     lifted");
    expect("assess sim:logger-card-8", 0,
           "No table, no volume and nothing else was found");
    lay_device("shore-disk-5",
               "{\"guards\": [\"locked\"], \"native_blocks\": 0, \"password\": "
               "\"kelp\", \"blocks\": 262144, \"content\": []}");
    run("guards", "shore-disk-5", "--lift disk-password --erase", 2,
        "not everything");
    run("guards", "shore-disk-5",
        "--lift disk-password --erase --password kelp", 0, "Result     lifted");
    expect("guards sim:shore-disk-5", 0, "nothing protects");
}

/* Removal that another host prevents is told when the device shall go. */
static void a_medium_that_is_held_stays_in(void **state)
{
    (void)state;
    lay_device("tide-gauge-8", "{\"removal_held\": true}");
    expect("eject sim:tide-gauge-8", 4, "prevents its removal");
    lay_device("tide-gauge-8", "{}");
    expect("eject sim:tide-gauge-8", 0, "can be unplugged now");
}

static struct slate_sim *open_stick(const char *members)
{
    char why[SLATE_SIM_WHY_ROOM];
    struct slate_sim *sim;

    lay_device("disk-protected", members);
    assert_ok(slate_sim_open(in_folder("bench"), "disk-protected", &sim, why));
    assert_ok(slate_media_open(&s.media, slate_sim_port(sim)));
    return sim;
}

/* A draft lifts its own guards: one that came later stops it, and nothing is
 * lifted; one that went is no matter. */
static void guards_come_and_go_between_draft_and_deed(void **state)
{
    struct wanted goal = {.label = "LIFT"};
    struct slate_sim *sim = open_stick("{}");
    struct slate_guard guard[SLATE_GUARDS_MAX];
    struct slate_basis *basis = &s.draft.basis;
    uint32_t count;

    (void)state;
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    assert_ok(session_make(&s, &goal));
    assert_int_equal(basis->guards, SLATE_GUARD_BIT(SLATE_GUARD_SOFTWARE));
    assert_int_equal(basis->firm, 0);
    slate_sim_close(sim);
    sim = open_stick("{\"guards\": [\"software\", \"reserved\"]}");
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_PROTECTED);
    assert_ok(slate_guard_find(&s.media, guard, &count));
    assert_int_equal(count, 2);
    slate_sim_close(sim);
    sim = open_stick("{\"guards\": [\"software\"], \"stubborn\": true}");
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_STILL_GUARDED);
    slate_sim_close(sim);
    sim = open_stick("{\"guards\": []}");
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
    slate_sim_close(sim);
    basis->guards = 1u << SLATE_GUARD_KINDS; /* as from a damaged file */
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_ARGUMENT);
    basis->guards = basis->firm = SLATE_GUARD_BIT(SLATE_GUARD_SLIDER);
    assert_int_equal(slate_draft_obstacle(&s.draft), SLATE_GUARD_SLIDER);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(drafts_lift_what_stops_writing, fresh_bench),
        cmocka_unit_test_setup(drafts_refuse_early_what_they_cannot_lift,
                               fresh_bench),
        cmocka_unit_test_setup(what_is_concealed_is_lifted_before_the_draft,
                               fresh_bench),
        cmocka_unit_test(a_forgotten_password_goes_with_the_content),
        cmocka_unit_test(a_medium_that_is_held_stays_in),
        cmocka_unit_test(guards_come_and_go_between_draft_and_deed),
    };

    return cmocka_run_group_tests_name("lifts", tests, NULL, clean);
}
