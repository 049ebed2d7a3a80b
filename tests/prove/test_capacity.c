/* SPDX-License-Identifier: MIT */
/* Is the size true? Liars of all four kinds at odd true sizes, with and without
 * a memory that covers up; near misses; within the bound, and all as it was. */
#include <stdio.h>
#include <stdlib.h>

#include <trueslate/port_sim.h>

#include "turns.h"
#include "check.h"
#include "program.h"
#include "tool_case.h"

static struct slate_media media;
static const struct slate_agreement agreed = {media.tag, NULL};
static struct slate_probe probe;
static uint8_t work[SLATE_PROBE_WORK], block[SLATE_BLOCK_MAX];
static struct slate_sim *sim;

struct liar {
    uint64_t blocks, true_blocks;
    uint32_t block_bytes, cache;
    const char *beyond;
};

static void lay_members(const char *members)
{
    char why[SLATE_SIM_WHY_ROOM] = "", path[300];
    FILE *file;

    setenv("FROM", in_folder("from"), 1);
    setenv("SIMS", in_folder("sims"), 1);
    assert_int_equal(system("rm -rf \"$FROM\" \"$SIMS\" && mkdir \"$FROM\""),
                     0);
    snprintf(path, sizeof path, "%s/buoy.json", in_folder("from"));
    file = fopen(path, "w");
    assert_non_null(file);
    fprintf(file,
            "{\"description\": 1, \"name\": \"buoy\", \"attached\": \"usb\", "
            "\"removable\": true, %s}",
            members);
    fclose(file);
    assert_ok(slate_sim_lay(in_folder("from"), in_folder("sims"), why));
    assert_ok(slate_sim_open(in_folder("sims"), "buoy", &sim, why));
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
}

static void lay_liar(const struct liar *liar)
{
    char members[300];

    snprintf(members, sizeof members,
             "\"blocks\": %llu, \"true_blocks\": %llu, \"block_bytes\": %u, "
             "\"beyond_cache\": %u, \"beyond\": \"%s\"",
             (unsigned long long)liar->blocks,
             (unsigned long long)liar->true_blocks, liar->block_bytes,
             liar->cache, liar->beyond);
    lay_members(members);
}

/* Content around the places that a probe is likely to try, below a limit. */
static void stamp(uint64_t limit, bool compare)
{
    if (!compare)
        enter(&media);
    for (uint64_t at = 1; at < limit; at = at * 2 + 1) {
        uint8_t wanted[SLATE_BLOCK_MAX];

        for (uint32_t i = 0; i < media.geometry.block_bytes; i++)
            wanted[i] = (uint8_t)(at * 31 + i * 7 + (i >> 4));
        if (compare) {
            assert_ok(slate_media_read(&media, at, 1, block));
            assert_memory_equal(block, wanted, media.geometry.block_bytes);
        } else {
            assert_ok(slate_media_write(&media, at, 1, wanted));
        }
    }
    assert_ok(slate_media_flush(&media));
    if (!compare)
        assert_ok(slate_door_leave(&media));
}

static uint64_t moved(void)
{
    return media.traffic.blocks_read + media.traffic.blocks_written;
}

/* The whole proof, as the tool makes it; gives back how much it moved. */
static uint64_t prove_all(void)
{
    uint64_t before = moved();

    assert_ok(slate_probe_start(&probe, &media, &agreed, work, sizeof work));
    do {
        while (probe.phase != SLATE_PROBE_DONE)
            assert_ok(slate_probe_step(&probe));
    } while (slate_probe_refine(&probe));
    assert_ok(slate_probe_end(&probe));
    assert_int_equal(probe.lost, 0);
    return moved() - before;
}

