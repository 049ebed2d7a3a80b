/* SPDX-License-Identifier: MIT */
/* A probe loses nothing, whatever the device does: refuses or forgets writes
 * from any moment on, tears, drops off, or is swapped for another one. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "shim.h"
#include "tool_case.h"

#define WORK 65536u

static struct slate_media media;
static const struct slate_agreement agreed = {media.tag, NULL};
static struct slate_probe probe;
static uint8_t work[WORK], saved[WORK], seed[16];
static bool has_saved;

/* Content of its own on every block, another one for each device. */
static void fill(struct ram *ram, uint32_t block_bytes, uint8_t device)
{
    static uint8_t page[65536];

    ram_open(ram, block_bytes, 4194304 / block_bytes, true);
    for (uint64_t at = 0; at < 4194304; at += sizeof page) {
        for (size_t i = 0; i < sizeof page; i++)
            page[i] = (uint8_t)(i * 7 + i / 251 + at / 4096 + device);
        ram_put(ram, at, page, sizeof page);
    }
}

static enum slate_status step_on(void)
{
    enum slate_status status = SLATE_OK;

    while (status == SLATE_OK && probe.phase != SLATE_PROBE_DONE) {
        bool saved_all = probe.phase == SLATE_PROBE_WRITE;

        status = slate_probe_step(&probe);
        if (!saved_all && probe.phase == SLATE_PROBE_WRITE) {
            memcpy(saved, probe.kept, slate_probe_kept_bytes(&probe));
            memcpy(seed, probe.pattern.seed, sizeof seed);
            has_saved = true;
        }
    }
    return status;
}

static enum slate_status run_probe(struct shim *shim)
{
    has_saved = false;
    assert_ok(slate_media_open(&media, &shim->port));
    assert_ok(slate_probe_start(&probe, &media, &agreed, work, sizeof work));
    return step_on();
}

/* The next probe of the same device, with what the first one had saved. */
static void put_back(struct shim *shim)
{
    shim_power(shim);
    assert_ok(slate_media_open(&media, &shim->port));
    assert_ok(slate_probe_start(&probe, &media, &agreed, work, sizeof work));
    memcpy(probe.kept, saved, slate_probe_kept_bytes(&probe));
    memcpy(probe.pattern.seed, seed, sizeof seed);
    slate_probe_put_back(&probe);
    assert_ok(step_on());
}

/* Every block that is not as it was is counted, and no other. */
static void check_lost(const struct ram *ram, const struct ram *before)
{
    uint32_t bytes = ram->facts.block_bytes, found = 0;
    uint8_t one[4096], two[4096];

    for (uint64_t lba = 0; lba < ram->facts.block_count; lba++) {
        ram_get(ram, lba * bytes, one, bytes);
        ram_get(before, lba * bytes, two, bytes);
        found += memcmp(one, two, bytes) != 0 ? 1u : 0u;
    }
    assert_int_equal(probe.lost, found);
    if (found > 0)
        assert_true(slate_verdict_is_bad(slate_probe_verdict(&probe)));
}

/* From any write on the device refuses, or acknowledges and forgets, the rest.
 */
static void stop_taking_writes(uint32_t block_bytes, bool deaf)
{
    struct ram before;
    bool lost = false;

    fill(&before, block_bytes, 0);
    for (uint64_t n = 1;; n++) {
        struct ram ram;
        struct shim shim;
        uint64_t writes;

        ram_copy(&ram, &before);
        shim_open(&shim, &ram.port);
        shim.refuse_after = deaf ? 0 : n;
        shim.deaf_after = deaf ? n : 0;
        assert_ok(run_probe(&shim));
        writes = shim.writes;
        check_lost(&ram, &before);
        lost = lost || probe.lost > 0;
        if (probe.lost > 0) {
            put_back(&shim);
            assert_true(probe.recognised);
            assert_int_equal(probe.lost, 0);
        }
        assert_true(ram_equal(&ram, &before));
        shim_close(&shim);
        ram_close(&ram);
        if (n > writes)
            break;
    }
    assert_true(lost);
    ram_close(&before);
}

