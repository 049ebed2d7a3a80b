/* SPDX-License-Identifier: MIT */
/* The write probe: what it finds, and that everything is as it was afterwards,
 * wherever it is cut. */
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "check.h"
#include "program.h"
#include "tool_case.h"
#include <trueslate/port_sim.h>

static struct slate_media media;
static const struct slate_agreement agreed = {media.tag, NULL};
static struct slate_probe probe;
static uint8_t work[SLATE_PROBE_WORK];

static void step_on(void)
{
    while (probe.phase != SLATE_PROBE_DONE)
        assert_ok(slate_probe_step(&probe));
    assert_ok(slate_probe_end(&probe));
}

/* Opens a device of the bench and probes it. */
static enum slate_verdict probe_sim(const char *name)
{
    char why[SLATE_SIM_WHY_ROOM];
    struct slate_sim *sim;

    assert_ok(slate_sim_open(in_folder("bench"), name, &sim, why));
    assert_ok(slate_media_open(&media, slate_sim_port(sim)));
    assert_ok(slate_probe_start(&probe, &media, &agreed, work, sizeof work));
    step_on();
    slate_sim_close(sim);
    return slate_probe_verdict(&probe);
}

static void every_kind_of_device_is_told(void **state)
{
    static const struct {
        const char *name;
        enum slate_verdict verdict;
        uint64_t has; /* blocks; 0: what it claims */
    } rows[] = {
        {"tide-gauge-8", SLATE_VERDICT_HOLDS, 0},
        {"logger-card-4", SLATE_VERDICT_HOLDS, 0},
        {"winch-disk", SLATE_VERDICT_HOLDS, 0},
        {"shore-disk-1", SLATE_VERDICT_SEEMS_FINE, 0},
        {"bargain-64", SLATE_VERDICT_FALSE_CAPACITY, 15625000},
        {"bargain-128", SLATE_VERDICT_FALSE_CAPACITY, 7812500},
        {"bargain-256", SLATE_VERDICT_FALSE_CAPACITY, 31250000},
        {"bargain-512", SLATE_VERDICT_FALSE_CAPACITY, 15625000},
        {"logger-worn", SLATE_VERDICT_KEEPS_OLD, 0},
        {"tide-gauge-10", SLATE_VERDICT_REFUSES, 0},
        {"station-nvme-2", SLATE_VERDICT_UNRELIABLE, 0},
    };

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        uint64_t most, least;

        print_message("  %s\n", rows[i].name);
        assert_int_equal(probe_sim(rows[i].name), rows[i].verdict);
        assert_int_equal(probe.lost, 0);
        least = slate_probe_true_blocks(&probe, &most);
        if (rows[i].has == 0) {
            assert_int_equal(least, media.geometry.block_count);
            continue;
        }
        assert_true(least <= rows[i].has && rows[i].has <= most);
        assert_true(least * 2 >= most);
    }
}

/* A true capacity that no place hits by chance. */
static void an_odd_wrap_is_found(void **state)
{
    uint64_t most;

    (void)state;
    lay_device("bargain-512",
               "{\"blocks\": 33554432, \"true_blocks\": 8388617, "
               "\"content\": []}");
    assert_int_equal(probe_sim("bargain-512"), SLATE_VERDICT_FALSE_CAPACITY);
    assert_int_equal(slate_probe_true_blocks(&probe, &most), 8388617);
    assert_int_equal(probe.lost, 0);
    lay_device("bargain-512", "{\"blocks\": 33554432, \"true_blocks\": 0, "
                              "\"content\": []}");
    assert_int_equal(probe_sim("bargain-512"), SLATE_VERDICT_HOLDS);
}

static void fill(struct ram *ram, uint32_t block_bytes, uint64_t blocks)
{
    static uint8_t page[65536];

    ram_open(ram, block_bytes, blocks, true);
    for (size_t i = 0; i < sizeof page; i++)
        page[i] = (uint8_t)(i * 7 + i / 251);
    for (uint64_t at = 0; at + sizeof page <= block_bytes * blocks;
         at += sizeof page)
        ram_put(ram, at, page, sizeof page);
}