/* The true size is exact wherever a block can be told from its neighbour. */
static void expect_liar(const struct liar *liar)
{
    uint64_t most = 0, least, took;

    lay_liar(liar);
    stamp(liar->true_blocks, false);
    took = prove_all();
    least = slate_probe_true_blocks(&probe, &most);
    if (slate_probe_verdict(&probe) != SLATE_VERDICT_FALSE_CAPACITY ||
        least != liar->true_blocks || most != liar->true_blocks ||
        took > slate_probe_most(&media.geometry))
        fail_msg("%s, %llu of %llu, cache %u: %s, %llu to %llu, moved %llu of "
                 "%llu",
                 liar->beyond, (unsigned long long)liar->true_blocks,
                 (unsigned long long)liar->blocks, liar->cache,
                 slate_verdict_name(slate_probe_verdict(&probe)),
                 (unsigned long long)least, (unsigned long long)most,
                 (unsigned long long)took,
                 (unsigned long long)slate_probe_most(&media.geometry));
    stamp(liar->true_blocks, true);
    slate_sim_close(sim);
}

static void liars_of_every_kind_are_measured_to_the_block(void **state)
{
    static const char *const beyonds[] = {"wrap", "drop", "zeros", "noise"};
    static const uint64_t sizes[][2] = {
        {7812500, 1953125},    {7812500, 4000037},     {31250000, 15624999},
        {31250000, 2097153},   {125000000, 7812501},   {125000000, 31249999},
        {250000000, 62500003}, {1000000000, 15625007}, {1000000000, 999000000}};

    (void)state;
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        for (int kind = 0; kind < 4; kind++) {
            const struct liar liar = {sizes[i][0], sizes[i][1], 512, 0,
                                      beyonds[kind]};

            if (!turn_of(i + (uint64_t)kind, 6))
                continue;
            expect_liar(&liar);
        }
    }
}

/* A controller that returns what was written last, wherever that went. */
static void a_memory_that_covers_up_is_got_around(void **state)
{
    static const uint32_t caches[] = {1, 16, 64, 200};

    (void)state;
    for (size_t i = 0; i < sizeof caches / sizeof caches[0]; i++) {
        const struct liar liars[] = {
            {31250000, 15624999, 512, caches[i], "drop"},
            {31250000, 7000001, 512, caches[i], "zeros"},
            {31250000, 7000001, 512, caches[i], "wrap"},
            {7812500, 1000003, 4096, caches[i], "noise"}};

        for (size_t k = 0; k < sizeof liars / sizeof liars[0]; k++)
            expect_liar(&liars[k]);
    }
}

/* Slow, with bad blocks, with a cache that is flushed, of any size: never
 * accused of less than they claim, and never beyond the bound. */
static void near_misses_are_not_accused(void **state)
{
    static const char *const members[] = {
        "\"blocks\": 31250000, \"block_bytes\": 512",
        "\"blocks\": 31250001, \"block_bytes\": 512, \"beyond_cache\": 64",
        "\"blocks\": 1000003, \"block_bytes\": 4096",
        "\"blocks\": 16, \"block_bytes\": 512",
        "\"blocks\": 15625000, \"block_bytes\": 512, \"faults\": [{\"kind\": "
        "\"read\", \"first\": 15624999}]",
        "\"blocks\": 15625000, \"block_bytes\": 512, \"faults\": [{\"kind\": "
        "\"write\", \"first\": 15624999}]",
        "\"blocks\": 15625000, \"block_bytes\": 512, \"faults\": [{\"kind\": "
        "\"read\", \"first\": 8000000, \"blocks\": 7625000}]",
        "\"blocks\": 15625000, \"block_bytes\": 512, \"faults\": [{\"kind\": "
        "\"write\", \"first\": 8000000, \"blocks\": 7625000}]",
        "\"blocks\": 1953125, \"block_bytes\": 512, \"faults\": [{\"kind\": "
        "\"slow\", \"first\": 1900000, \"blocks\": 50000, "
        "\"bytes_per_second\": 2000000}]",
        "\"blocks\": 31250000, \"block_bytes\": 512, \"unit_attentions\": 2, "
        "\"busy_commands\": 3"};

    (void)state;
    for (size_t i = 0; i < sizeof members / sizeof members[0]; i++) {
        uint64_t most = 0, took;

        lay_members(members[i]);
        took = prove_all();
        if (slate_probe_verdict(&probe) == SLATE_VERDICT_FALSE_CAPACITY)
            fail_msg("accused: %s", members[i]);
        assert_int_equal(slate_probe_true_blocks(&probe, &most),
                         media.geometry.block_count);
        assert_true(took <= slate_probe_most(&media.geometry));
        slate_sim_close(sim);
    }
}

