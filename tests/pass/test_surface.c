/* SPDX-License-Identifier: MIT */
/* Regions of a device: how fast, which are slow, where it fails. */
#include "check.h"

#define CELLS 100u

static struct slate_cell cell[CELLS];
static struct slate_surface surface;

static void place(uint64_t blocks, uint32_t bytes)
{
    const struct slate_geometry geometry = {blocks, bytes, bytes, 0};

    slate_surface_place(&surface, &geometry, cell, CELLS);
}

/* From one block to the largest device there can be, regions cover it. */
static void regions_cover_any_device(void **state)
{
    static const uint64_t sizes[] = {1,    2,     99,         100,
                                     101,  199,   1000000007, UINT64_MAX / 512,
                                     4095, 10000, 12345678};

    (void)state;
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        uint64_t blocks = 0;

        place(sizes[i], 512);
        assert_in_range(surface.count, 1, CELLS);
        assert_true((surface.count - 1) * surface.cell_blocks < sizes[i]);
        assert_true(sizes[i] / surface.cell_blocks <= surface.count);
        slate_surface_note(&surface, 0, UINT64_MAX, 1000000000);
        slate_surface_fail(&surface, sizes[i] - 1, 5);
        slate_surface_note(&surface, sizes[i], 5, 7); /* beyond */
        for (uint32_t c = 0; c < surface.count; c++) {
            blocks += cell[c].blocks;
            assert_int_equal(cell[c].failed, c + 1 == surface.count);
        }
        assert_int_equal(blocks, sizes[i]);
    }
}

/* Time is shared out, and none of it is lost. */
static void time_is_shared_out(void **state)
{
    uint64_t us = 0;

    (void)state;
    place(1000, 4096);
    slate_surface_note(&surface, 5, 30, 301);
    for (uint32_t c = 0; c < surface.count; c++)
        us += cell[c].us;
    assert_int_equal(us, 301);
    assert_int_equal(cell[0].blocks, 5);
    assert_int_equal(cell[3].blocks, 5);
    assert_in_range(cell[0].us, 49, 51);
    assert_in_range(cell[1].us, 99, 102);
    assert_int_equal(slate_surface_rate(&surface, 50), 0);
    slate_surface_note(&surface, 500, 10, 1000000);
    assert_int_equal(slate_surface_rate(&surface, 50), 40960);
}

/* A device of one pace but for some regions. */
static void run_at(uint64_t us, uint32_t slow, uint32_t count, uint64_t slow_us)
{
    place(1000, 512);
    for (uint32_t c = 0; c < CELLS; c++)
        slate_surface_note(&surface, c * 10, 10,
                           c >= slow && c < slow + count ? slow_us : us);
}

static void slow_regions_are_told(void **state)
{
    struct slate_slow slow;
    uint32_t at = 0;

    (void)state;
    run_at(20000, 30, 3, 90000);
    assert_int_equal(slate_surface_median(&surface), 256000);
    assert_true(slate_surface_next_slow(&surface, &at, &slow));
    assert_int_equal(slow.range.first, 300);
    assert_int_equal(slow.range.count, 30);
    assert_int_equal(slow.bytes_per_second, 56888);
    assert_false(slate_surface_next_slow(&surface, &at, &slow));
    at = 0;
    run_at(20000, 99, 1, 800000); /* the last one */
    assert_true(slate_surface_next_slow(&surface, &at, &slow));
    assert_int_equal(slow.range.first, 990);
    assert_int_equal(slow.range.count, 10);
    at = 0; /* near misses: not that slow; over before it is noticed; all of it
             */
    run_at(20000, 30, 3, 79000);
    assert_false(slate_surface_next_slow(&surface, &at, &slow));
    at = 0;
    run_at(200, 30, 3, 16000);
    assert_false(slate_surface_next_slow(&surface, &at, &slow));
    at = 0;
    run_at(900000, 0, 0, 0);
    assert_false(slate_surface_next_slow(&surface, &at, &slow));
    at = 0;
    place(1000, 512);
    assert_int_equal(slate_surface_median(&surface), 0);
    assert_false(slate_surface_next_slow(&surface, &at, &slow));
}

/* A scan, and a pass over a draft, note what each region takes. */
static void work_is_noted(void **state)
{
    static struct session s;
    static struct slate_range found[8];
    const struct slate_ranges bad = {found, 8, 0};
    const struct slate_range all = {0, UINT64_MAX};
    struct slate_scan scan;
    struct ram ram;
    uint64_t us = 0;

    (void)state;
    ram_open(&ram, 512, 1000, true);
    ram.read_pace_us = 2000;
    ram.worn[0] = (struct slate_range){555, 2};
    ram.worn_reads = true;
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_ok(slate_scan_start(&scan, &s.media, &all, &bad, s.work, 5120));
    slate_surface_place(&surface, &s.media.geometry, cell, CELLS);
    scan.surface = &surface;
    while (scan.phase != SLATE_SCAN_DONE)
        assert_ok(slate_scan_step(&scan));
    for (uint32_t c = 0; c < CELLS; c++) {
        assert_int_equal(cell[c].blocks, 10);
        us += cell[c].us;
        if (c != 55)
            assert_int_equal(slate_surface_rate(&surface, c), 256000);
    }
    assert_true(cell[55].us > 40000); /* tried again and again */
    assert_int_equal(slate_scan_bad(&scan), 2);
    assert_true(us >= 2000000);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(regions_cover_any_device),
        cmocka_unit_test(time_is_shared_out),
        cmocka_unit_test(slow_regions_are_told),
        cmocka_unit_test(work_is_noted),
    };

    return cmocka_run_group_tests(tests, NULL, NULL);
}
