/* SPDX-License-Identifier: MIT */
/* Guards on the bench: each found, missed where there is none, lifted, kept by
 * a device that refuses or only says so, and after a power cycle. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "program.h"
#include "tool_case.h"
#include <trueslate/port_sim.h>

static struct slate_media media;
static struct slate_sim *sim;
static struct slate_guard found[SLATE_GUARDS_MAX];
static uint32_t count;

static void open_device(const char *name)
{
    char why[SLATE_SIM_WHY_ROOM];

    assert_ok(slate_sim_open(in_folder("bench"), name, &sim, why));
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    assert_ok(slate_guard_find(&media, found, &count));
    enter(&media);
}

static void close_device(void)
{
    slate_sim_close(sim);
    sim = NULL;
}

static enum slate_status write_one(void)
{
    static uint8_t block[SLATE_BLOCK_MAX];

    return slate_media_write(&media, 7, 1, block);
}

struct row {
    const char *name;
    enum slate_guard_kind kind;
    enum slate_lift lift;
    const char *password;
    enum slate_status lifted, written_before;
};

static const struct row rows[] = {
    {"stick-locked", SLATE_GUARD_SWITCH, SLATE_LIFT_BY_HAND, NULL,
     SLATE_ERR_GUARD, SLATE_ERR_PROTECTED},
    {"disk-protected", SLATE_GUARD_SOFTWARE, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_ERR_PROTECTED},
    {"disk-reserved", SLATE_GUARD_RESERVATION, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_ERR_BUSY},
    {"logger-card-5", SLATE_GUARD_TEMPORARY, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_ERR_PROTECTED},
    {"logger-card-7", SLATE_GUARD_PERMANENT, SLATE_LIFT_NEVER, NULL,
     SLATE_ERR_GUARD, SLATE_ERR_PROTECTED},
    {"logger-card-9", SLATE_GUARD_GROUPS, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_ERR_PROTECTED},
    {"logger-card-10", SLATE_GUARD_TEMPORARY, SLATE_LIFT_NOW, NULL,
     SLATE_ERR_GUARD, SLATE_ERR_PROTECTED},
    {"logger-card-11", SLATE_GUARD_SLIDER, SLATE_LIFT_BY_HAND, NULL,
     SLATE_ERR_GUARD, SLATE_ERR_PROTECTED},
    {"logger-card-8", SLATE_GUARD_CARD_PASSWORD, SLATE_LIFT_PASSWORD,
     "breakwater", SLATE_OK, SLATE_ERR_WRITE},
    {"shore-disk-4", SLATE_GUARD_HIDDEN_AREA, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_OK},
    {"shore-disk-6", SLATE_GUARD_OVERLAY, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_OK},
    {"shore-disk-7", SLATE_GUARD_HIDDEN_AREA, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_OK},
    {"buoy-stick-14", SLATE_GUARD_HOST, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_OK},
    {"station-nvme-3", SLATE_GUARD_NAMESPACE, SLATE_LIFT_NOW, NULL, SLATE_OK,
     SLATE_ERR_PROTECTED},
    {"station-nvme-4", SLATE_GUARD_WORN_OUT, SLATE_LIFT_NEVER, NULL,
     SLATE_ERR_GUARD, SLATE_ERR_PROTECTED},
};

static void each_guard_is_found_and_lifted_or_not(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        const struct row *row = &rows[i];

        print_message("  %s\n", row->name);
        open_device(row->name);
        assert_int_equal(count, 1);
        assert_int_equal(found[0].kind, row->kind);
        assert_int_equal(found[0].lift, row->lift);
        assert_status(write_one(), row->written_before);
        assert_status(slate_guard_lift(&media, &found[0], row->password, true),
                      row->lifted);
        if (row->lifted == SLATE_OK)
            assert_ok(write_one());
        close_device();
        open_device(row->name); /* another run, no power cycle */
        assert_int_equal(count, row->lifted == SLATE_OK ? 0 : 1);
        close_device();
    }
}

static void other_devices_have_none(void **state)
{
    static const char *const names[] = {
        "tide-gauge-8", "buoy-stick-12", "logger-card-3", "logger-card-4",
        "shore-disk-1", "shore-disk-3",  "station-nvme-1"};

    (void)state;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        open_device(names[i]);
        assert_int_equal(count, 0);
        close_device();
    }
}

/* What a device says is not taken for what it does. */
static void a_lift_that_does_not_hold_is_told(void **state)
{
    static const struct {
        const char *name, *password;
    } devices[] = {{"disk-protected", NULL}, {"disk-reserved", NULL},
                   {"logger-card-5", NULL},  {"logger-card-8", "breakwater"},
                   {"shore-disk-4", NULL},   {"station-nvme-3", NULL},
                   {"logger-card-9", NULL},  {"shore-disk-6", NULL},
                   {"shore-disk-7", NULL},   {"buoy-stick-14", NULL}};

    (void)state;
    for (size_t i = 0; i < sizeof devices / sizeof devices[0]; i++) {
        lay_device(devices[i].name, "{\"stubborn\": true}");
        open_device(devices[i].name);
        assert_int_equal(count, 1);
        assert_status(
            slate_guard_lift(&media, &found[0], devices[i].password, true),
            SLATE_ERR_STILL_GUARDED);
        close_device();
    }
}

