/* SPDX-License-Identifier: MIT */
/* The shipped bench: every device is looked at cheaply, each command set is
 * renewed over its own commands, and each fault shows as what it is. */
#include <stdio.h>
#include <stdlib.h>

#include <trueslate/port_sim.h>

#include "check.h"
#include "program.h"

static struct session s;
static struct slate_sim *sim;

static enum slate_status open_device(const char *name)
{
    char why[SLATE_SIM_WHY_ROOM];
    enum slate_status status =
        slate_sim_open(in_folder("bench"), name, &sim, why);

    return status != SLATE_OK ? status
                              : slate_media_open(&s.media, slate_sim_port(sim));
}

static enum slate_status look(void)
{
    return session_assess(&s, SLATE_DEPTH_FULL);
}

static enum slate_status draft(const char *label)
{
    struct wanted goal = {0};
    enum slate_status status = look();

    if (status != SLATE_OK)
        return status;
    strcpy(goal.label, label);
    return session_make(&s, &goal);
}

static int fresh(void **state)
{
    char from[512], why[SLATE_SIM_WHY_ROOM];

    (void)state;
    snprintf(from, sizeof from, "%s/share/bench", getenv("SOURCE"));
    return slate_sim_lay(from, in_folder("bench"), why) == SLATE_OK ? 0 : 1;
}

static uint64_t bytes_read(void)
{
    return s.media.traffic.blocks_read * s.media.geometry.block_bytes;
}

static void hold(const char *name, uint64_t commands, uint64_t bytes)
{
    if (s.media.traffic.commands > commands || bytes_read() > bytes)
        print_message("%s takes %u commands, %u bytes\n", name,
                      (unsigned)s.media.traffic.commands,
                      (unsigned)bytes_read());
    assert_true(s.media.traffic.commands <= commands);
    assert_true(bytes_read() <= bytes);
}

static void count(void *context, const char *name)
{
    uint32_t *devices = context;

    if (open_device(name) == SLATE_OK &&
        session_assess(&s, SLATE_DEPTH_GLANCE) == SLATE_OK)
        hold(name, 64, 65536);
    slate_sim_close(sim);
    if (open_device(name) == SLATE_OK && look() == SLATE_OK) {
        /* what has no table is looked at all over */
        if (s.facts.sample.places > 0)
            hold(name, 256, 1048576);
        else
            hold(name, 64, s.media.geometry.block_bytes == 512 ? 65536 : 98304);
    }
    assert_int_equal(strlen(s.media.tag), 8); /* also when it cannot be used */
    slate_sim_close(sim);
    (*devices)++;
}

static void looking_at_any_device_is_cheap(void **state)
{
    uint32_t devices = 0;

    (void)state;
    assert_ok(slate_sim_list(in_folder("bench"), count, &devices));
    assert_true(devices >= 24);
}

/* USB, SD native and SPI, ATA, NVMe, SCSI; 512 and 4096 byte blocks. */
static void every_command_set_renews_its_device(void **state)
{
    static const char *const names[] = {
        "tide-gauge-8",  "buoy-stick-12", "logger-card-3",
        "logger-card-4", "shore-disk-1",  "station-nvme-1",
        "array-disk-pi", "disk-sleepy",   "mast-camera-2/1"};

    (void)state;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        print_message("  %s\n", names[i]);
        assert_ok(open_device(names[i]));
        assert_ok(draft("FRESH"));
        assert_ok(session_enact(&s, sizeof s.work));
        slate_sim_close(sim);
        assert_ok(open_device(names[i])); /* another run */
        assert_ok(session_prove(&s, sizeof s.work));
        assert_ok(look());
        assert_string_equal(s.facts.volume[0].label, "FRESH");
        assert_ok(slate_media_eject(&s.media));
        slate_sim_close(sim);
    }
}

static void expect_prove(const char *name, enum slate_status enacted,
                         enum slate_status proved)
{
    assert_ok(open_device(name));
    assert_ok(draft("TRY"));
    assert_status(session_enact(&s, sizeof s.work), enacted);
    assert_status(session_prove(&s, sizeof s.work), proved);
    slate_sim_close(sim);
}

/* What lies about its size or keeps its old content is found by reading back:
 * the device without writes anywhere, the others where their structures lie
 * beyond the true capacity, as at the very end. */
