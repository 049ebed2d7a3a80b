/* SPDX-License-Identifier: MIT */
/* How blocks get to a device and back: overlapped, cleared by a command, left
 * alone where they are equal, tried again; each time the same comes out. */
#include <stdlib.h>

#include "check.h"
#include "craft.h"
#include "shim.h"

#define SMALL 98304u
#define LARGE 3906250u

static struct session s;

/* With noise where the new tables go, and no table. */
static void open_noisy(struct ram *ram, uint64_t blocks)
{
    ram_open(ram, 512, blocks, true);
    craft_noise(ram, 0, 8 * 1048576);
    craft_le(ram, 510, 0, 2);
}

/* Built when there were fewer operations: not a byte behind them is read. */
static void ports_built_earlier_serve(void **state)
{
    static const size_t sizes[] = {offsetof(struct slate_port_ops, flush),
                                   offsetof(struct slate_port_ops, clear),
                                   offsetof(struct slate_port_ops, random)};
    struct wanted goal = {.label = "EARLY"};

    (void)state;
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        struct ram ram;
        struct slate_port_ops *ops = malloc(sizes[i]);

        open_noisy(&ram, SMALL);
        memcpy(ops, ram.port.ops, sizes[i]);
        memcpy(ops, &sizes[i], sizeof ops->size);
        ram.port.ops = ops;
        assert_ok(session_draft(&s, &ram, &goal));
        assert_ok(session_enact(&s, SLATE_WORK_MIN));
        assert_ok(session_prove(&s, SLATE_WORK_MIN));
        assert_int_equal(slate_media_milliseconds(&s.media), i < 2 ? 0 : 7);
        ram_close(&ram);
        free(ops);
    }
}

/* The first block that such a device fails at, when nothing overlaps. */
static uint64_t first_fault(const struct ram *before, uint64_t fail_write)
{
    struct ram ram;

    ram_copy(&ram, before);
    ram.fail_write = fail_write;
    ram.fail_for_ever = true;
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_status(session_enact(&s, 8192), SLATE_ERR_WRITE);
    ram_close(&ram);
    return s.media.fault.lba;
}

/* While a transfer is under way, its half of the buffer is left alone, nothing
 * is flushed, and all ends the same; also when writes fail, or it is stopped.
 */
static void transfers_overlap_and_write_the_same(void **state)
{
    static const size_t sizes[] = {SLATE_WORK_MIN, 8192, 65536, 65536 + 512};
    struct wanted goal = {.label = "OVERLAP"};
    struct ram before, plain;

    (void)state;
    open_noisy(&before, SMALL);
    assert_ok(session_draft(&s, &before, &goal));
    ram_copy(&plain, &before);
    assert_ok(slate_media_open(&s.media, &plain.port));
    assert_ok(session_enact(&s, 65536));
    for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
        struct ram ram;

        ram_copy(&ram, &before);
        ram_let_overlap(&ram);
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(session_enact(&s, sizes[i]));
        assert_true(ram.submits > 3);
        assert_true(ram.doubles > 0);
        assert_true(ram_equal(&ram, &plain));
        assert_null(ram.under_way);
        ram.submits = ram.doubles = 0;
        assert_ok(session_prove(&s, sizes[i]));
        assert_true(ram.submits > 2);
        assert_true(ram.doubles > 0);
        ram_close(&ram);
    }
    for (uint64_t n = 1; n <= 12; n++) {
        struct slate_enact enact;
        struct slate_prove prove;
        uint64_t lba = first_fault(&before, n);
        struct ram ram;

        ram_copy(&ram, &before);
        ram_let_overlap(&ram);
        ram.fail_write = n;
        ram.fail_for_ever = true;
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_status(session_enact(&s, 8192), SLATE_ERR_WRITE);
        assert_int_equal(s.media.fault.operation, SLATE_OPERATION_WRITE);
        assert_int_equal(s.media.fault.lba, lba);
        assert_null(ram.under_way);
        assert_false(ram.claimed);
        ram.fail_write = 0; /* and on, stopped once more */
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(slate_enact_start(&enact, &s.draft, &s.media, s.media.tag,
                                    s.work, 8192));
        for (uint64_t i = 0; i < n; i++)
            assert_ok(slate_enact_step(&enact));
        assert_ok(slate_enact_end(&enact));
        assert_null(ram.under_way);
        assert_ok(session_enact(&s, 8192));
        assert_true(ram_equal(&ram, &plain));
        assert_ok(slate_prove_start(&prove, &s.draft, &s.media, s.work, 8192));
        for (uint64_t i = 0; i < n; i++)
            assert_ok(slate_prove_step(&prove));
        assert_ok(slate_prove_end(&prove));
        assert_null(ram.under_way);
        ram_close(&ram);
    }
    ram_close(&before);
    ram_close(&plain);
}

