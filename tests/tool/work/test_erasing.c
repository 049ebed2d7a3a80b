/* SPDX-License-Identifier: MIT */
/* The tool and devices that erase themselves: what is shown, asked for, waited
 * for and proved. */
#include "tool_case.h"

/* The tag of a device of the bench. */
static const char *tag_of(const char *name)
{
    char line[100];
    json_t *value;

    snprintf(line, sizeof line, "erase sim:%s --json --bench $/bench", name);
    assert_int_equal(tool_run(&p, line), 0);
    check_schema("erase");
    value = printed("device.tag");
    snprintf(tag, sizeof tag, "%s", json_string_value(value));
    json_decref(value);
    return tag;
}

static void erase(const char *name, const char *options, int code,
                  const char *words)
{
    char line[300];

    snprintf(line, sizeof line, "erase sim:%s %s --bench $/bench", name,
             options);
    expect(line, code, words);
}

/* The same with consent; gives back the verdict for programs where it is told.
 */
static void erase_agreed(const char *name, const char *options, int code,
                         const char *words)
{
    char all[200];

    snprintf(all, sizeof all, "%s --consent %s", options, tag_of(name));
    erase(name, all, code, words);
}

static void the_ways_are_shown_with_what_each_is_worth(void **state)
{
    json_t *list;

    (void)state;
    erase("station-nvme-1", "", 0, "sanitize-block");
    erase("station-nvme-1", "", 0, "format-crypto");
    erase("station-nvme-1", "", 0, "It leaves  sanitize-block");
    erase("shore-disk-1", "", 0, "about 236 min");
    erase("shore-disk-1", "", 0, "It stays   overwrite it once");
    erase("shore-disk-3", "", 0, "attach it directly");
    erase("tide-gauge-8", "", 0, "No way");
    erase("logger-card-3", "", 0, "card-erase");
    (void)tag_of("station-nvme-1");
    list = printed("ways");
    assert_int_equal(json_array_size(list), 4);
    json_decref(list);
    expect_text("ways.0.way", "sanitize-block");
}

static void nothing_is_sent_without_consent(void **state)
{
    (void)state;
    erase("station-nvme-1", "--way sanitize-block", 3, "To agree, add");
    erase("station-nvme-1", "--way sanitize-block --consent TARUK-47", 3,
          "nothing was written");
    erase("station-nvme-1", "--way security-erase", 2,
          "expected one that sim:station-nvme-1 has");
    erase("tide-gauge-8", "--way format-unit", 4, "'trueslate overwrite");
}

static void a_device_erases_itself_and_is_compared(void **state)
{
    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    erase_agreed("station-nvme-1", "--way sanitize-block", 0,
                 "holds what it held");
    erase_agreed("shore-disk-1", "--way security-enhanced", 0, "Compared");
    erase_agreed("logger-card-3", "--way card-erase --json", 0,
                 "gone-at-places");
    check_schema("erase");
    erase_agreed("winch-disk", "--way format-unit --read-all", 0,
                 "all hold the same byte");
}

/* station-nvme-2 says that it is done, and has done nothing. */
static void a_device_that_only_says_so_is_found_out(void **state)
{
    char line[200];

    (void)state;
    lay_device("station-nvme-2", "{\"faults\": []}");
    snprintf(line, sizeof line,
             "renew sim:station-nvme-2 --for linux --consent %s --bench "
             "$/bench",
             tag_of("station-nvme-2"));
    expect(line, 0, "Proved");
    erase_agreed("station-nvme-2", "--way sanitize-block", 5,
                 "hold what they held");
    erase_agreed("station-nvme-2", "--way format-erase", 5, "do not trust it");
    snprintf(line, sizeof line,
             "renew sim:station-nvme-2 --for linux --way sanitize-block "
             "--consent %s --bench $/bench",
             tag_of("station-nvme-2"));
    expect(line, 5, "says that it erased itself");
}

