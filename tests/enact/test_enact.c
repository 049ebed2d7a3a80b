/* SPDX-License-Identifier: MIT */
/* Enacting and proving: cut at every write, resumed, refused, and the same
 * with the smallest and a large work buffer. */
#include "check.h"

static struct session s;

/* 48 MiB with an old table, so that every write can be cut in turn. */
static void open_small(struct ram *ram, bool all_operations)
{
    ram_open(ram, 512, 98304, all_operations);
    ram_put_entry(ram, 0, 0x0E, true, 2048, 20000);
    ram_put(ram, 2048 * 512, "an old volume", 13);
    ram_put(ram, 98303 * 512, "an old record", 13);
}

static void begin(struct ram *ram)
{
    struct wanted goal = {.label = "CUT"};

    open_small(ram, true);
    assert_ok(session_draft(&s, ram, &goal));
}

static void small_and_large_buffers_write_the_same(void **state)
{
    struct ram one, two;

    (void)state;
    begin(&one);
    ram_copy(&two, &one);
    assert_ok(session_enact(&s, SLATE_WORK_MIN));
    assert_ok(session_prove(&s, SLATE_WORK_MIN));
    assert_false(one.claimed);
    assert_ok(slate_media_open(&s.media, &two.port));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_ok(session_prove(&s, sizeof s.work));
    assert_true(ram_equal(&one, &two));
    assert_true(one.writes > two.writes);
    ram_close(&one);
    ram_close(&two);
}

static void ports_without_optional_operations_serve(void **state)
{
    struct wanted goal = {.label = "BARE"};
    struct ram ram;
    uint8_t random[16];

    (void)state;
    open_small(&ram, false);
    assert_ok(session_draft(&s, &ram, &goal));
    assert_ok(slate_media_random(&s.media, random, sizeof random));
    assert_memory_equal(random, s.media.digest, sizeof random);
    assert_int_equal(slate_media_milliseconds(&s.media), 0);
    assert_ok(session_enact(&s, SLATE_WORK_MIN));
    assert_ok(session_prove(&s, SLATE_WORK_MIN));
    ram_close(&ram);
}

/* What a host would see: the old table, nothing, or the new volume. */
static void check_state(const struct ram *ram, const struct ram *before,
                        const struct ram *after)
{
    uint8_t block[512], old[512], new[512];
    struct slate_mark mark;

    ram_get(ram, 0, block, sizeof block);
    ram_get(before, 0, old, sizeof old);
    ram_get(after, 0, new, sizeof new);
    if (slate_mark_read(block, sizeof block, &mark)) {
        assert_int_equal(number_at(block, 510, 2), 0);
        assert_memory_equal(mark.seal, s.draft.seal, sizeof mark.seal);
    } else if (memcmp(block, old, 512) == 0) {
        assert_true(ram_equal(ram, before));
    } else {
        assert_memory_equal(block, new, 512);
        assert_true(ram_equal(ram, after));
    }
}

/* Write n fails, n = 1, 2, 3, ... until a run meets no failure: once, for
 * ever, and torn. After each the device is old, marked or new; and enacting
 * again gets it to the end. */
static void a_failure_at_any_write_leaves_no_mixture(void **state)
{
    struct ram before, after;
    uint64_t runs = 0;

    (void)state;
    begin(&before);
    ram_copy(&after, &before);
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, 16384));
    for (uint64_t n = 1;; n++) {
        struct ram ram;
        enum slate_status status;

        ram_copy(&ram, &before);
        ram.fail_write = n;
        ram.fail_for_ever = n % 2 == 0;
        ram.tear = n % 3 == 0;
        assert_ok(slate_media_open(&s.media, &ram.port));
        status = session_enact(&s, 16384);
        assert_false(ram.claimed);
        check_state(&ram, &before, &after);
        if (status == SLATE_OK) {
            ram_close(&ram);
            break;
        }
        assert_status(status, SLATE_ERR_WRITE);
        assert_int_equal(s.media.fault.operation, SLATE_OPERATION_WRITE);
        ram.fail_write = 0;
        assert_ok(slate_media_open(&s.media, &ram.port));
        status = session_enact(&s, SLATE_WORK_MIN);
        if (status != SLATE_ERR_ALREADY) /* torn at the very last block */
            assert_ok(status);
        assert_true(ram_equal(&ram, &after));
        ram_close(&ram);
        runs++;
    }
    assert_true(runs > 100);
    ram_close(&before);
    ram_close(&after);
}

static bool stop_at(void *context, const struct slate_pass *pass)
{
    return pass->done < *(const uint64_t *)context;
}

