/* SPDX-License-Identifier: MIT */
/* Rewinding: whatever a draft has replaced, whole or half-way, comes back to
 * the last byte; cut anywhere, and again. */
#include "changes.h"
#include "check.h"
#include "corpus.h"
#include "damage.h"
#include "kept.h"
#include "memory_keeper.h"
#include "old_content.h"
#include "turns.h"

static struct session s;

static struct slate_saving saving;
static struct slate_journal journal;
static struct slate_rewind rewinding;

/* Keeps what the session's draft will replace on a device. */
static enum slate_status save(const struct ram *ram, size_t work_bytes)
{
    const struct slate_journal_words words = {"one volume", "an old one"};
    enum slate_status status;

    memory.length = 0;
    memory.calls = 0;
    assert_ok(slate_media_open(&s.media, &ram->port));
    status = slate_saving_start(&saving, &s.draft, &words, &s.media,
                                &memory_keeper, s.work, work_bytes);
    while (status == SLATE_OK && !saving.finished)
        status = slate_saving_step(&saving);
    return status;
}

static void open_journal(void)
{
    assert_ok(slate_journal_open(&journal, &memory_keeper));
    assert_ok(slate_journal_check(&journal, s.work));
    assert_string_equal(journal.tag, s.draft.basis.tag);
    assert_int_equal(journal.stamp.year, 2031);
    assert_string_equal(journal.gets, "one volume");
    assert_string_equal(journal.had, "an old one");
    assert_memory_equal(journal.seal, s.draft.seal, SLATE_DIGEST_BYTES);
}

/* Looks, and puts back what it finds replaced. */
static enum slate_status rewind_on(const struct slate_port *port, bool anyway)
{
    const struct slate_agreement agreed = {s.draft.basis.tag, NULL};
    enum slate_status status, end;

    assert_ok(slate_media_open(&s.media, port));
    status = slate_rewind_begin(&rewinding, &journal, &s.media, s.work, 262144);
    while (status == SLATE_OK && !rewinding.look.finished)
        status = slate_rewind_look(&rewinding);
    if (status == SLATE_OK)
        status = slate_rewind_start(&rewinding, &agreed, anyway);
    if (status != SLATE_OK)
        return status;
    while (status == SLATE_OK && !rewinding.enact.pass.finished)
        status = slate_enact_step(&rewinding.enact);
    end = slate_enact_end(&rewinding.enact);
    return status == SLATE_OK ? end : status;
}

/* It is as it was; where it never became anything else, that is told. */
static void rewind_to(const struct ram *ram, const struct slate_port *port,
                      const struct ram *before)
{
    enum slate_status status = rewind_on(port, false);

    if (status != SLATE_ERR_ALREADY)
        assert_ok(status);
    assert_true(ram_equal(ram, before));
}

static const struct shim_way ways[] = {
    {0, false, false, SHIM_KEPT},        {64, false, false, SHIM_LOST},
    {256, true, false, SHIM_SOME},       {512, false, false, SHIM_SOME},
    {3584, true, false, SHIM_LOST},      {256, false, true, SHIM_KEPT},
    {100000000, false, false, SHIM_SOME}};
#define WAYS (sizeof ways / sizeof ways[0])

/* What a device shows that is cut in the middle: the mark, or what was there,
 * or what the draft makes of it. Where partitions stay, there is no mark. */
static void check_cut(const struct shim *shim, const struct ram *ram,
                      const struct ram *before, const struct ram *after)
{
    uint32_t bytes = ram->facts.block_bytes;
    uint8_t block[4096], other[4096];

    if (s.draft.switched || shim->unreadable == 0)
        return;
    ram_get(ram, 0, block, bytes);
    if (slate_mark_names(block, bytes, s.draft.seal))
        return;
    ram_get(before, 0, other, bytes);
    if (memcmp(block, other, bytes) == 0)
        assert_true(ram_equal(ram, before));
    else
        assert_true(ram_equal(ram, after));
}

