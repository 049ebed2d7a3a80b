/* SPDX-License-Identifier: MIT */
/* The ledger against a reading of its own: every device of the corpus, and
 * every damaged one, with every change that promises to keep data. What changed
 * in bytes is what was shown; what was there before is there after, or was
 * listed. Volumes are recognised here by what their formats publish. */
#include <stdio.h>
#include <stdlib.h>

#include "check.h"
#include "beside.h"
#include "corpus.h"
#include "damage.h"
#include "standing.h"
#include "turns.h"

static struct session s;
static struct ram before, after;
static struct slate_ledger ledger;
static struct stands stands[STANDS_MOST];
static uint32_t standing;
static unsigned drafts, refused, enacted, cut, seen, wrong;

#define complain(...) (print_message(__VA_ARGS__), print_message("\n"), wrong++)

/* What was shown. */

static bool is_shown(uint64_t block)
{
    struct slate_walk walk = {0};
    struct slate_extent e;

    while (slate_draft_next(&s.draft, &walk, &e)) {
        if (block >= e.first && block - e.first < e.count)
            return true;
    }
    return false;
}

static bool is_in_ledger(const struct stands *one)
{
    uint32_t block = before.facts.block_bytes;

    for (uint32_t i = 0; i < ledger.count; i++) {
        const struct slate_loss *loss = &ledger.loss[i];

        if (one->at / block >= loss->range.first &&
            one->at / block - loss->range.first < loss->range.count)
            return true;
    }
    return false;
}

/* A copy of a table that alone names volumes is listed as one. */
static bool names_others(void)
{
    for (uint32_t i = 0; i < ledger.count; i++) {
        if (ledger.loss[i].kind == SLATE_LOSS_TABLE)
            return true;
    }
    return false;
}

/* A change of a volume's own blocks, asked for by that name. */
static bool is_of_the_volume(void)
{
    const struct slate_change *change = &s.draft.change;

    return change->renamed.wanted || change->clears > 0 ||
           (change->mends > 0 && change->mend[0].kind == SLATE_MEND_START);
}

static void check_block(const char *name, uint64_t block)
{
    uint64_t at = block * before.facts.block_bytes;

    if (!is_shown(block))
        complain("%s: block %llu changed, and was not shown", name,
                 (unsigned long long)block);
    if (!s.draft.switched)
        return;
    for (uint32_t i = 0; i < standing; i++) {
        const struct stands *one = &stands[i];

        if (at >= one->at && at < one->end && !is_of_the_volume() &&
            !is_in_ledger(one) && !standing_is_stale(one) &&
            !standing_is_of_table(&before, block))
            complain("%s: block %llu changed, in a volume (%s) at byte %llu "
                     "that was not listed",
                     name, (unsigned long long)block, standing_name(one),
                     (unsigned long long)one->at);
    }
}

/* Named by an entry, or found by looking: that is shown as it is. */
static bool is_in_facts(const struct stands *one)
{
    const struct slate_facts *facts = &s.facts;
    uint64_t block = one->at / before.facts.block_bytes;

    for (uint32_t i = 0; i < facts->layout.count; i++) { /* or is in it */
        if (block >= facts->partition[i].first &&
            block - facts->partition[i].first < facts->partition[i].count)
            return true;
    }
    for (uint32_t i = 0; i < facts->shadow.count; i++) {
        if (facts->shadow_partition[i].first == block)
            return true;
    }
    /* a record of a member is told as what it makes of the device */
    if (standing_is_member(one) &&
        (facts->whole.mirror || facts->whole.kind == SLATE_VOLUME_RAID ||
         facts->whole.kind == SLATE_VOLUME_LVM ||
         facts->whole.kind == SLATE_VOLUME_ZFS ||
         facts->whole.kind == SLATE_VOLUME_LUKS))
        return true;
    return (block == 0 && facts->whole.kind != SLATE_VOLUME_NONE) ||
           (one->at == 0 && slate_volume_is_known(facts->optical.kind)) ||
           (slate_volume_is_known(facts->sample.volume.kind) &&
            facts->sample.volume_lba == block);
}