static void buffers_and_devices_of_every_size_serve(void **state)
{
    static const struct {
        uint32_t block_bytes;
        uint64_t blocks;
        size_t work;
        enum slate_status status;
    } rows[] = {
        {512, 40000, 4096, SLATE_OK},
        {512, 40000, 4095, SLATE_ERR_BUFFER},
        {512, 40000, sizeof work, SLATE_OK},
        {512, 16, 4096, SLATE_OK},
        {512, 17, sizeof work, SLATE_OK},
        {512, 15, sizeof work, SLATE_ERR_TOO_SMALL},
        {4096, 9000, 32768, SLATE_OK},
        {4096, 9000, sizeof work, SLATE_OK},
        {4096, 9000, 32767, SLATE_ERR_BUFFER},
    };

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct ram ram, before;

        fill(&ram, rows[i].block_bytes, rows[i].blocks);
        ram_copy(&before, &ram);
        assert_ok(slate_media_open(&media, &ram.port));
        assert_status(
            slate_probe_start(&probe, &media, &agreed, work, rows[i].work),
            rows[i].status);
        if (rows[i].status == SLATE_OK) {
            step_on();
            assert_int_equal(probe.lost, 0);
            assert_true(probe.run > 0 && probe.places > 0);
            assert_false(slate_verdict_is_bad(slate_probe_verdict(&probe)));
        }
        assert_true(ram_equal(&ram, &before));
        assert_false(ram.claimed);
        ram_close(&ram);
        ram_close(&before);
    }
}

/* Stopped after every single step. */
static void a_stop_restores_everything(void **state)
{
    struct ram before;

    (void)state;
    fill(&before, 512, 8192);
    for (uint32_t steps = 0;; steps++) {
        struct ram ram;
        bool done;

        ram_copy(&ram, &before);
        assert_ok(slate_media_open(&media, &ram.port));
        assert_ok(slate_probe_start(&probe, &media, &agreed, work, 65536));
        for (uint32_t i = 0; i < steps; i++)
            assert_ok(slate_probe_step(&probe));
        done = probe.phase == SLATE_PROBE_DONE;
        slate_probe_stop(&probe);
        step_on();
        assert_true(ram_equal(&ram, &before));
        assert_int_equal(probe.lost, 0);
        ram_close(&ram);
        if (done)
            break;
    }
    ram_close(&before);
}

/* A write that fails once, at every write in turn: found, and restored. */
static void a_failing_write_is_found_and_restored(void **state)
{
    struct ram before;

    (void)state;
    fill(&before, 512, 8192);
    for (uint64_t n = 1;; n++) {
        struct ram ram;
        uint64_t writes;

        ram_copy(&ram, &before);
        ram.fail_write = n;
        ram.tear = n % 2 == 0;
        assert_ok(slate_media_open(&media, &ram.port));
        assert_ok(slate_probe_start(&probe, &media, &agreed, work, 65536));
        step_on();
        writes = ram.writes;
        assert_true(ram_equal(&ram, &before));
        assert_int_equal(probe.lost, 0);
        ram_close(&ram);
        if (n > writes)
            break;
    }
    ram_close(&before);
}

/* A stick with these blocks and this content, whose probe is cut by the power
 * once it has written. */
static void cut_a_probe(unsigned blocks, const char *content, char line[160])
{
    static struct program guards;
    char members[400];

    /* what is saved is kept ahead of the first write */
    for (unsigned at = 300, kept = 0; at < 2000; at += 20) {
        snprintf(members, sizeof members,
                 "{\"blocks\": %u, \"power_cut_at_command\": %u, "
                 "\"content\": [%s]}",
                 blocks, at, content);
        lay_device("tide-gauge-8", members);
        assert_int_equal(tool_run(&guards, "guards sim:tide-gauge-8"), 0);
        snprintf(line, 160, "probe sim:tide-gauge-8 --consent %.8s",
                 guards.out);
        assert_int_equal(tool_run(&p, line), 4);
        kept += strstr(p.err, "put it back") != NULL ? 1u : 0u;
        if (kept == 6)
            return;
        sh("rm -f \"$XDG_STATE_HOME\"/trueslate/*.kept", 0);
    }
    fail_msg("no probe was cut after it had written");
}