/* Rewinding is cut at each write, and begun anew. */
static uint64_t cut_rewinds(const struct ram *before, const struct ram *after,
                            uint64_t every)
{
    uint64_t writes, states = 0;
    struct ram ram;
    struct shim shim;

    ram_copy(&ram, after);
    ram.writes = 0;
    rewind_to(&ram, &ram.port, before);
    writes = ram.writes;
    ram_close(&ram);
    for (uint64_t n = 1; n <= writes;
         n += n < 4 || n + 4 > writes ? 1 : every) {
        for (size_t way = n % 2; way < WAYS; way += 2) {
            if (n > 1 && n < writes && !turn_of(n + way / 2, 4))
                continue;
            states++;
            ram_copy(&ram, after);
            shim_open(&shim, &ram.port);
            shim.cut_at = n;
            shim.way = ways[way];
            shim.seed = (uint32_t)(n * WAYS + way);
            assert_status(rewind_on(&shim.port, false), SLATE_ERR_NO_DEVICE);
            shim_power(&shim);
            check_cut(&shim, &ram, before, after);
            rewind_to(&ram, &shim.port, before);
            shim_close(&shim);
            ram_close(&ram);
        }
    }
    return states;
}

/* Enacting is cut at each write; then it is rewound at once, or after it went
 * on to its end. */
static uint64_t cut_enacts(const struct ram *before, const struct ram *after,
                           uint64_t every)
{
    uint64_t states = 0;

    for (uint64_t n = 1; n <= after->writes;
         n += n < 4 || n + 4 > after->writes ? 1 : every) {
        for (size_t way = n % 2; way < WAYS; way += 2) {
            const struct cut cut = {
                before, after, n, ways[way], (uint32_t)(n * WAYS + way),
                262144};
            struct ram ram;
            struct shim shim;

            if (n > 1 && n < after->writes && !turn_of(n + way / 2, 4))
                continue;
            states++;
            session_cut(&s, &cut, &ram, &shim);
            if (way % 3 == 2) {
                assert_ok(slate_media_open(&s.media, &shim.port));
                if (session_enact(&s, 262144) == SLATE_OK)
                    assert_true(ram_equal(&ram, after));
            }
            rewind_to(&ram, &shim.port, before);
            shim_close(&shim);
            ram_close(&ram);
        }
    }
    return states;
}

/* The session's draft of a device: kept, enacted, rewound, enacted again; and
 * all that with cuts. */
static uint64_t check_draft(const struct ram *before, uint64_t every)
{
    uint64_t states = 0;
    struct ram after, ram;

    assert_ok(save(before, 262144));
    assert_true(memory.synced);
    open_journal();
    ram_copy(&after, before);
    assert_status(rewind_on(&after.port, false), SLATE_ERR_ALREADY);
    after.writes = 0;
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, 262144));
    ram_copy(&ram, &after);
    rewind_to(&ram, &ram.port, before);
    assert_int_equal(rewinding.changed, 0);
    assert_status(rewind_on(&ram.port, false), SLATE_ERR_ALREADY);
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_ok(session_enact(&s, 262144));
    assert_true(ram_equal(&ram, &after));
    ram_close(&ram);
    if (every > 0) {
        states = cut_rewinds(before, &after, every);
        states += cut_enacts(before, &after, every);
    }
    ram_close(&after);
    return states;
}

static void everything_comes_back(void **state)
{
    const struct slate_format *format;
    uint64_t states = 0;

    (void)state;
    for (size_t kind = 0; kind < OLD_CONTENTS; kind++) {
        for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
            struct wanted goal = {.volume = format->kind,
                                  .label = "REWIND",
                                  .table_given = kind % 3 == 2,
                                  .table = SLATE_TABLE_NONE};
            struct ram before;

            /* each format over a third of them; FAT12 is not of this size */
            if (format->kind == SLATE_VOLUME_FAT12 || (i + kind) % 3 != 0)
                continue;
            ram_open(&before, 512, 73728, true);
            old_content_at(kind)->build(&before);
            assert_ok(session_draft(&s, &before, &goal));
            states += check_draft(&before, (i + kind) % 6 == 0 ? 9 : 0);
            ram_close(&before);
        }
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 100 / (turns_are_all() ? 1 : 4));
}