/* Where all goes, what stands there was listed, one way or the other. */
static void check_listed(const char *name)
{
    for (uint32_t i = 0; i < standing; i++) {
        if (!is_in_facts(&stands[i]) && !is_in_ledger(&stands[i]) &&
            !standing_is_stale(&stands[i]) && !names_others())
            complain("%s: %s at byte %llu goes, and was not listed", name,
                     standing_name(&stands[i]),
                     (unsigned long long)stands[i].at);
    }
}

static void check_all(const char *name)
{
    static uint8_t old[RAM_PAGE_BYTES], new[RAM_PAGE_BYTES];
    uint32_t bytes = before.facts.block_bytes;

    for (size_t page = 0; page < after.page_count; page++) {
        uint64_t at = page * (uint64_t)RAM_PAGE_BYTES;

        if (after.pages[page] == NULL && before.pages[page] == NULL)
            continue;
        ram_get(&before, at, old, sizeof old);
        ram_get(&after, at, new, sizeof new);
        for (uint32_t i = 0; i < RAM_PAGE_BYTES; i += bytes) {
            if (memcmp(old + i, new + i, bytes) != 0)
                check_block(name, (at + i) / bytes);
        }
    }
    if (!s.draft.switched) {
        check_listed(name);
        return;
    }
    for (uint32_t i = 0; i < standing; i++) {
        if (!standing_is_on(&after, &stands[i]) && !is_in_ledger(&stands[i]) &&
            !standing_is_stale(&stands[i]))
            complain("%s: %s at byte %llu is gone, and was not listed", name,
                     standing_name(&stands[i]),
                     (unsigned long long)stands[i].at);
        if (stands[i].named && !standing_is_named(&after, stands[i].at) &&
            !names_others())
            complain("%s: no entry names %s at byte %llu any more, and it was "
                     "not listed",
                     name, standing_name(&stands[i]),
                     (unsigned long long)stands[i].at);
    }
}

/* The draft that was made, on a copy of the device. */
static void hold(const char *name, const char *what)
{
    char both[200];

    snprintf(both, sizeof both, "%s, %s", name, what);
    drafts++;
    assert_ok(slate_ledger_make(&ledger, &s.draft, &s.facts, &s.media, s.work));
    cut += ledger.cut ? 1u : 0u;
    if (slate_ledger_living(&ledger, &s.draft, false, false) != NULL) {
        refused++;
        return;
    }
    ram_copy(&after, &before);
    after.fail_read = before.fail_read;
    assert_ok(slate_media_open(&s.media, &after.port));
    if (session_enact(&s, 262144) != SLATE_OK)
        complain("%s: cannot be enacted", both);
    enacted++;
    check_all(both);
    ram_close(&after);
    assert_ok(slate_media_open(&s.media, &before.port));
}

static void place(void)
{
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    assert_ok(slate_draft_base(&s.draft, &s.facts));
}

/* All goes: one volume over the device, under each table. */
static void try_renewing(const char *name)
{
    static const enum slate_table_kind tables[] = {SLATE_TABLE_MBR,
                                                   SLATE_TABLE_GPT};

    for (size_t i = 0; i < 2; i++) {
        const struct wanted wanted = {.table_given = true, .table = tables[i]};

        if (session_make(&s, &wanted) == SLATE_OK)
            hold(name, "renewed");
    }
}

static void try_mends(const char *name)
{
    uint32_t most = s.facts.layout.count < 4 ? s.facts.layout.count : 4;

    for (int kind = 0; kind < SLATE_MEND_LOST; kind++) {
        for (uint32_t i = 0; i <= most; i++) {
            const struct slate_mend mend = {(enum slate_mend_kind)kind,
                                            i == most ? SLATE_ATTRIBUTE_WHOLE
                                                      : i};

            if (session_mend(&s, &mend) == SLATE_OK)
                hold(name, slate_mend_name(mend.kind));
        }
    }
}

static void try_labels(const char *name)
{
    uint32_t most = s.facts.layout.count < 4 ? s.facts.layout.count : 4;

    for (uint32_t i = 0; i <= most; i++) {
        place();
        if (slate_draft_label(&s.draft, &s.facts,
                              i == most ? SLATE_ATTRIBUTE_WHOLE : i, "NEXT",
                              &s.media, s.work) == SLATE_OK &&
            slate_draft_make(&s.draft) == SLATE_OK)
            hold(name, "label");
    }
}