/* Neither is lifted what the device does not want to lift. */
static void a_refused_lift_is_told(void **state)
{
    static const char *const names[] = {
        "disk-protected", "disk-reserved", "logger-card-5",
        "logger-card-8",  "logger-card-9", "shore-disk-4",
        "shore-disk-6",   "shore-disk-7",  "station-nvme-3"};

    (void)state;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        enum slate_status status;

        lay_device(names[i], "{\"refuses_lifts\": true}");
        open_device(names[i]);
        assert_int_equal(count, 1);
        status = slate_guard_lift(&media, &found[0], "breakwater", true);
        if (found[0].kind == SLATE_GUARD_GROUPS) /* told by no answer */
            assert_status(status, SLATE_ERR_STILL_GUARDED);
        else
            assert_status(status, SLATE_ERR_GUARD);
        close_device();
    }
}

static void passwords_are_checked_by_the_device(void **state)
{
    (void)state;
    lay_device("logger-card-8", "{}");
    open_device("logger-card-8");
    assert_status(slate_guard_lift(&media, &found[0], "wrong", false),
                  SLATE_ERR_GUARD);
    assert_status(slate_guard_lift(&media, &found[0], NULL, false),
                  SLATE_ERR_ARGUMENT);
    assert_status(
        slate_guard_lift(&media, &found[0], "longer than sixteen", false),
        SLATE_ERR_ARGUMENT);
    assert_ok(slate_guard_lift(&media, &found[0], "breakwater", false));
    close_device();
    lay_device("logger-card-8", "{\"attached\": \"sd-spi\"}");
    open_device("logger-card-8");
    assert_int_equal(found[0].kind, SLATE_GUARD_CARD_PASSWORD);
    assert_status(slate_guard_lift(&media, &found[0], "wrong", false),
                  SLATE_ERR_GUARD);
    assert_ok(slate_guard_lift(&media, &found[0], "breakwater", false));
    assert_ok(write_one());
    close_device();
}

/* Frozen and locked: nothing helps before the next power-on. */
static void a_power_cycle_comes_in_between(void **state)
{
    char why[SLATE_SIM_WHY_ROOM] = "";

    (void)state;
    lay_device("shore-disk-5", "{}");
    open_device("shore-disk-5");
    assert_int_equal(count, 2);
    assert_int_equal(found[0].lift, SLATE_LIFT_POWER_CYCLE);
    assert_int_equal(found[1].kind, SLATE_GUARD_FROZEN);
    assert_false(slate_guard_stops_writing(SLATE_GUARD_FROZEN));
    assert_status(slate_guard_lift(&media, &found[0], "northern light", false),
                  SLATE_ERR_GUARD);
    close_device();
    assert_ok(slate_sim_plug(in_folder("bench"), "shore-disk-5", false));
    assert_ok(slate_sim_plug(in_folder("bench"), "shore-disk-5", true));
    open_device("shore-disk-5");
    assert_int_equal(count, 1);
    assert_int_equal(found[0].lift, SLATE_LIFT_PASSWORD);
    assert_ok(slate_guard_lift(&media, &found[0], "northern light", false));
    close_device();
    lay_device("station-nvme-3", "{\"guards\": [\"until-power\"]}");
    open_device("station-nvme-3");
    assert_int_equal(found[0].kind, SLATE_GUARD_UNTIL_POWER);
    close_device();
    assert_ok(slate_sim_plug(in_folder("bench"), "station-nvme-3", true));
    open_device("station-nvme-3");
    assert_int_equal(count, 0);
    close_device();
    assert_string_equal(why, "");
}

/* A card that the host alone keeps read-only has no slider to move. */
static void the_host_is_told_from_the_slider(void **state)
{
    (void)state;
    lay_device("logger-card-3", "{\"guards\": [\"host\"]}");
    open_device("logger-card-3");
    assert_int_equal(count, 1);
    assert_int_equal(found[0].kind, SLATE_GUARD_HOST);
    assert_ok(slate_guard_lift(&media, &found[0], NULL, false));
    assert_false(media.read_only);
    close_device();
    lay_device("logger-card-11", "{\"guards\": [\"slider\", \"temporary\"]}");
    open_device("logger-card-11");
    assert_int_equal(count, 2);
    assert_int_equal(found[0].kind, SLATE_GUARD_TEMPORARY);
    assert_int_equal(found[1].kind, SLATE_GUARD_SLIDER);
    assert_ok(slate_guard_lift(&media, &found[0], NULL, false));
    assert_true(media.read_only); /* by the slider, still */
    close_device();
}