static void liars_are_not_proved(void **state)
{
    (void)state;
    expect_prove("logger-worn", SLATE_ERR_UNPROVED, SLATE_ERR_UNPROVED);
    expect_prove("bargain-256", SLATE_OK, SLATE_ERR_UNPROVED);
    expect_prove("bargain-64", SLATE_OK, SLATE_ERR_UNPROVED);
}

static void failing_devices_say_where(void **state)
{
    (void)state;
    assert_ok(open_device("station-nvme-2"));
    assert_ok(draft("NO"));
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_WRITE);
    assert_true(s.media.fault.lba <= 2048 + 8);
    slate_sim_close(sim);
    assert_ok(open_device("shore-disk-2")); /* block 0: at the third try */
    assert_ok(look());
    assert_status(slate_media_read(&s.media, 1000000, 1, s.work),
                  SLATE_ERR_READ);
    assert_ok(slate_media_read(&s.media, 999999, 1, s.work));
    slate_sim_close(sim);
    assert_ok(open_device("stick-loose"));
    assert_ok(draft("NO"));
    assert_status(session_enact(&s, SLATE_WORK_MIN), SLATE_ERR_NO_DEVICE);
    slate_sim_close(sim);
    assert_ok(open_device("stick-locked"));
    assert_status(draft("NO"), SLATE_ERR_GUARD);
    slate_sim_close(sim);
}

/* A power cut that loses the cache and tears a write: the same draft goes on
 * afterwards, and is proved. */
static void a_power_cut_is_survived(void **state)
{
    (void)state;
    assert_ok(open_device("stick-storm"));
    assert_ok(draft("STORM"));
    assert_status(session_enact(&s, SLATE_WORK_MIN), SLATE_ERR_NO_DEVICE);
    slate_sim_close(sim);
    assert_ok(open_device("stick-storm"));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
    slate_sim_close(sim);
}

static void short_transfers_are_taken_up_where_they_ended(void **state)
{
    (void)state;
    expect_prove("stick-short", SLATE_OK, SLATE_OK);
}

static void the_largest_device_is_reached_to_its_end(void **state)
{
    uint8_t out[512] = "the last block of 16 EiB", in[512];

    (void)state;
    assert_ok(open_device("archive-volume"));
    assert_int_equal(s.media.geometry.block_count, 36028797018963967u);
    enter(&s.media);
    assert_ok(slate_media_write(&s.media, 36028797018963966u, 1, out));
    assert_ok(slate_media_write(&s.media, 18014398509481984u, 1, out));
    slate_sim_close(sim);
    assert_ok(open_device("archive-volume"));
    assert_ok(slate_media_read(&s.media, 36028797018963966u, 1, in));
    assert_memory_equal(in, out, 512);
    enter(&s.media);
    assert_ok(
        slate_media_clear(&s.media, 36028797018963960u, 7, SLATE_CLEAR_ZERO));
    assert_ok(slate_media_read(&s.media, 36028797018963966u, 1, in));
    assert_int_equal(in[0], 0);
    slate_sim_close(sim);
}

/* Each block of the disk is one of the dock's, whatever it calls them. */
static void docks_that_miscount_blocks(void **state)
{
    (void)state;
    assert_ok(open_device("dock-eight-small"));
    assert_int_equal(slate_geometry_bytes(&s.media.geometry),
                     488378646ull * 512);
    memset(s.work, 0x77, 1024);
    enter(&s.media);
    assert_ok(slate_media_write(&s.media, 8, 2, s.work));
    assert_ok(slate_media_read(&s.media, 9, 1, s.work + 4096));
    assert_memory_equal(s.work, s.work + 4096, 512);
    slate_sim_close(sim);
}

static int clean(void **state)
{
    (void)state;
    program_clean();
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(looking_at_any_device_is_cheap),
        cmocka_unit_test_setup(every_command_set_renews_its_device, fresh),
        cmocka_unit_test_setup(liars_are_not_proved, fresh),
        cmocka_unit_test_setup(failing_devices_say_where, fresh),
        cmocka_unit_test_setup(a_power_cut_is_survived, fresh),
        cmocka_unit_test_setup(short_transfers_are_taken_up_where_they_ended,
                               fresh),
        cmocka_unit_test_setup(the_largest_device_is_reached_to_its_end, fresh),
        cmocka_unit_test_setup(docks_that_miscount_blocks, fresh),
    };

    return cmocka_run_group_tests_name("bench", tests, fresh, clean);
}