/* Where partitions stay: nothing of them changes, and no table in between lists
 * what is not there. */
static void beside_what_stays(void **state)
{
    struct kept_case one;
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; kept_case(i, &one); i++) {
        struct ram before;

        kept_build(&before, &one, 512);
        session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
        kept_ask(&s.draft, &one);
        assert_ok(session_look(&s, &before));
        if (slate_draft_base(&s.draft, &s.facts) == SLATE_OK &&
            slate_draft_keep(&s.draft, &s.facts, &s.media, s.work) ==
                SLATE_OK &&
            slate_draft_make(&s.draft) == SLATE_OK)
            states += check_draft(&before, i % 7 == 0 ? 9 : 0);
        ram_close(&before);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 100 / (turns_are_all() ? 1 : 4));
}

/* Another label in place, of each format that can have one. */
static void changes_in_place_come_back(void **state)
{
    static const struct slate_ask none = {0};
    const struct slate_format *format;
    uint64_t states = 0;

    (void)state;
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        struct wanted goal = {.volume = format->kind,
                              .label = "OLD",
                              .table_given = true,
                              .table = SLATE_TABLE_NONE};
        struct ram before;

        ram_open(&before, 512,
                 format->kind == SLATE_VOLUME_FAT12 ? 16384 : 73728, true);
        assert_ok(session_draft(&s, &before, &goal));
        assert_ok(session_enact(&s, 262144));
        assert_ok(session_look(&s, &before));
        session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
        s.draft.part[0].ask = none;
        s.draft.parts = 0;
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        assert_ok(slate_draft_label(&s.draft, &s.facts, SLATE_ATTRIBUTE_WHOLE,
                                    "NEW", &s.media, s.work));
        assert_ok(slate_draft_make(&s.draft));
        states += check_draft(&before, 1);
        ram_close(&before);
    }
    assert_true(states > 50 / (turns_are_all() ? 1 : 4));
}

/* Every attribute that the corpus has, cleared one by one. */
static void cleared_attributes_come_back(void **state)
{
    uint64_t states = 0;
    uint32_t cleared = 0;

    (void)state;
    for (size_t i = 0; corpus_case(i) != NULL; i++) {
        struct slate_attribute attribute;
        struct ram before;

        corpus_case(i)->build(&before);
        assert_ok(session_look(&s, &before));
        for (uint32_t n = 0; slate_attribute_next(&s.facts, n, &attribute);
             n++) {
            session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
            s.draft.parts = 0;
            assert_ok(slate_draft_base(&s.draft, &s.facts));
            if (slate_draft_clear(&s.draft, &s.facts, &attribute, &s.media,
                                  s.work) != SLATE_OK ||
                slate_draft_make(&s.draft) != SLATE_OK)
                continue;
            states += check_draft(&before, 1);
            cleared++;
            assert_ok(session_look(&s, &before));
        }
        ram_close(&before);
    }
    print_message("%u cleared, %llu states after a cut\n", cleared,
                  (unsigned long long)states);
    assert_true(cleared > 8 && states > 90 / (turns_are_all() ? 1 : 4));
}

/* What was mended is as it was before, damage and all. */
static void mending_comes_back(void **state)
{
    const struct damage *damage;
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; (damage = damage_at(i)) != NULL; i++) {
        const struct slate_mend mend = damage_mend(damage);
        struct ram before;

        ram_open(&before, damage->block_bytes, damage->blocks, true);
        damage->build(&before);
        damage->hurt(&before);
        assert_ok(session_look(&s, &before));
        assert_ok(session_mend(&s, &mend));
        states += check_draft(&before, 1);
        ram_close(&before);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 200 / (turns_are_all() ? 1 : 4));
}

