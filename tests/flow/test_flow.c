/* SPDX-License-Identifier: MIT */
/* The flow of a change: every stage in its order, nothing written ahead of
 * consent and of what comes before it, and no way around a refusal. */
#include <trueslate/flow.h>

#include "check.h"
#include "craft.h"
#include "memory_keeper.h"

#define BLOCKS 262144u

static struct session s;
static struct ram before, ram;
static struct slate_flow flow;

/* What a caller does, and what goes wrong on its side. */
static struct {
    enum slate_status plan;  /* what the plan ends with */
    const char *consent;     /* "TAG": the right one */
    bool mends;              /* the second copy of the table, keeping all */
    bool goes_on;            /* the draft is at hand: it is not made anew */
    bool changes;            /* the device, while somebody reads */
    uint64_t calls, stop_at; /* of goes_on */
    enum slate_stage seen[16];
    uint32_t stages;
} caller;

static enum slate_status make_plan(void *context, struct slate_flow *of)
{
    const struct slate_mend mend = {SLATE_MEND_GPT, SLATE_ATTRIBUTE_WHOLE};

    (void)context;
    assert_ptr_equal(of->draft, &s.draft);
    if (caller.plan != SLATE_OK || caller.goes_on)
        return caller.plan;
    return caller.mends
               ? session_mend(&s, &mend)
               : session_make(&s, &(struct wanted){.use = SLATE_USE_LOGGER,
                                                   .label = "WAVES"});
}

static const char *ask(void *context, const struct slate_flow *of)
{
    (void)context;
    assert_false(of->entered);
    if (caller.changes)
        craft_text(&ram, 1048576 + 64, "somebody else");
    return caller.consent != NULL && strcmp(caller.consent, "TAG") == 0
               ? of->media->tag
               : caller.consent;
}

static bool note(void *context, const struct slate_flow *of)
{
    (void)context;
    if (caller.stages == 0 || caller.seen[caller.stages - 1] != of->stage)
        caller.seen[caller.stages++] = of->stage;
    return ++caller.calls != caller.stop_at;
}

static struct slate_flow_hooks hooks = {.plan = make_plan,
                                        .agree = ask,
                                        .goes_on = note,
                                        .words = {"one volume", "an old one"}};

/* A GPT with a volume, of which the second copy may be damaged. */
static void lay(void)
{
    const struct craft_gpt gpt = {
        .parts = CRAFT_ALL, .partition = {{2048, 100000, 0, &craft_basic, 1}}};

    ram_open(&before, 512, BLOCKS, true);
    craft_gpt(&before, &gpt);
    craft_exfat(&before, 2048, 100000, "OLD");
    craft_flip(&before, (uint64_t)(BLOCKS - 1) * 512 + 16);
    ram_copy(&ram, &before);
    memset(&caller, 0, sizeof caller);
    caller.consent = "TAG";
    hooks.keeper = NULL;
    hooks.anyway = false;
}

static void put_away(void)
{
    ram_close(&ram);
    ram_close(&before);
}

static enum slate_status run_on(const struct slate_port *port)
{
    const struct slate_facts_room room = {s.found, s.found_volume,
                                          SLATE_FACTS_PARTITIONS, s.found_seen,
                                          SLATE_EVIDENCE_RANGES};

    assert_ok(slate_media_open(&s.media, port));
    slate_facts_place(&s.facts, &room);
    caller.stages = 0;
    caller.calls = 0;
    assert_ok(slate_flow_start(&flow, &hooks, &s.media, &s.facts, &s.draft,
                               s.work, 262144));
    return slate_flow_run(&flow);
}

static void every_stage_is_passed_in_its_order(void **state)
{
    (void)state;
    lay();
    hooks.keeper = &memory_keeper;
    memory.length = 0;
    memory.calls = 0;
    assert_ok(run_on(&ram.port));
    assert_int_equal(flow.stage, SLATE_STAGE_OVER);
    for (uint32_t i = 0; i < caller.stages; i++)
        assert_int_equal(caller.seen[i], SLATE_STAGE_PLAN + i);
    assert_int_equal(caller.stages, SLATE_STAGE_OVER - SLATE_STAGE_PLAN);
    assert_false(s.media.entered);
    assert_false(ram.claimed);
    assert_string_equal(s.facts.volume[0].label, "WAVES");
    assert_true(memory.length > 0);
    put_away();
}

