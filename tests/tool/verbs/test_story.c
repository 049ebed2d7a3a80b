/* SPDX-License-Identifier: MIT */
/* The demo and the example, run as a newcomer would run them. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "program.h"

static struct program p;

static void the_demo_tells_its_story(void **state)
{
    char script[512];
    const char *words[] = {script, getenv("TOOL"), NULL};

    (void)state;
    snprintf(script, sizeof script, "%s/scripts/demo", getenv("SOURCE"));
    program_run(&p, words);
    assert_int_equal(p.code, 0);
    assert_non_null(strstr(p.out, "FAT16 \"TGBOOT\""));
    assert_non_null(strstr(p.out, "A boot image was written"));
    assert_non_null(strstr(p.out, "FAT32 \"TIDE-7\""));
    assert_non_null(strstr(p.out, "Nothing is wrong"));
    assert_non_null(strstr(p.out, "temporary-write-protect: can be lifted"));
    assert_non_null(strstr(p.out, "lifted; the device was asked again"));
    assert_non_null(strstr(p.out, "needs a hand"));
    assert_non_null(strstr(p.out, "can never be lifted"));
    assert_non_null(strstr(p.out, "can be unplugged now"));
    assert_non_null(strstr(p.out, "one volume of 16 GB nominal again"));
}

static void the_example_renews_a_device_in_ram(void **state)
{
    const char *words[] = {getenv("EXAMPLE"), NULL};

    (void)state;
    program_run(&p, words);
    assert_int_equal(p.code, 0);
    assert_non_null(strstr(p.out, "one FAT16 volume \"BUOY 12\""));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_demo_tells_its_story),
        cmocka_unit_test(the_example_renews_a_device_in_ram),
    };

    return cmocka_run_group_tests_name("story", tests, NULL, NULL);
}