/* So is what was converted, grown or put back, what is new beside it too. */
static void wishes_come_back(void **state)
{
    const struct change *change;
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; (change = change_at(i)) != NULL; i++) {
        struct ram before;

        change->build(&before);
        assert_ok(session_look(&s, &before));
        assert_ok(change_draft(&s, change));
        states += check_draft(&before, change->asks > 0 ? 5 : 1);
        ram_close(&before);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 300 / (turns_are_all() ? 1 : 4));
}

/* A device whose content is that of the story of most tests: FAT16. */
static void lay(struct ram *ram, struct ram *after)
{
    ram_open(ram, 512, 73728, true);
    old_content_at(4)->build(ram);
    assert_ok(session_draft(&s, ram, &(struct wanted){.label = "USED"}));
    assert_ok(save(ram, 262144));
    open_journal();
    ram_copy(after, ram);
    assert_ok(slate_media_open(&s.media, &after->port));
    assert_ok(session_enact(&s, 262144));
}

static void what_was_written_since_is_not_lost_by_mistake(void **state)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;
    struct ram before, after, ram;
    uint8_t byte;

    (void)state;
    lay(&before, &after);
    while (slate_draft_next(&s.draft, &walk, &extent)) {
        uint64_t at = (extent.first + extent.count / 2) * 512 + 77;

        if (extent.moment == SLATE_MOMENT_MARK)
            continue;
        ram_copy(&ram, &after);
        ram_get(&ram, at, &byte, 1);
        byte ^= 0x5A;
        ram_put(&ram, at, &byte, 1);
        assert_status(rewind_on(&ram.port, false), SLATE_ERR_USED);
        assert_int_equal(rewinding.changed, 1);
        assert_int_equal(rewinding.first_changed, at / 512);
        assert_ok(rewind_on(&ram.port, true));
        assert_true(ram_equal(&ram, &before));
        ram_close(&ram);
    }
    /* where nothing was replaced, and blocks that it does not touch */
    ram_copy(&ram, &after);
    ram_put(&ram, 30000 * 512ull, "a file", 6);
    ram_put(&before, 30000 * 512ull, "a file", 6);
    rewind_to(&ram, &ram.port, &before);
    ram_close(&ram);
    ram_close(&before);
    ram_close(&after);
}

static void damaged_journals_are_refused(void **state)
{
    struct ram before, after;
    size_t length, refused = 0;

    (void)state;
    lay(&before, &after);
    length = memory.length;
    for (size_t at = 0; at < length; at += at < 700    ? 1
                                           : at < 4000 ? 13
                                                       : 997) {
        enum slate_status status;

        for (int truncated = 0; truncated < 2; truncated++) {
            uint8_t whole = memory.bytes[at];

            if (!truncated)
                memory.bytes[at] = (uint8_t)(whole ^ 1u << at % 8);
            memory.length = truncated ? at : length;
            status = slate_journal_open(&journal, &memory_keeper);
            if (status == SLATE_OK)
                status = slate_journal_check(&journal, s.work);
            if (status != SLATE_ERR_JOURNAL && status != SLATE_ERR_KEEPER)
                fail_msg("byte %zu", at);
            memory.bytes[at] = whole;
            refused++;
        }
    }
    memory.length = length;
    open_journal();
    assert_true(refused > 1500);
    ram_close(&before);
    ram_close(&after);
}

/* Whatever fails while it is kept: the device was not touched. */
static void a_keeper_may_fail(void **state)
{
    struct ram ram;
    uint64_t calls;

    (void)state;
    ram_open(&ram, 512, 73728, true);
    old_content_at(5)->build(&ram);
    assert_ok(session_draft(&s, &ram, &(struct wanted){.label = "KEEP"}));
    assert_ok(save(&ram, 4096));
    calls = memory.calls;
    for (uint64_t n = 1; n <= calls; n++) {
        memory.fail_at = n;
        assert_status(save(&ram, 4096), SLATE_ERR_KEEPER);
        assert_false(saving.finished);
    }
    memory.fail_at = 0;
    assert_int_equal(ram.writes, 0);
    ram_close(&ram);
}