/* Where reading is three times as fast, a device that is renewed once more
 * keeps what is equal; and nobody else's is read for nothing. */
static void what_is_equal_is_left_alone_where_reading_is_faster(void **state)
{
    static const uint32_t paces[][2] = {
        {1000, 20000}, {1000, 3100}, {1000, 2900}, {1000, 1000}, {0, 0}};
    struct wanted goal = {.label = "PACE"};
    struct ram fresh;

    (void)state;
    open_noisy(&fresh, LARGE);
    assert_ok(session_draft(&s, &fresh, &goal));
    for (size_t i = 0; i < 2 * sizeof paces / sizeof paces[0]; i++) {
        bool again = i % 2 == 1, faster = i / 2 < 2;
        struct slate_enact enact;
        struct ram ram;

        ram_copy(&ram, &fresh);
        assert_ok(slate_media_open(&s.media, &ram.port));
        if (again) { /* all but the table is what it was */
            assert_ok(session_enact(&s, 65536));
            ram_put(&ram, 0, "another block 0", 15);
        }
        assert_ok(session_draft(&s, &ram, &goal));
        ram.read_pace_us = paces[i / 2][0];
        ram.write_pace_us = paces[i / 2][1];
        ram.blocks_written = 0;
        assert_ok(slate_enact_run(&enact, &s.draft, &s.media, s.media.tag,
                                  s.work, 65536, NULL, NULL));
        assert_ok(session_prove(&s, 65536));
        assert_int_equal(enact.written, ram.blocks_written);
        assert_int_equal(enact.written + enact.equal, enact.pass.total);
        if (!again) { /* noise: all of it is written */
            assert_int_equal(enact.pace.compares, faster);
            assert_true(enact.written > enact.pass.total / 2);
        } else { /* nothing had to be written, and so nothing was timed */
            assert_false(enact.pace.known);
            assert_true(enact.written < 256); /* noise in a gap, once */
        }
        ram_close(&ram);
    }
    ram_close(&fresh);
}

/* A device that fails at reading is not asked to read what can be written. */
static void a_failing_read_ends_comparing(void **state)
{
    struct wanted goal = {.label = "WORN"};
    struct slate_walk walk = {.moment = SLATE_MOMENT_BODY};
    struct slate_extent extent;
    struct slate_enact enact;
    struct ram ram;

    (void)state;
    open_noisy(&ram, LARGE);
    assert_ok(session_draft(&s, &ram, &goal));
    ram.read_pace_us = 1000;
    ram.write_pace_us = 90000;
    assert_true(slate_draft_next(&s.draft, &walk, &extent));
    ram.fail_read = extent.first + 70;
    assert_ok(slate_enact_run(&enact, &s.draft, &s.media, s.media.tag, s.work,
                              65536, NULL, NULL));
    assert_true(enact.pace.known);
    assert_false(enact.pace.compares);
    assert_int_equal(enact.written + enact.equal, enact.pass.total);
    assert_int_equal(s.media.fault.status, SLATE_OK);
    ram.fail_read = 0;
    assert_ok(session_prove(&s, 65536));
    ram_close(&ram);
}