static void a_device_that_stops_taking_writes(void **state)
{
    (void)state;
    stop_taking_writes(512, false);
    stop_taking_writes(4096, false);
}

static void a_device_that_forgets_writes(void **state)
{
    (void)state;
    stop_taking_writes(512, true);
    stop_taking_writes(4096, true);
}

static const struct shim_way ways[] = {
    {0, false, false, SHIM_LOST},       {0, false, false, SHIM_SOME},
    {1, false, false, SHIM_KEPT},       {16, false, false, SHIM_LOST},
    {100, false, false, SHIM_SOME},     {256, true, false, SHIM_LOST},
    {100, true, false, SHIM_KEPT},      {512, false, false, SHIM_SOME},
    {512, true, false, SHIM_LOST},      {2048, false, true, SHIM_LOST},
    {256, false, true, SHIM_SOME},      {0, true, true, SHIM_LOST},
    {1000000, false, false, SHIM_KEPT},
};

#define WAYS (sizeof ways / sizeof ways[0])

/* The device drops off, or its power goes, in any write, in four ways each; the
 * next probe puts everything back. */
static void drop_off(uint32_t block_bytes)
{
    struct ram before;

    fill(&before, block_bytes, 0);
    for (uint64_t n = 1;; n++) {
        bool over = false;

        for (size_t turn = 0; turn < 4; turn++) {
            size_t way = (n + turn * 3) % WAYS;
            struct ram ram;
            struct shim shim;

            ram_copy(&ram, &before);
            shim_open(&shim, &ram.port);
            shim.cut_at = n;
            shim.way = ways[way];
            shim.seed = (uint32_t)(n * WAYS + way);
            over = run_probe(&shim) == SLATE_OK;
            if (!over) {
                assert_true(has_saved);
                put_back(&shim);
                assert_int_equal(probe.lost, 0);
                assert_int_equal(probe.changed, 0);
                assert_int_equal(shim.unreadable, UINT64_MAX);
            }
            assert_true(ram_equal(&ram, &before));
            shim_close(&shim);
            ram_close(&ram);
        }
        if (over)
            break;
    }
    ram_close(&before);
}

static void a_device_that_drops_off_or_tears(void **state)
{
    (void)state;
    drop_off(512);
    drop_off(4096);
}

/* At any moment another medium, of equal size, is in the reader: it keeps every
 * byte, and the first one gets its own back when it is there again. */
static void swap(bool told)
{
    struct ram before, other;

    fill(&before, 512, 0);
    fill(&other, 512, 99);
    for (uint64_t n = 1;; n++) {
        struct ram ram, second;
        struct shim shim;
        bool swapped;

        ram_copy(&ram, &before);
        ram_copy(&second, &other);
        shim_open(&shim, &ram.port);
        assert_ok(slate_media_open(&media, &shim.port));
        shim.swap_at = n;
        shim.swap_told = told;
        shim.other = &second.port;
        (void)run_probe(&shim);
        swapped = shim.swapped;
        assert_true(ram_equal(&second, &other) || !has_saved ||
                    ram_equal(&ram, &before));
        if (has_saved && swapped && !ram_equal(&ram, &before)) {
            assert_true(probe.status != SLATE_OK || probe.lost > 0);
            assert_true(ram_equal(&second, &other));
            put_back(&shim);
            assert_true(probe.recognised);
            assert_int_equal(probe.lost, 0);
        }
        assert_true(ram_equal(&ram, &before));
        assert_true(ram_equal(&second, &other));
        shim_close(&shim);
        ram_close(&ram);
        ram_close(&second);
        if (!swapped)
            break;
    }
    ram_close(&before);
    ram_close(&other);
}

static void a_medium_that_is_swapped(void **state)
{
    (void)state;
    swap(false);
    swap(true);
}