/* Wherever the journal cannot be read any more, while it is put back: that is
 * told, and never taken for the end; and the next run does the rest. */
static void a_journal_may_fail_while_it_is_put_back(void **state)
{
    struct ram before, after, ram;
    uint64_t reads;
    unsigned failed = 0;

    (void)state;
    lay(&before, &after);
    ram_copy(&ram, &after);
    memory.reads = 0;
    assert_ok(rewind_on(&ram.port, false));
    reads = memory.reads;
    ram_close(&ram);
    for (uint64_t n = 1; n <= reads; n += n < 40 ? 1 : 1 + reads / 60) {
        ram_copy(&ram, &after);
        memory.reads = 0;
        memory.fail_read_at = n;
        if (rewind_on(&ram.port, false) != SLATE_ERR_KEEPER)
            fail_msg("read %llu of %llu", (unsigned long long)n,
                     (unsigned long long)reads);
        failed++;
        memory.fail_read_at = 0;
        rewind_to(&ram, &ram.port, &before);
        ram_close(&ram);
    }
    assert_true(failed > 60);
    ram_close(&before);
    ram_close(&after);
}

/* A block that cannot be read is told; zeros come back for it. */
static void what_cannot_be_read_is_told(void **state)
{
    struct ram ram;
    uint8_t block[512], zeros[512] = {0};

    (void)state;
    ram_open(&ram, 512, 73728, true);
    old_content_at(2)->build(&ram); /* noise */
    assert_ok(session_draft(&s, &ram, &(struct wanted){.label = "LOST"}));
    ram.fail_read = 100;
    assert_ok(save(&ram, 262144));
    assert_int_equal(saving.lost, 1);
    open_journal();
    ram.fail_read = 0;
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_ok(session_enact(&s, 262144));
    assert_ok(rewind_on(&ram.port, false));
    ram_get(&ram, 100 * 512, block, sizeof block);
    assert_memory_equal(block, zeros, sizeof block);
    ram_get(&ram, 101 * 512, block, sizeof block);
    assert_memory_not_equal(block, zeros, sizeof block);
    ram_close(&ram);
}

static void consent_is_asked_for(void **state)
{
    const struct slate_agreement agreed = {s.draft.basis.tag, NULL};
    const struct slate_agreement other = {"NOSUCH-2", NULL};
    struct ram before, after;

    (void)state;
    lay(&before, &after);
    assert_ok(
        slate_rewind_begin(&rewinding, &journal, &s.media, s.work, 262144));
    while (!rewinding.look.finished)
        assert_ok(slate_rewind_look(&rewinding));
    after.writes = 0;
    assert_status(slate_rewind_start(&rewinding, NULL, true),
                  SLATE_ERR_CONSENT);
    assert_status(slate_rewind_start(&rewinding, &other, true),
                  SLATE_ERR_CONSENT);
    after.busy = true;
    assert_status(slate_rewind_start(&rewinding, &agreed, false),
                  SLATE_ERR_BUSY);
    after.busy = false;
    assert_int_equal(after.writes, 0);
    ram_close(&before);
    ram_close(&after);
}

static int clean_up(void **state)
{
    (void)state;
    memory_forget();
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(everything_comes_back),
        cmocka_unit_test(beside_what_stays),
        cmocka_unit_test(changes_in_place_come_back),
        cmocka_unit_test(cleared_attributes_come_back),
        cmocka_unit_test(mending_comes_back),
        cmocka_unit_test(wishes_come_back),
        cmocka_unit_test(what_was_written_since_is_not_lost_by_mistake),
        cmocka_unit_test(damaged_journals_are_refused),
        cmocka_unit_test(a_keeper_may_fail),
        cmocka_unit_test(a_journal_may_fail_while_it_is_put_back),
        cmocka_unit_test(what_cannot_be_read_is_told),
        cmocka_unit_test(consent_is_asked_for),
    };

    return cmocka_run_group_tests_name("rewind", tests, NULL, clean_up);
}