static void try_attributes(const char *name)
{
    struct slate_attribute found;

    for (uint32_t i = 0; slate_attribute_next(&s.facts, i, &found); i++) {
        place();
        if (slate_draft_clear(&s.draft, &s.facts, &found, &s.media, s.work) ==
                SLATE_OK &&
            slate_draft_make(&s.draft) == SLATE_OK)
            hold(name, slate_attribute_name(found.kind));
    }
}

/* All that the table names stays, and one more comes beside; or one goes. */
static void try_keeping(const char *name)
{
    static const struct slate_ask rest = {.size_kind = SLATE_SIZE_REST,
                                          .label = "NEW"};

    for (uint32_t gone = 0; gone <= 2 && gone <= s.facts.layout.count; gone++) {
        enum slate_status status = SLATE_OK;

        place();
        for (uint32_t i = 0; i < s.facts.layout.count; i++) {
            const struct slate_ask ask = {.keep = s.facts.partition[i].number};

            if (i + 1 != gone && status == SLATE_OK)
                status = slate_draft_ask(&s.draft, &ask);
        }
        if (gone == 0 && status == SLATE_OK)
            status = slate_draft_ask(&s.draft, &rest);
        if (status == SLATE_OK)
            status = slate_draft_keep(&s.draft, &s.facts, &s.media, s.work);
        if (status == SLATE_OK)
            status = slate_draft_make(&s.draft);
        if (status == SLATE_OK && s.draft.switched && gone == 0)
            hold(name, "keep all, part rest");
    }
}

/* Entries for what no entry names. */
static void try_putting_back(const char *name)
{
    for (uint32_t i = 0; i < standing && i < 6; i++) {
        uint64_t first = stands[i].at / before.facts.block_bytes;

        if (session_put_back(&s, &first, 1, SLATE_TABLE_MBR) == SLATE_OK)
            hold(name, "put back");
    }
}

static void try_all(const char *name)
{
    assert_ok(slate_media_open(&s.media, &before.port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    standing = standing_find(&before, stands);
    seen += standing;
    try_renewing(name);
    try_mends(name);
    try_labels(name);
    try_attributes(name);
    try_keeping(name);
    try_putting_back(name);
    ram_close(&before);
}

/* The device as it is, and with each of them beside. */
static void try_each(const char *name, const void *one,
                     void (*build)(const void *one))
{
    char both[120];

    build(one);
    try_all(name);
    for (size_t i = 0; beside[i].name != NULL; i++) {
        build(one);
        snprintf(both, sizeof both, "%s, %s", name, beside[i].name);
        if (beside[i].put(&before))
            try_all(both);
        else
            ram_close(&before);
    }
}

static void build_case(const void *one)
{
    ((const struct corpus_case *)one)->build(&before);
    before.facts.identity.transport = SLATE_TRANSPORT_USB;
}

static void build_damaged(const void *one)
{
    const struct damage *damage = one;

    ram_open(&before, damage->block_bytes, damage->blocks, true);
    damage->build(&before);
    damage->hurt(&before);
}

static void what_changes_was_shown_and_what_lives_was_listed(void **state)
{
    const struct corpus_case *one;
    const struct damage *damage;

    (void)state;
    for (size_t i = 0; (one = corpus_case(i)) != NULL; i++) {
        if (!turn_of(i, 4))
            continue;
        try_each(one->name, one, build_case);
    }
    for (size_t i = 0; (damage = damage_at(i)) != NULL; i++) {
        if (!turn_of(i, 4))
            continue;
        try_each(damage->name, damage, build_damaged);
    }
    print_message("  %u drafts: %u refused, %u enacted; %u volumes; the ledger "
                  "was cut off in %u\n",
                  drafts, refused, enacted, seen, cut);
    assert_int_equal(wrong, 0);
    assert_true(refused > 50 && enacted > 50);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_changes_was_shown_and_what_lives_was_listed)};

    return cmocka_run_group_tests_name("promises", tests, NULL, NULL);
}