/* What a probe left is no content for the next one, nor for the one after. */
static void leftovers_are_nobodys_content(void **state)
{
    struct ram ram, before, left;
    struct shim shim;

    (void)state;
    fill(&before, 512, 0);
    ram_copy(&ram, &before);
    shim_open(&shim, &ram.port);
    shim.refuse_after = 20;
    assert_ok(run_probe(&shim));
    assert_true(probe.lost > 0);
    ram_copy(&left, &ram);
    shim_power(&shim);
    shim.seed = 5; /* a probe with a seed of its own */
    assert_status(run_probe(&shim), SLATE_ERR_LEFTOVER);
    assert_true(probe.leftovers > 0);
    assert_true(ram_equal(&ram, &left));
    /* given up: zeros stand there afterwards, and all else is as it was */
    assert_ok(slate_media_open(&media, &shim.port));
    assert_ok(slate_probe_start(&probe, &media, &agreed, work, sizeof work));
    probe.give_up = true;
    assert_ok(step_on());
    assert_int_equal(probe.lost, 0);
    assert_int_equal(slate_probe_verdict(&probe), SLATE_VERDICT_HOLDS);
    for (uint64_t lba = 0; lba < ram.facts.block_count; lba++) {
        static const uint8_t zeros[512];
        uint8_t now[512], old[512];

        ram_get(&ram, lba * 512, now, 512);
        ram_get(&before, lba * 512, old, 512);
        assert_true(memcmp(now, old, 512) == 0 || memcmp(now, zeros, 512) == 0);
    }
    shim_close(&shim);
    ram_close(&ram);
    ram_close(&before);
    ram_close(&left);
}

/* A short stick of the bench: lay_device's members, and its tag. */
static void lay_short(const char *members, char consent[80])
{
    static struct program guards;

    lay_device("tide-gauge-8", members);
    tool_run(&guards, "guards sim:tide-gauge-8");
    snprintf(consent, 80, "probe sim:tide-gauge-8 --consent %.8s", guards.out);
}

#define SHORT                                                                  \
    "\"blocks\": 65536, \"content\": [{\"at\": 1048576, \"text\": \"the "      \
    "tide of the fourth\"}]"

static void expect_content(const char *name, const char *content)
{
    char path[64], found[64] = "";
    FILE *blocks;

    snprintf(path, sizeof path, "bench/%s.blocks", name);
    blocks = fopen(in_folder(path), "r");
    assert_non_null(blocks);
    assert_int_equal(fseek(blocks, 1048576, SEEK_SET), 0);
    assert_int_equal(fread(found, 1, strlen(content), blocks), strlen(content));
    assert_string_equal(found, content);
    fclose(blocks);
}

/* Takes the fault out of the description, as if the device behaved again. */
static void mend(const char *member)
{
    json_t *about =
        json_load_file(in_folder("bench/tide-gauge-8.json"), 0, NULL);

    json_object_del(about, member);
    assert_int_equal(
        json_dump_file(about, in_folder("bench/tide-gauge-8.json"), 0), 0);
    json_decref(about);
}

static void the_tool_keeps_the_file_until_all_is_back(void **state)
{
    char line[80];
    json_t *kept;

    (void)state;
    lay_short("{" SHORT ", \"refuses_writes_after\": 90}", line);
    expect(line, 4, "not restored: blocks ");
    assert_non_null(strstr(p.err, ".kept"));
    assert_null(strstr(p.out, "as it was"));
    assert_non_null(strstr(p.out, "NOT BACK"));
    assert_int_equal(kept_files(), 1);
    strcat(line, " --json");
    assert_int_equal(tool_run(&p, line), 4);
    assert_int_equal(kept_files(), 1);
    mend("refuses_writes_after");
    assert_int_equal(tool_run(&p, line), 0);
    check_schema("probe");
    assert_int_equal(number("earlier_probe_put_back"), 1);
    assert_int_equal(number("trusted"), 1);
    kept = printed("kept_in");
    assert_string_equal(json_string_value(kept), "");
    json_decref(kept);
    assert_int_equal(kept_files(), 0);
    expect_content("tide-gauge-8", "the tide of the fourth");
}