/* Its power fails half-way. What helps depends on the command; assess tells. */
static void what_was_cut_is_told_and_finished(void **state)
{
    (void)state;
    lay_device("winch-disk", "{\"erases\": {\"ways\": [\"format\"], "
                             "\"power_cut_at_step\": 3}}");
    erase_agreed("winch-disk", "--way format-unit", 4, "needs another format");
    expect("assess sim:winch-disk --bench $/bench", 0, "was cut, or failed");
    expect("guards sim:winch-disk --bench $/bench", 0, "again, to the end");
    erase_agreed("winch-disk", "--way format-unit", 0, "Compared");
    expect("assess sim:winch-disk --bench $/bench", 0, "Renew the device");

    lay_device("shore-disk-1", "{\"erases\": {\"ways\": [\"security\"], "
                               "\"power_cut_at_step\": 3}}");
    erase_agreed("shore-disk-1", "--way security-erase", 4, "\"TRUE SLATE\"");
    expect("assess sim:shore-disk-1 --bench $/bench", 0, "locked");
    erase_agreed("shore-disk-1", "--way security-erase", 0, "Compared");
    expect("assess sim:shore-disk-1 --bench $/bench", 0, "Renew the device");
}

/* It goes on by itself, and whoever comes next waits with it. */
static void one_that_is_at_it_is_waited_for(void **state)
{
    (void)state;
    lay_device("station-nvme-1",
               "{\"erases\": {\"ways\": [\"sanitize-block\"], \"steps\": "
               "40, \"power_cut_at_step\": 3}}");
    erase_agreed("station-nvme-1", "--way sanitize-block", 4,
                 "goes on by itself");
    expect("assess sim:station-nvme-1 --bench $/bench", 0, "is erasing itself");
    erase("station-nvme-1", "", 0, "erasing itself already");
    expect("assess sim:station-nvme-1 --bench $/bench", 0, "Renew the device");
}

/* Has the drive come some way? */
static bool is_on_its_way(void)
{
    json_t *state =
        json_load_file(in_folder("bench/station-nvme-1.state"), 0, NULL);
    json_int_t left =
        json_integer_value(json_object_get(state, "erase steps left"));

    json_decref(state);
    return left > 0 && left < 1995;
}

static void ctrl_c_leaves_it_alone(void **state)
{
    char options[100];

    (void)state;
    lay_device("station-nvme-1",
               "{\"erases\": {\"ways\": [\"sanitize-block\"], \"steps\": "
               "2000}}");
    (void)tag_of("station-nvme-1");
    p.interrupt_when = is_on_its_way;
    snprintf(options, sizeof options, "--way sanitize-block --consent %s", tag);
    erase("station-nvme-1", options, 6, "goes on erasing itself");
    p.interrupt_when = NULL;
    lay_device("station-nvme-1", "{}");
}

static void a_table_and_a_volume_come_in_the_same_command(void **state)
{
    char line[200];

    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    snprintf(line, sizeof line,
             "renew sim:station-nvme-1 --for linux --way format-erase "
             "--consent %s --json --bench $/bench",
             tag_of("station-nvme-1"));
    expect(line, 0, "gone-at-places");
    check_schema("renew");
    expect("renew sim:station-nvme-1 --way format-erase --keep all --bench "
           "$/bench",
           2, "nothing can be kept");
    expect("renew sim:station-nvme-1 --way format-erase --empty 1 --overwrite "
           "zero --bench $/bench",
           2, "nothing can be kept");
}

static void all_namespaces_go_only_when_that_is_meant(void **state)
{
    (void)state;
    lay_device("station-nvme-1",
               "{\"units\": [{\"blocks\": 65536, \"block_bytes\": 4096}, "
               "{\"blocks\": 65536, \"block_bytes\": 4096}]}");
    erase("station-nvme-1", "--way sanitize-block", 2, "--whole-drive");
    erase_agreed("station-nvme-1", "--way sanitize-block --whole-drive", 0,
                 "Compared");
    erase_agreed("station-nvme-1", "--way format-erase", 0, "Compared");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(the_ways_are_shown_with_what_each_is_worth),
        cmocka_unit_test(nothing_is_sent_without_consent),
        cmocka_unit_test(a_device_erases_itself_and_is_compared),
        cmocka_unit_test(a_device_that_only_says_so_is_found_out),
        cmocka_unit_test(what_was_cut_is_told_and_finished),
        cmocka_unit_test(one_that_is_at_it_is_waited_for),
        cmocka_unit_test(ctrl_c_leaves_it_alone),
        cmocka_unit_test(a_table_and_a_volume_come_in_the_same_command),
        cmocka_unit_test(all_namespaces_go_only_when_that_is_meant),
    };

    return cmocka_run_group_tests_name("erasing", tests, fresh_bench, clean);
}