/* Each refusal ends it, with the device as it was and given back. */
static void expect_refused(enum slate_status status, enum slate_stage stage)
{
    assert_status(run_on(&ram.port), status);
    assert_int_equal(flow.stage, stage);
    assert_status(slate_flow_step(&flow), status);
    if (!caller.changes)
        assert_true(ram_equal(&ram, &before));
    assert_int_equal(ram.blocks_written, 0);
    assert_false(ram.claimed);
    put_away();
}

static void what_is_refused_is_not_written(void **state)
{
    (void)state;
    lay();
    caller.plan = SLATE_ERR_TOO_SMALL;
    expect_refused(SLATE_ERR_TOO_SMALL, SLATE_STAGE_PLAN);
    lay();
    caller.consent = NULL;
    expect_refused(SLATE_ERR_CONSENT, SLATE_STAGE_AGREE);
    lay();
    caller.consent = "WAVES-22";
    expect_refused(SLATE_ERR_CONSENT, SLATE_STAGE_AGREE);
    lay();
    caller.changes = true;
    expect_refused(SLATE_ERR_CHANGED, SLATE_STAGE_ENTER);
    lay();
    ram.busy = true;
    expect_refused(SLATE_ERR_BUSY, SLATE_STAGE_ENTER);
    lay();
    hooks.keeper = &memory_keeper;
    memory.length = 0;
    memory.calls = 0;
    memory.fail_at = 2;
    expect_refused(SLATE_ERR_KEEPER, SLATE_STAGE_KEEP);
    memory.fail_at = 0;
    /* a record of an array stands where the second copy would be mended */
    lay();
    craft_text(&ram, (uint64_t)BLOCKS * 512 - 8192, "\xFC\x4E\x2B\xA9\1");
    ram_close(&before);
    ram_copy(&before, &ram);
    caller.mends = true;
    expect_refused(SLATE_ERR_LIVES, SLATE_STAGE_WEIGH);
    assert_int_equal(flow.living->kind, SLATE_LOSS_MEMBER);
}

/* Stopped after any piece of work it gives the device back, and the same goes
 * on to the same end, by its draft once something was written. */
static void stop_everywhere(bool mends)
{
    struct ram done;
    uint64_t all;

    lay();
    caller.mends = mends;
    assert_ok(run_on(&ram.port));
    all = caller.calls;
    ram_copy(&done, &ram);
    for (uint64_t at = 1; at <= all; at += 1 + all / 40) {
        bool begun;

        ram_close(&ram);
        ram_copy(&ram, &before);
        caller.stop_at = at;
        assert_status(run_on(&ram.port), SLATE_ERR_STOPPED);
        assert_false(ram.claimed);
        begun = flow.stage > SLATE_STAGE_WRITE ||
                (flow.stage == SLATE_STAGE_WRITE && flow.enact.pass.done > 0);
        if (!begun)
            assert_true(ram_equal(&ram, &before));
        caller.stop_at = 0;
        if (flow.stage < SLATE_STAGE_PROVE) {
            caller.goes_on = begun;
            assert_ok(run_on(&ram.port));
            assert_true(flow.in_place ? flow.enact.written == 0
                                      : flow.enact.resumed == begun);
            caller.goes_on = false;
        }
        assert_true(ram_equal(&ram, &done));
    }
    ram_close(&done);
    put_away();
}

static void what_is_stopped_goes_on(void **state)
{
    (void)state;
    stop_everywhere(false);
    stop_everywhere(true);
}

/* A device that drops what it is given is not called done. */
static void what_is_not_kept_is_not_proved(void **state)
{
    struct shim shim;

    (void)state;
    for (uint64_t deaf = 1; deaf < 12; deaf++) {
        lay();
        shim_open(&shim, &ram.port);
        shim.deaf_after = deaf;
        assert_status(run_on(&shim.port), SLATE_ERR_UNPROVED);
        assert_false(ram.claimed);
        shim_close(&shim);
        put_away();
    }
}

/* What keeps data goes the same way. */
static void a_mend_goes_the_same_way(void **state)
{
    (void)state;
    lay();
    caller.mends = true;
    assert_ok(run_on(&ram.port));
    assert_int_equal(s.facts.layout.backup.state, SLATE_GPT_SOUND);
    assert_string_equal(s.facts.volume[0].label, "OLD");
    assert_true(ram_same(&ram, &before, 1048576, 100000ull * 512));
    put_away();
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_stage_is_passed_in_its_order),
        cmocka_unit_test(what_is_refused_is_not_written),
        cmocka_unit_test(what_is_stopped_goes_on),
        cmocka_unit_test(what_is_not_kept_is_not_proved),
        cmocka_unit_test(a_mend_goes_the_same_way),
    };

    return cmocka_run_group_tests_name("flow", tests, NULL, NULL);
}