static void read_content(const char *name, long at, char found[23])
{
    char path[100];
    FILE *file;

    snprintf(path, sizeof path, "bench/%s.blocks", name);
    file = fopen(in_folder(path), "r");
    assert_non_null(file);
    assert_int_equal(fseek(file, at, SEEK_SET), 0);
    assert_int_equal(fread(found, 1, 22, file), 22);
    found[22] = '\0';
    fclose(file);
}

/* Cut at commands all over, in each round of narrowing down as well, it is put
 * back by the next probe. */
static void a_cut_while_narrowing_down_is_made_good(void **state)
{
    char members[300], line[200], found[23];
    int cuts = 0;

    (void)state;
    for (int at = 200; at < 3000; at += turns_are_all() ? 190 : 570) {
        snprintf(members, sizeof members,
                 "{\"blocks\": 7812500, \"true_blocks\": 4000037, \"beyond\": "
                 "\"drop\", \"power_cut_at_command\": %d, \"content\": "
                 "[{\"at\": 1048576, \"text\": \"the tide of the fourth\"}]}",
                 at);
        lay_device("bargain-64", members);
        assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
        take_tag();
        snprintf(line, sizeof line, "probe sim:bargain-64 --consent %s --json",
                 tag);
        if (tool_run(&p, line) == 4 && kept_files() > 0)
            cuts++;
        assert_int_equal(tool_run(&p, line), 5);
        assert_int_equal(number("blocks_held"), 4000037);
        assert_int_equal(number("first_block_lost"), 4000037);
        assert_int_equal(number("blocks_not_restored"), 0);
        read_content("bargain-64", 1048576, found);
        assert_string_equal(found, "the tide of the fourth");
    }
    assert_true(cuts > (turns_are_all() ? 4 : 1));
}

static void lay_small(const char *beyond)
{
    char members[200];

    snprintf(members, sizeof members,
             "{\"blocks\": 524288, \"true_blocks\": 200003, \"beyond\": "
             "\"%s\", \"content\": []}",
             beyond);
    lay_device("bargain-64", members);
    assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
    take_tag();
}

static void expect_tagged(const char *line, int code, const char *words)
{
    char all[300];

    snprintf(all, sizeof all, "%s --consent %s", line, tag);
    expect(all, code, words);
}

/* Every block written and read back: the same size as the quick proof has. */
static void the_full_proof_measures_as_well(void **state)
{
    static const char *const beyonds[] = {"wrap", "drop", "zeros", "noise"};

    (void)state;
    for (int kind = 0; kind < 4; kind++) {
        if (!turn_of((uint64_t)kind, 4))
            continue;
        lay_small(beyonds[kind]);
        expect("probe sim:bargain-64 --full", 3,
               "everything on this device will");
        expect_tagged("probe sim:bargain-64 --full --json", 5,
                      "not to be trusted: false-capacity");
        check_schema("probe-full");
        assert_int_equal(number("blocks"), 200003);
        expect("assess sim:bargain-64", 0, "claims 268 MB and has 102 MB");
    }
    lay_device("bargain-64", "{\"blocks\": 524288, \"true_blocks\": 0, "
                             "\"content\": []}");
    expect_tagged("probe sim:bargain-64 --full", 0,
                  "returned what was written");
    expect("assess sim:bargain-64", 0, "random content");
    assert_null(strstr(p.out, "claims"));
    lay_device("bargain-64",
               "{\"blocks\": 524288, \"true_blocks\": 0, \"faults\": "
               "[{\"kind\": \"write\", \"first\": 524286, \"blocks\": 2}]}");
    expect_tagged("probe sim:bargain-64 --full", 5, "bad-blocks");
}

/* Wherever a transfer of half of what was asked for falls, one of a single
 * block included: nobody is accused of it, and all of it is as it was. */