/* As often as whoever reads wants it, and no more. */
static void reads_are_tried_as_the_policy_has_it(void **state)
{
    static const uint32_t tries[] = {0, 1, 2, 7};
    uint8_t block[512];
    struct ram ram;
    struct shim shim;

    (void)state;
    open_noisy(&ram, SMALL);
    shim_open(&shim, &ram.port);
    shim.unreadable = 5;
    shim.swap_at = UINT64_MAX; /* calls are counted */
    assert_ok(slate_media_open(&s.media, &shim.port));
    for (size_t i = 0; i < sizeof tries / sizeof tries[0]; i++) {
        struct slate_unread unread = {0};
        const struct slate_policy policy = {.tries = tries[i]};
        const struct slate_policy noting = {.tries = tries[i],
                                            .unread = &unread};
        struct slate_policy before = slate_media_read_by(&s.media, &policy);

        shim.calls = 0;
        memset(&s.media.fault, 0, sizeof s.media.fault);
        assert_status(slate_media_read(&s.media, 5, 1, block), SLATE_ERR_READ);
        assert_int_equal(shim.calls, tries[i] == 0 ? 3 : tries[i]);
        assert_int_equal(s.media.fault.lba, 5);
        assert_null(slate_media_read_by(&s.media, &noting).unread);
        assert_ok(slate_media_read(&s.media, 5, 1, block));
        assert_int_equal(unread.count, 1);
        assert_int_equal(unread.lba[0], 5);
        assert_int_equal(block[100], 0);
        (void)slate_media_read_by(&s.media, &before);
    }
    shim_close(&shim);
    ram_close(&ram);
}

/* Whatever the device makes of the command, the same comes out. */
static void zeros_are_cleared_where_that_holds(void **state)
{
    struct wanted goal = {.label = "ZEROS"};
    struct ram before, plain;
    uint64_t writes;

    (void)state;
    open_noisy(&before, LARGE);
    assert_ok(session_draft(&s, &before, &goal));
    ram_copy(&plain, &before);
    assert_ok(slate_media_open(&s.media, &plain.port));
    assert_ok(session_enact(&s, 65536));
    writes = plain.writes;
    for (int clearing = RAM_CLEARS; clearing <= RAM_LIES; clearing++) {
        struct slate_enact enact;
        struct ram ram;

        ram_copy(&ram, &before);
        ram_let_clear(&ram, (enum ram_clearing)clearing);
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(slate_enact_run(&enact, &s.draft, &s.media, s.media.tag,
                                  s.work, 65536, NULL, NULL));
        assert_ok(session_prove(&s, 65536));
        assert_true(ram_equal(&ram, &plain));
        if (clearing == RAM_CLEARS) {
            assert_true(enact.cleared > 6000 && ram.writes < writes / 4);
            assert_int_equal(enact.cleared + enact.written, enact.pass.total);
        } else { /* what lies is believed where zeros were before */
            assert_int_equal(ram.clears, clearing == RAM_REFUSES ? 1 : 2);
            assert_true(enact.cleared < 4096);
        }
        ram_close(&ram);
    }
    ram_close(&plain);
    ram_close(&before);
}

static void the_power_may_go_while_zeros_are_cleared(void **state)
{
    static const struct shim_way ways[] = {{0, false, false, SHIM_LOST},
                                           {2000000, false, true, SHIM_KEPT},
                                           {70000, true, false, SHIM_SOME}};
    struct wanted goal = {.label = "ZEROS"};
    struct ram before, after;

    (void)state;
    open_noisy(&before, LARGE);
    assert_ok(session_draft(&s, &before, &goal));
    ram_let_clear(&before, RAM_CLEARS);
    ram_copy(&after, &before);
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, 65536));
    for (uint64_t n = 1; n <= after.writes + after.clears; n++) {
        for (size_t way = 0; way < 3; way++) {
            const struct cut cut = {&before,   &after,      n,
                                    ways[way], (uint32_t)n, 65536};
            struct ram ram;
            struct shim shim;

            session_cut(&s, &cut, &ram, &shim);
            session_go_on(&s, &cut, &ram, &shim);
        }
    }
    ram_close(&before);
    ram_close(&after);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(ports_built_earlier_serve),
        cmocka_unit_test(transfers_overlap_and_write_the_same),
        cmocka_unit_test(what_is_equal_is_left_alone_where_reading_is_faster),
        cmocka_unit_test(a_failing_read_ends_comparing),
        cmocka_unit_test(reads_are_tried_as_the_policy_has_it),
        cmocka_unit_test(zeros_are_cleared_where_that_holds),
        cmocka_unit_test(the_power_may_go_while_zeros_are_cleared),
    };

    return cmocka_run_group_tests_name("transfers", tests, NULL, NULL);
}