/* The power goes in the middle: the next probe puts back what the file has. */
static void a_power_cut_is_made_good_by_the_next_probe(void **state)
{
    static const char content[] =
        "{\"at\": 1048576, \"text\": \"the tide of the fourth\"}, "
        "{\"at\": 33553920, \"text\": \"the last block\"}";
    char line[160], found[64] = "";
    FILE *blocks;

    (void)state;
    cut_a_probe(65536, content, line);
    expect(line, 0, "what an earlier probe had left unrestored");
    blocks = fopen(in_folder("bench/tide-gauge-8.blocks"), "r");
    assert_non_null(blocks);
    assert_int_equal(fseek(blocks, 1048576, SEEK_SET), 0);
    assert_int_equal(fread(found, 1, 22, blocks), 22);
    assert_string_equal(found, "the tide of the fourth");
    assert_int_equal(fseek(blocks, 33553920, SEEK_SET), 0);
    assert_int_equal(fread(found, 1, 14, blocks), 14);
    assert_memory_equal(found, "the last block", 14);
    fclose(blocks);
    assert_int_equal(tool_run(&p, line), 0);
    assert_null(strstr(p.out, "earlier"));
}

/* Renewed in between: what the file has must not come back over it. */
static void what_came_later_stays(void **state)
{
    char line[160], renew[200];

    (void)state;
    cut_a_probe(262144, "{\"at\": 1048576, \"text\": \"the tide\"}", line);
    snprintf(renew, sizeof renew, "renew %s --label LATER --no-probe",
             line + strlen("probe "));
    expect(renew, 0, "one FAT32");
    expect(line, 0, "an earlier probe");
    expect("assess sim:tide-gauge-8", 0, "LATER");
    assert_non_null(strstr(p.out, "Nothing is wrong"));
}

static bool is_kept(void)
{
    return kept_files() > 0;
}

/* Ctrl-C once it writes: everything is restored, and the claim is gone. */
static void an_interrupted_probe_restores(void **state)
{
    (void)state;
    lay_device("tide-gauge-8", "{\"bytes_per_second\": 2000000}");
    p.interrupt_when = is_kept;
    tool_run(&p, "probe sim:tide-gauge-8 --consent NUSER-37");
    p.interrupt_when = NULL;
    assert_int_equal(p.code, 6);
    assert_non_null(strstr(p.err, "every block is as it was"));
    assert_false(is_kept());
    lay_device("tide-gauge-8", "{}");
    expect("probe sim:tide-gauge-8 --consent NUSER-37", 0, "is as it was");
}

static void the_tool_tells_whom_not_to_trust(void **state)
{
    (void)state;
    expect("probe sim:bargain-64", 3, "add --consent RUTER-68");
    expect("probe sim:bargain-64 --consent RUTER-99", 3, "asks for RUTER-68");
    assert_int_equal(
        tool_run(&p, "probe sim:bargain-64 --consent RUTER-68 --json"), 5);
    assert_non_null(strstr(p.err, "not to be trusted: false-capacity"));
    check_schema("probe");
    expect_text("verdict", "false-capacity");
    assert_int_equal(number("blocks_not_restored"), 0);
    expect("probe sim:tide-gauge-8 --consent NUSER-37", 0,
           "every block that was tried is as it was");
    expect("probe sim:logger-card-9 --consent WALUD-67", 3, "tells by what");
    expect("probe sim:stick-locked --consent WUJEN-74", 3, "tells by what");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(every_kind_of_device_is_told, fresh_bench),
        cmocka_unit_test(an_odd_wrap_is_found),
        cmocka_unit_test(buffers_and_devices_of_every_size_serve),
        cmocka_unit_test(a_stop_restores_everything),
        cmocka_unit_test(a_failing_write_is_found_and_restored),
        cmocka_unit_test(a_power_cut_is_made_good_by_the_next_probe),
        cmocka_unit_test(what_came_later_stays),
        cmocka_unit_test(an_interrupted_probe_restores),
        cmocka_unit_test_setup(the_tool_tells_whom_not_to_trust, fresh_bench),
    };

    return cmocka_run_group_tests_name("probe", tests, NULL, clean);
}