static void short_transfers_are_no_fault(void **state)
{
    static const unsigned every[] = {2, 3, 7, 100};

    (void)state;
    for (size_t i = 0; i < sizeof every / sizeof every[0]; i++) {
        char members[100];

        snprintf(members, sizeof members,
                 "\"blocks\": 262144, \"block_bytes\": 512, "
                 "\"short_transfer_every\": %u",
                 every[i]);
        lay_members(members);
        for (unsigned ahead = 0; ahead < every[i]; ahead++) {
            stamp(262144, false);
            for (unsigned n = 0; n < ahead; n++)
                assert_ok(slate_media_read(&media, 0, 1, block));
            (void)prove_all();
            if (slate_probe_verdict(&probe) != SLATE_VERDICT_HOLDS)
                fail_msg("every %u, %u ahead: %s", every[i], ahead,
                         slate_verdict_name(slate_probe_verdict(&probe)));
            stamp(262144, true);
        }
        slate_sim_close(sim);
    }
    /* one that never moves a whole block is none */
    lay_members("\"blocks\": 262144, \"block_bytes\": 512, "
                "\"short_transfer_every\": 1");
    assert_status(slate_media_read(&media, 7, 1, block), SLATE_ERR_READ);
    slate_sim_close(sim);
}

/* What was found is kept in mind; what is there can be used, and nothing is
 * written beyond it. */
static void a_liar_is_renewed_within_what_it_has(void **state)
{
    static const char *const beyonds[] = {"wrap", "drop", "zeros", "noise"};

    (void)state;
    for (int kind = 0; kind < 4; kind++) {
        if (!turn_of((uint64_t)kind, 4))
            continue;
        lay_small(beyonds[kind]);
        sh("rm -f $FOLDER/state/trueslate/*.capacity.json", 0);
        expect("renew sim:bargain-64 --within proved", 2, "'trueslate probe");
        expect_tagged("probe sim:bargain-64", 5, "false-capacity");
        expect_tagged("renew sim:bargain-64", 3, "was proved to have");
        expect_tagged("overwrite sim:bargain-64", 3, "was proved to have");
        expect_tagged("renew sim:bargain-64 --within 150MB", 3,
                      "no draft goes beyond");
        expect_tagged("renew sim:bargain-64 --within proved --table gpt", 2,
                      "second copy of a GPT");
        expect_tagged("overwrite sim:bargain-64 --within proved --with random",
                      0, "read back");
        expect_tagged("renew sim:bargain-64 --within proved", 0,
                      "it is no healthy device");
        assert_non_null(strstr(p.out, "ONLY-102MB"));
        assert_non_null(strstr(p.out, "every one is as"));
        expect("assess sim:bargain-64", 0, "claims 268 MB and has 102 MB");
        expect_tagged("renew sim:bargain-64 --within 50MB --label TIDE", 0,
                      "TIDE");
        expect_tagged("renew sim:bargain-64 --within proved --keep all", 2,
                      "nothing can be kept");
        expect_tagged("convert sim:bargain-64 --table gpt", 7, "no blocks");
    }
}

/* Devices without a serial number could be others: nothing is kept of them. */
static void a_twin_is_not_accused(void **state)
{
    (void)state;
    lay_device("bargain-64",
               "{\"blocks\": 524288, \"true_blocks\": 200003, \"beyond\": "
               "\"drop\", \"serial\": \"\", \"content\": []}");
    assert_int_equal(tool_run(&p, "assess sim:bargain-64 --json"), 0);
    take_tag();
    expect_tagged("probe sim:bargain-64", 5, "false-capacity");
    expect("assess sim:bargain-64", 0, "Renew the device");
    expect_tagged("renew sim:bargain-64 --within 100MB", 0, "ONLY-100MB");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(short_transfers_are_no_fault),
        cmocka_unit_test(liars_of_every_kind_are_measured_to_the_block),
        cmocka_unit_test(a_memory_that_covers_up_is_got_around),
        cmocka_unit_test(near_misses_are_not_accused),
        cmocka_unit_test_setup(a_cut_while_narrowing_down_is_made_good,
                               fresh_bench),
        cmocka_unit_test_setup(the_full_proof_measures_as_well, fresh_bench),
        cmocka_unit_test_setup(a_liar_is_renewed_within_what_it_has,
                               fresh_bench),
        cmocka_unit_test_setup(a_twin_is_not_accused, fresh_bench),
    };

    return cmocka_run_group_tests_name("capacity", tests, NULL, clean);
}