static void cancelled_work_goes_on_and_writes_only_the_rest(void **state)
{
    struct slate_enact enact;
    struct ram ram, fresh;
    uint64_t half;

    (void)state;
    begin(&ram);
    ram_copy(&fresh, &ram);
    half = slate_draft_blocks(&s.draft, false) / 2;
    assert_status(slate_enact_run(&enact, &s.draft, &s.media, s.media.tag,
                                  s.work, SLATE_WORK_MIN, stop_at, &half),
                  SLATE_ERR_STOPPED);
    assert_false(ram.claimed);
    assert_ok(session_look(&s, &ram));
    assert_true(s.facts.marked);
    assert_ok(slate_enact_run(&enact, &s.draft, &s.media, s.media.tag, s.work,
                              SLATE_WORK_MIN, NULL, NULL));
    assert_true(enact.resumed);
    assert_true(enact.written < enact.pass.total - half + 8);
    assert_ok(session_prove(&s, SLATE_WORK_MIN));
    assert_status(session_enact(&s, SLATE_WORK_MIN), SLATE_ERR_ALREADY);
    assert_ok(slate_media_open(&s.media, &fresh.port));
    assert_ok(session_enact(&s, sizeof s.work));
    assert_true(ram_equal(&ram, &fresh));
    ram_close(&ram);
    ram_close(&fresh);
}

static void nothing_is_written_without_consent(void **state)
{
    static const char *const wrong[] = {NULL, "", "TARUK-4", "taruk-47",
                                        "TARUK-47 "};
    struct slate_enact enact;
    struct ram ram;

    (void)state;
    begin(&ram);
    for (size_t i = 0; i < sizeof wrong / sizeof wrong[0]; i++)
        assert_status(slate_enact_start(&enact, &s.draft, &s.media, wrong[i],
                                        s.work, sizeof s.work),
                      SLATE_ERR_CONSENT);
    assert_int_equal(ram.writes, 0);
    assert_false(ram.claimed);
    ram_close(&ram);
}

static void drafts_meet_only_their_own_device(void **state)
{
    struct ram ram;

    (void)state;
    begin(&ram);
    strcpy(ram.facts.identity.serial, "LC-0099");
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_OTHER_DEVICE);
    assert_status(session_prove(&s, sizeof s.work), SLATE_ERR_OTHER_DEVICE);
    strcpy(ram.facts.identity.serial, "LC-0031");
    ram_put(&ram, 2048 * 512 + 20, "a new file", 10);
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_CHANGED);
    ram.busy = true;
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_BUSY);
    ram.facts.read_only = true;
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_PROTECTED);
    assert_status(session_enact(&s, SLATE_WORK_MIN - 1), SLATE_ERR_BUFFER);
    assert_int_equal(ram.writes, 0);
    ram_close(&ram);
}

static void the_proof_finds_every_wrong_block(void **state)
{
    struct slate_prove prove;
    struct ram ram;
    uint8_t byte = 0x42;

    (void)state;
    begin(&ram);
    assert_ok(session_enact(&s, sizeof s.work));
    ram_put(&ram, (s.draft.part[0].range.first + 40) * 512 + 511, &byte, 1);
    ram_put(&ram, (s.draft.part[0].range.first + 50) * 512, &byte, 1);
    assert_status(slate_prove_run(&prove, &s.draft, &s.media, s.work,
                                  sizeof s.work, NULL, NULL),
                  SLATE_ERR_UNPROVED);
    assert_int_equal(prove.different, 2);
    assert_int_equal(prove.pass.done, slate_draft_blocks(&s.draft, true));
    ram.fail_read = s.draft.part[0].range.first + 33;
    assert_status(session_prove(&s, sizeof s.work), SLATE_ERR_READ);
    ram_close(&ram);
}

/* The mark goes out, durable, ahead of everything; block 0 behind it all. */
static void flushes_stand_where_order_matters(void **state)
{
    struct slate_enact enact;
    struct ram ram;

    (void)state;
    begin(&ram);
    assert_ok(slate_enact_start(&enact, &s.draft, &s.media, s.media.tag, s.work,
                                sizeof s.work));
    assert_ok(slate_enact_step(&enact));
    assert_int_equal(ram.writes, 1);
    assert_int_equal(ram.flushes, 1);
    while (!enact.pass.finished)
        assert_ok(slate_enact_step(&enact));
    assert_int_equal(ram.flushes, 3);
    assert_ok(slate_enact_end(&enact));
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(small_and_large_buffers_write_the_same),
        cmocka_unit_test(ports_without_optional_operations_serve),
        cmocka_unit_test(a_failure_at_any_write_leaves_no_mixture),
        cmocka_unit_test(cancelled_work_goes_on_and_writes_only_the_rest),
        cmocka_unit_test(nothing_is_written_without_consent),
        cmocka_unit_test(drafts_meet_only_their_own_device),
        cmocka_unit_test(the_proof_finds_every_wrong_block),
        cmocka_unit_test(flushes_stand_where_order_matters),
    };

    return cmocka_run_group_tests_name("enact", tests, NULL, NULL);
}