/* A lift of the hidden area that is not to last goes with the power. */
static void a_lift_lasts_only_when_asked(void **state)
{
    (void)state;
    for (int lasting = 0; lasting < 2; lasting++) {
        lay_device("shore-disk-4", "{}");
        open_device("shore-disk-4");
        assert_int_equal(found[0].value, 976773168);
        assert_ok(slate_guard_lift(&media, &found[0], NULL, lasting == 1));
        close_device();
        open_device("shore-disk-4");
        assert_int_equal(media.geometry.block_count, 976773168);
        close_device();
        assert_ok(slate_sim_plug(in_folder("bench"), "shore-disk-4", true));
        open_device("shore-disk-4");
        assert_int_equal(count, lasting == 1 ? 0 : 1);
        close_device();
    }
}

/* The disk behind a dock, asked and changed through it. */
static void guards_are_reached_through_a_dock(void **state)
{
    static struct slate_facts facts;
    static struct slate_partition listed[SLATE_FACTS_PARTITIONS];
    static struct slate_volume volumes[SLATE_FACTS_PARTITIONS];
    static struct slate_seen ranges[SLATE_EVIDENCE_RANGES];
    const struct slate_facts_room facts_room = {
        listed, volumes, SLATE_FACTS_PARTITIONS, ranges, SLATE_EVIDENCE_RANGES};
    static uint8_t work[SLATE_WORK_MIN];
    struct slate_finding findings[SLATE_FINDINGS_MAX];

    (void)state;
    lay_device("shore-disk-3", "{\"native_blocks\": 8000000000}");
    open_device("shore-disk-3");
    assert_int_equal(count, 1);
    assert_int_equal(found[0].kind, SLATE_GUARD_HIDDEN_AREA);
    assert_int_equal(found[0].value, 8000000000);
    slate_facts_place(&facts, &facts_room);
    assert_ok(
        slate_assess_look(&media, SLATE_DEPTH_FULL, work, sizeof work, &facts));
    assert_int_equal(facts.abilities.native_blocks, 8000000000);
    (void)slate_assess_judge(&facts, findings);
    assert_int_equal(findings[0].id, SLATE_FINDING_HIDDEN_CAPACITY);
    assert_ok(slate_guard_lift(&media, &found[0], NULL, false));
    close_device();
    lay_device("shore-disk-3",
               "{\"guards\": [\"locked\"], \"password\": \"x\"}");
    open_device("shore-disk-3");
    assert_int_equal(found[0].kind, SLATE_GUARD_DISK_PASSWORD);
    assert_status(slate_guard_lift(&media, &found[0], "y", false),
                  SLATE_ERR_GUARD);
    assert_ok(slate_guard_lift(&media, &found[0], "x", false));
    assert_ok(write_one());
    close_device();
}

static void the_tool_explains_and_lifts(void **state)
{
    char line[256];

    (void)state;
    expect("guards sim:tide-gauge-8", 0, "nothing protects");
    expect("guards sim:stick-locked", 0, "needs a hand");
    expect("guards sim:logger-card-5 --lift toaster", 2, "expected all");
    expect("guards sim:logger-card-5 --lift all", 3, "add --consent HEZES-67");
    expect("guards sim:logger-card-5 --lift all --consent X", 3, "for 'X'");
    expect("guards sim:logger-card-5 --lift all --consent HEZES-67", 0,
           "lifted");
    expect("renew sim:logger-card-5 --consent HEZES-67", 0, "one FAT32");
    expect("release sim:tide-gauge-8", 0, "used by nobody");
    expect("eject sim:shore-disk-1", 0, "platters");
    expect("eject sim:tide-gauge-8", 0, "can be unplugged now");
    expect("guards sim:logger-card-7 --json", 0, "\"never\"");
    check_schema("guards");
    expect_text("guards.0.kind", "permanent-write-protect");
    expect("assess sim:logger-card-8", 0, "locked with a password");
    expect("guards sim:logger-card-8 --json", 0, "card-password");
    snprintf(line, sizeof line,
             "guards sim:logger-card-8 --lift card-password --password "
             "breakwater --consent %s",
             "WUDAL-84");
    expect(line, 0, "lifted");
    expect("assess sim:logger-card-8", 0, "On it");
    assert_null(strstr(p.out, "locked with a password"));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(each_guard_is_found_and_lifted_or_not,
                               fresh_bench),
        cmocka_unit_test_setup(other_devices_have_none, fresh_bench),
        cmocka_unit_test_setup(the_tool_explains_and_lifts, fresh_bench),
        cmocka_unit_test(a_lift_that_does_not_hold_is_told),
        cmocka_unit_test(a_refused_lift_is_told),
        cmocka_unit_test(passwords_are_checked_by_the_device),
        cmocka_unit_test(a_power_cycle_comes_in_between),
        cmocka_unit_test(the_host_is_told_from_the_slider),
        cmocka_unit_test(a_lift_lasts_only_when_asked),
        cmocka_unit_test(guards_are_reached_through_a_dock),
    };

    return cmocka_run_group_tests_name("guards", tests, NULL, clean);
}