/* The same reader, another medium of the same size: the file is not for it. */
/* The power goes in a write, which is torn. */
static void cut_while_writing(char line[80])
{
    char members[256];

    for (int at = 300; at < 2000; at += 20) {
        snprintf(members, sizeof members,
                 "{" SHORT ", \"torn_write\": true, "
                 "\"power_cut_at_command\": %d}",
                 at);
        lay_short(members, line);
        assert_int_equal(tool_run(&p, line), 4);
        if (strstr(p.err, "it does not answer any more; what was on") != NULL)
            return;
    }
    fail_msg("no probe was cut after it had written");
}

static void the_tool_knows_the_medium_of_a_file(void **state)
{
    char line[80], other[512], own[512];

    (void)state;
    cut_while_writing(line);
    assert_int_equal(kept_files(), 1);
    snprintf(own, sizeof own, "%s", in_folder("bench/tide-gauge-8.blocks"));
    snprintf(other, sizeof other, "%s", in_folder("bench/away"));
    assert_int_equal(rename(own, other), 0);
    lay_device("buoy-stick-14", "{" SHORT "}");
    assert_int_equal(rename(in_folder("bench/buoy-stick-14.blocks"), own), 0);
    expect(line, 0, "another medium");
    assert_int_equal(kept_files(), 1);
    expect_content("tide-gauge-8", "the tide of the fourth");
    assert_int_equal(rename(other, own), 0);
    expect(line, 0, "what an earlier probe had left unrestored");
    assert_int_equal(kept_files(), 0);
    expect_content("tide-gauge-8", "the tide of the fourth");
}

/* Swapped in the middle, with and without the device telling of it. */
static void the_tool_stops_when_the_medium_is_swapped(void **state)
{
    (void)state;
    for (int at = 260; at < 700; at += 50) {
        char line[80], members[256];

        snprintf(members, sizeof members,
                 "{" SHORT ", \"swap\": {\"at_command\": %d, \"with\": "
                 "\"buoy-stick-14\", \"told\": %s}}",
                 at, at % 2 == 0 ? "true" : "false");
        lay_short(members, line);
        lay_device("buoy-stick-14",
                   "{\"blocks\": 65536, \"content\": [{\"at\": 1048576, "
                   "\"text\": \"a log of the winch\"}]}");
        (void)tool_run(&p, line);
        if (p.code != 3 && p.code != 4)
            print_message("  at %d: %d\n%s", at, p.code, p.err);
        assert_true(p.code == 3 || p.code == 4);
        expect_content("buoy-stick-14", "a log of the winch");
        mend("swap");
        (void)tool_run(&p, "plug tide-gauge-8");
        assert_int_equal(remove(in_folder("bench/tide-gauge-8.state")), 0);
        assert_int_equal(tool_run(&p, line), 0);
        expect_content("tide-gauge-8", "the tide of the fourth");
    }
}

static void the_tool_does_not_take_leftovers_for_content(void **state)
{
    char line[80];

    (void)state;
    lay_short("{" SHORT ", \"refuses_writes_after\": 90}", line);
    expect(line, 4, "not restored");
    assert_int_equal(system("rm \"$XDG_STATE_HOME\"/trueslate/*.kept"), 0);
    mend("refuses_writes_after");
    expect(line, 3, "never put back");
    expect(line, 3, "--give-up");
    strcat(line, " --give-up");
    expect(line, 0, "zeros stand");
    expect(line, 0, "every block that was tried is as it was");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_device_that_stops_taking_writes),
        cmocka_unit_test(a_device_that_forgets_writes),
        cmocka_unit_test(a_device_that_drops_off_or_tears),
        cmocka_unit_test(a_medium_that_is_swapped),
        cmocka_unit_test(leftovers_are_nobodys_content),
        cmocka_unit_test_setup(the_tool_keeps_the_file_until_all_is_back,
                               fresh_bench),
        cmocka_unit_test_setup(the_tool_knows_the_medium_of_a_file,
                               fresh_bench),
        cmocka_unit_test_setup(the_tool_stops_when_the_medium_is_swapped,
                               fresh_bench),
        cmocka_unit_test_setup(the_tool_does_not_take_leftovers_for_content,
                               fresh_bench),
    };

    return cmocka_run_group_tests_name("probe faults", tests, NULL, clean);
}
