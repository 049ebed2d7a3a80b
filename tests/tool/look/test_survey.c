/* SPDX-License-Identifier: MIT */
/* survey and await as a technician uses them: who is who, and what is new. */
#include <stdio.h>
#include <stdlib.h>

#include "tool_case.h"

/* What is on the bench, by address. */
static json_t *entry(const char *address)
{
    json_t *devices = printed("devices"), *one, *found = NULL;
    size_t index;

    json_array_foreach (devices, index, one) {
        if (strcmp(json_string_value(json_object_get(one, "address")),
                   address) == 0)
            found = json_incref(one);
    }
    json_decref(devices);
    assert_non_null(found);
    return found;
}

static void expect_entry(const char *address, const char *key,
                         const char *words)
{
    json_t *one = entry(address);
    const char *text = json_string_value(json_object_get(one, key));

    assert_non_null(text);
    assert_non_null(strstr(text, words));
    json_decref(one);
}

static void the_survey_tells_every_device_apart(void **state)
{
    json_t *one;

    (void)state;
    expect("survey --json", 0, tag);
    expect_entry("sim:shore-disk-3", "model", "Shoredisk 4000"); /* not Dock */
    expect_entry("sim:shore-disk-3", "serial", "SH-4000-03");
    expect_entry("sim:logger-card-3", "serial", "7B-0031A7C5");
    expect_entry("sim:reader-empty", "error", "no medium");
    expect_entry("sim:array-disk-520", "error", "block size");
    expect_entry("sim:stick-fallback", "error", "capacity");
    expect_entry("sim:mast-camera-2", "content", "MASTCAM_SETUP");
    expect_entry("sim:mast-camera-2/1", "body", "sim:mast-camera-2");
    expect_entry("sim:shore-disk-2", "content", "SHORE-2"); /* third try */
    one = entry("sim:buoy-stick-12");
    assert_true(json_number_value(json_object_get(one, "twins")) == 1);
    json_decref(one);
    expect("survey", 0, "One body with 2 units: Halyard Mastcam Memory");
    expect("survey", 0, "Its blocks are 520 bytes long");
    expect("survey", 0, "unplug all but one");
    for (const char *at = p.out; *at != '\0'; at += strcspn(at, "\n") + 1)
        assert_true(strcspn(at, "\n") <= 80);
}

static void what_is_new_is_shown_alone(void **state)
{
    (void)state;
    expect("survey --fresh", 2, "--remember");
    expect("unplug tide-gauge-7", 0, "plugged out");
    expect("assess sim:tide-gauge-7", 4, "not plugged in");
    expect("survey --remember", 0, "Tidestick");
    assert_null(strstr(p.out, tag));
    expect("survey --fresh", 0, "No device is there");
    expect("plug tide-gauge-7", 0, "plugged in");
    expect("survey --fresh --json", 0, tag);
    check_schema("survey");
    assert_non_null(strstr(p.out, "\"sim:tide-gauge-7\""));
    assert_null(strstr(p.out, "\"sim:tide-gauge-8\""));
    expect("unplug ghost", 4, "no such device");
    assert_int_equal(tool_run(&p, "await --seconds 1"), 4);
    assert_non_null(strstr(p.err, "no device came"));
}

static void await_presents_what_is_plugged_in(void **state)
{
    char command[512];

    (void)state;
    expect("unplug logger-card-6", 0, "plugged out");
    snprintf(command, sizeof command,
             "(sleep 3; %s plug logger-card-6 >/dev/null) &", getenv("TOOL"));
    assert_int_equal(system(command), 0);
    assert_int_equal(tool_run(&p, "await --seconds 20"), 0);
    assert_non_null(strstr(p.out, "LC128"));
    assert_null(strstr(p.out, "Tidestick"));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(the_survey_tells_every_device_apart,
                               fresh_bench),
        cmocka_unit_test_setup(what_is_new_is_shown_alone, fresh_bench),
        cmocka_unit_test_setup(await_presents_what_is_plugged_in, fresh_bench),
    };

    return cmocka_run_group_tests_name("survey", tests, NULL, clean);
}
