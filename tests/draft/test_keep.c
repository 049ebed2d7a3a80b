/* SPDX-License-Identifier: MIT */
/* Partitions that stay: to the last bit, with their entries, whatever else goes
 * or comes, and wherever the power goes meanwhile. */
#include "turns.h"
#include "check.h"
#include "craft.h"
#include "kept.h"
#include "shim.h"

#define MIB 1048576u

static struct session s;
static uint32_t block; /* bytes */

static uint32_t at_mib(uint32_t mib)
{
    return mib * (MIB / block);
}

static void ask_for(const struct kept_case *one)
{
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    kept_ask(&s.draft, one);
}

static enum slate_status make(struct ram *ram)
{
    enum slate_status status = session_look(&s, ram);

    if (status == SLATE_OK)
        status = slate_draft_base(&s.draft, &s.facts);
    if (status == SLATE_OK)
        status = slate_draft_keep(&s.draft, &s.facts, &s.media, s.work);
    return status == SLATE_OK ? slate_draft_make(&s.draft) : status;
}

/* A byte that no extent holds is as it was. */
static void check_outside(const struct ram *before, const struct ram *after)
{
    static uint8_t listed[KEPT_MIB * MIB / 512];
    struct slate_walk walk = {0};
    struct slate_extent e;

    memset(listed, 0, sizeof listed);
    while (slate_draft_next(&s.draft, &walk, &e))
        memset(listed + e.first, 1, (size_t)e.count);
    for (uint64_t lba = 0; lba < before->facts.block_count; lba++) {
        if (lba % 16 == 0 && ram_same(before, after, lba * block, 16 * block)) {
            lba += 15;
            continue;
        }
        if (listed[lba] == 0)
            assert_true(ram_same(before, after, lba * block, block));
    }
}

static const struct slate_partition *listed_at(uint64_t first, uint64_t count)
{
    for (uint32_t i = 0; i < s.facts.layout.count; i++) {
        if (s.facts.partition[i].first == first &&
            s.facts.partition[i].count == count)
            return &s.facts.partition[i];
    }
    return NULL;
}

/* An entry as it stands on the device, found without the library. */
struct raw {
    uint64_t first, count, entry, link; /* the entry: a byte */
    uint32_t number;
};

#define RAWS 40u

static uint32_t take_raw(struct raw *raw, uint32_t count, struct raw one)
{
    assert_true(count < RAWS);
    raw[count] = one;
    return count + 1;
}

static uint32_t raw_gpt(const struct ram *ram, struct raw raw[RAWS])
{
    uint8_t header[512], entry[128];
    uint64_t at, bytes;
    uint32_t count = 0;

    ram_get(ram, block, header, sizeof header);
    at = number_at(header, 72, 8) * block;
    bytes = number_at(header, 84, 4);
    for (uint32_t i = 0; i < number_at(header, 80, 4); i++) {
        ram_get(ram, at + i * bytes, entry, sizeof entry);
        if (number_at(entry, 0, 8) != 0)
            count = take_raw(raw, count,
                             (struct raw){number_at(entry, 32, 8),
                                          number_at(entry, 40, 8) + 1 -
                                              number_at(entry, 32, 8),
                                          at + i * bytes, 0, i + 1});
    }
    return count;
}

static uint32_t raw_chain(const struct ram *ram, uint64_t container,
                          struct raw raw[RAWS], uint32_t count)
{
    uint32_t number = 5;
    uint64_t link = container;
    uint8_t b[512];

    while (link != 0) {
        ram_get(ram, link * block, b, sizeof b);
        assert_int_equal(number_at(b, 510, 2), 0xAA55);
        if (b[450] != 0)
            count = take_raw(raw, count,
                             (struct raw){link + number_at(b, 454, 4),
                                          number_at(b, 458, 4),
                                          link * block + 446, link, number++});
        link = b[466] == 0 ? 0 : container + number_at(b, 470, 4);
    }
    return count;
}

/* All partitions; of a container, what is in it as well. */
static uint32_t raw_of(const struct ram *ram, struct raw raw[RAWS])
{
    uint64_t container = 0;
    uint32_t count = 0;
    uint8_t b[512];

    ram_get(ram, 0, b, sizeof b);
    if (b[450] == 0xEE)
        return raw_gpt(ram, raw);
    for (uint32_t i = 0; i < 4; i++) {
        uint64_t first = number_at(b, 454 + 16 * i, 4);
        uint64_t size = number_at(b, 458 + 16 * i, 4);

        if (b[450 + 16 * i] == 0)
            continue;
        if (b[450 + 16 * i] == 5 || b[450 + 16 * i] == 15)
            container = first;
        count = take_raw(raw, count,
                         (struct raw){first, size, 446 + 16 * i, 0, i + 1});
    }
    return container == 0 ? count : raw_chain(ram, container, raw, count);
}

static const struct raw *raw_at(const struct raw *raw, uint32_t count,
                                uint64_t first, uint64_t blocks)
{
    for (uint32_t i = 0; i < count; i++) {
        if (raw[i].first == first && raw[i].count == blocks)
            return &raw[i];
    }
    return NULL;
}

static uint32_t entry_bytes(const struct ram *ram)
{
    uint8_t header[512];

    ram_get(ram, block, header, sizeof header);
    return s.draft.table.kind == SLATE_TABLE_MBR
               ? 16
               : (uint32_t)number_at(header, 84, 4);
}

/* The entry of one that stays, and its link but for the way to the next one. */
static void check_entry(const struct ram *before, const struct ram *after,
                        const struct raw *was, const struct raw *is)
{
    uint8_t a[4096], b[4096];

    assert_non_null(was);
    assert_non_null(is);
    ram_get(before, was->entry, a, entry_bytes(before));
    ram_get(after, is->entry, b, entry_bytes(before));
    assert_memory_equal(a, b, entry_bytes(before));
    assert_int_equal(was->link, is->link);
    ram_get(before, was->link * block, a, block);
    ram_get(after, is->link * block, b, block);
    if (was->link != 0)
        memset(a + 462, 0, 16), memset(b + 462, 0, 16);
    else if (s.draft.table.kind == SLATE_TABLE_MBR)
        memset(a + 446, 0, 64), memset(b + 446, 0, 64);
    assert_memory_equal(a, b, block);
}

/* What stands in the tables, read without the library, is what stays and what
 * is new, and nothing else. */
static void check_entries(const struct ram *before, const struct ram *after)
{
    struct raw was[RAWS], is[RAWS];
    uint32_t were = raw_of(before, was), are = raw_of(after, is);
    uint32_t within = 0;

    for (uint32_t i = 0; i < s.draft.parts; i++) {
        const struct slate_part *part = &s.draft.part[i];
        const struct raw *now =
            raw_at(is, are, part->range.first, part->range.count);

        assert_non_null(now);
        assert_int_equal(slate_draft_entry(&s.draft, i)->number, now->number);
        if (part->ask.keep == 0)
            continue;
        check_entry(before, after,
                    raw_at(was, were, part->range.first, part->range.count),
                    now);
        for (uint32_t j = 0; j < are; j++) /* in one that stays as a whole */
            within += is[j].number != now->number &&
                              is[j].first >= now->first &&
                              is[j].first < now->first + now->count
                          ? 1u
                          : 0u;
    }
    assert_int_equal(
        s.draft.parts + within + (s.draft.container.count > 0 ? 1 : 0), are);
}

/* The library reads the same back, and finds nothing odd. */
static void check_layout(void)
{
    assert_int_equal(
        slate_layout_check(&s.facts.layout, s.media.geometry.block_count) &
            ~(unsigned)(SLATE_LAYOUT_CHS | SLATE_LAYOUT_UNORDERED |
                        SLATE_LAYOUT_UNUSUAL_GPT),
        0);
    if (s.facts.layout.kind == SLATE_TABLE_GPT) {
        assert_int_equal(s.facts.layout.primary.state, SLATE_GPT_SOUND);
        assert_int_equal(s.facts.layout.backup.state, SLATE_GPT_SOUND);
    }
    for (uint32_t i = 0; i < s.draft.parts; i++) {
        const struct slate_range *range = &s.draft.part[i].range;

        assert_non_null(listed_at(range->first, range->count));
    }
}

static void every_edit_leaves_the_rest_as_it_was(void **state)
{
    (void)state;
    for (block = 512; block <= 4096; block *= 8) {
        struct kept_case one;

        for (size_t i = 0; kept_case(i, &one); i++) {
            struct ram before, after;
            uint8_t seal[SLATE_DIGEST_BYTES];

            kept_build(&before, &one, block);
            ask_for(&one);
            assert_ok(make(&before));
            assert_true(s.draft.switched);
            memcpy(seal, s.draft.seal, sizeof seal);
            assert_ok(slate_draft_make(&s.draft));
            assert_memory_equal(seal, s.draft.seal, sizeof seal);
            ram_copy(&after, &before);
            assert_ok(slate_media_open(&s.media, &after.port));
            assert_ok(session_enact(&s, sizeof s.work));
            assert_ok(session_prove(&s, sizeof s.work));
            check_outside(&before, &after);
            check_entries(&before, &after);
            assert_ok(session_look(&s, &after));
            check_layout();
            assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_ALREADY);
            ram_close(&before);
            ram_close(&after);
        }
    }
}

static const struct shim_way ways[] = {
    {0, false, false, SHIM_KEPT},        {512, false, false, SHIM_LOST},
    {512, true, false, SHIM_SOME},       {256, false, true, SHIM_KEPT},
    {2048, false, false, SHIM_SOME},     {3584, true, false, SHIM_LOST},
    {4096, false, false, SHIM_SOME},     {256, true, false, SHIM_LOST},
    {100000000, false, false, SHIM_SOME}};

#define WAYS (sizeof ways / sizeof ways[0])
/* Of the last three writes that were not flushed, every subset is kept. */
#define SUBSETS 8u
#define ALL (WAYS + SUBSETS)

static bool is_link(const struct raw *raw, uint32_t count, uint64_t lba)
{
    for (uint32_t i = 0; i < count; i++) {
        if (raw[i].link == lba)
            return true;
    }
    return false;
}

/* What goes is as it was, as long as the table tells of it. */
static void check_going(const struct ram *ram, const struct ram *before,
                        const struct raw *raw)
{
    for (uint32_t i = 0; i < s.draft.parts; i++) {
        if (s.draft.part[i].range.first == raw->first &&
            s.draft.part[i].range.count == raw->count)
            return; /* it stays, or gives its place to a new one */
    }
    if (s.facts.layout.kind != SLATE_TABLE_NONE && raw->number < 5 &&
        raw->first == s.draft.container.first)
        return;
    if (listed_at(raw->first, raw->count) != NULL)
        assert_true(
            ram_same(ram, before, raw->first * block, raw->count * block));
}

/* What is new may be in the very place of what goes. */
static bool is_either(const struct ram *ram, const struct cut *cut,
                      const struct slate_range *range)
{
    uint64_t byte = range->first * block, bytes = range->count * block;
    struct raw was[RAWS];
    uint32_t were = raw_of(cut->before, was);

    return ram_same(ram, cut->after, byte, bytes) ||
           (raw_at(was, were, range->first, range->count) != NULL &&
            ram_same(ram, cut->before, byte, bytes));
}

static void check_staying(const struct ram *ram, const struct cut *cut,
                          const struct slate_part *part, uint64_t unreadable)
{
    const struct slate_range *range = &part->range;
    bool there = listed_at(range->first, range->count) != NULL;

    if (part->ask.keep != 0)
        assert_true(there);
    if (!there)
        return;
    assert_true(is_either(ram, cut, range));
    assert_true(unreadable < range->first ||
                unreadable - range->first >= range->count);
}

/* What a host would see: what stays is there, what goes is whole as long as it
 * is there, and what is new is there only when all of it is. A block 0, or a
 * link, that was torn, or cannot be read, shows nothing of that; the draft
 * mends it. */
static void check_cut(const struct ram *ram, const struct cut *cut,
                      const struct shim *shim)
{
    struct raw was[RAWS];
    uint32_t were = raw_of(cut->before, was);
    bool torn = cut->way.torn_bytes > 0 && cut->way.torn_bytes % block != 0;
    bool blind = s.draft.table.kind == SLATE_TABLE_MBR &&
                 (torn || shim->unreadable == 0 ||
                  is_link(was, were, shim->unreadable) ||
                  shim->unreadable == s.draft.container.first);

    assert_ok(slate_media_open(&s.media, &shim->port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    for (uint32_t i = 0; i < s.draft.parts && !blind; i++)
        check_staying(ram, cut, &s.draft.part[i], shim->unreadable);
    for (uint32_t i = 0; i < were && !blind; i++)
        check_going(ram, cut->before, &was[i]);
}

static void cut_and_go_on(const struct ram *before, const struct ram *after,
                          uint64_t n, size_t way)
{
    struct cut cut = {
        before, after, n, {0, false, false, SHIM_MASK}, (uint32_t)(way - WAYS),
        65536};
    struct ram ram;
    struct shim shim;

    if (way < WAYS) {
        cut.way = ways[way];
        cut.seed = (uint32_t)(n * WAYS + way);
    }
    session_cut(&s, &cut, &ram, &shim);
    check_cut(&ram, &cut, &shim);
    session_go_on(&s, &cut, &ram, &shim);
}

static uint64_t cuts_of(const struct kept_case *one, size_t index)
{
    struct ram before, after;
    uint64_t writes, states = 0;

    kept_build(&before, one, block);
    ask_for(one);
    assert_ok(make(&before));
    ram_copy(&after, &before);
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, 65536));
    writes = after.writes;
    for (uint64_t n = 1; n <= writes; n++) {
        bool table = n <= 4 || n + 4 > writes;

        if (!turn_of(n + index, table ? 4 : 6))
            continue;
        /* where the table is written, more ways; over all edits, every one */
        for (size_t way = 0; way < ALL; way++) {
            if (way < WAYS ? (way + n + index) % (table ? 3 : WAYS) != 0
                           : !table || !turn_of(n + index + way, 7))
                continue;
            cut_and_go_on(&before, &after, n, way);
            states++;
        }
    }
    ram_close(&before);
    ram_close(&after);
    return states;
}

static void the_power_may_go_in_every_write(void **state)
{
    uint64_t states = 0;
    struct kept_case one;

    (void)state;
    for (size_t i = 0; kept_case(i, &one); i++) {
        block = (i / 6 + i) % 2 == 0 ? 512 : 4096;
        states += cuts_of(&one, i);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > (turns_are_all() ? 4000 : 450));
}

/* What is kept, or anything else outside, has changed since: refused, fresh
 * and half-way. */
static void what_has_changed_since_is_refused(void **state)
{
    static const char *const names[] = {"three primaries", "a container", "GPT",
                                        "GPT of four entries", "a chain"};
    struct kept_case one;
    struct ram ram, before;
    struct shim shim;

    (void)state;
    block = 512;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        kept_find(names[i], 1, &one);
        kept_build(&before, &one, block);
        ask_for(&one);
        assert_ok(make(&before));
        ram_copy(&ram, &before);
        craft_flip(&ram, MIB + 40); /* the boot block of what stays */
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_status(session_enact(&s, 65536), SLATE_ERR_CHANGED);
        ram_close(&ram);
        ram_copy(&ram, &before);
        shim_open(&shim, &ram.port);
        shim.cut_at = 5;
        assert_ok(slate_media_open(&s.media, &shim.port));
        assert_status(session_enact(&s, 65536), SLATE_ERR_NO_DEVICE);
        shim_power(&shim);
        craft_flip(&ram, MIB + 40);
        assert_ok(slate_media_open(&s.media, &shim.port));
        assert_status(session_enact(&s, 65536), SLATE_ERR_CHANGED);
        craft_flip(&ram, MIB + 40);
        assert_ok(slate_media_open(&s.media, &shim.port));
        assert_ok(session_enact(&s, 65536));
        shim_close(&shim);
        ram_close(&ram);
        ram_close(&before);
    }
}

static void ask_of(struct ram *ram, const char *name, size_t edit)
{
    struct kept_case one;

    kept_find(name, edit, &one);
    if (ram != NULL)
        kept_build(ram, &one, block);
    ask_for(&one);
}

static void ask_more(struct slate_ask ask)
{
    assert_ok(slate_draft_ask(&s.draft, &ask));
}

static void assert_refused(struct ram *ram, const char *why)
{
    assert_status(make(ram), SLATE_ERR_PARTS);
    assert_non_null(strstr(s.draft.why, why));
}

static void what_cannot_stay_is_refused(void **state)
{
    static const char *const four = "GPT of four entries";
    struct ram ram;

    (void)state;
    block = 512;
    ask_of(&ram, four, 0);
    ask_more((struct slate_ask){
        .size_kind = SLATE_SIZE_BYTES, .size = 2 * MIB, .label = "NEW"});
    assert_refused(&ram, "no entry left");
    ask_of(NULL, four, 2);
    ask_more((struct slate_ask){.keep = 3});
    assert_refused(&ram, "no partition of this number");
    ask_of(NULL, four, 2);
    ask_more((struct slate_ask){.keep = 1});
    assert_refused(&ram, "named twice");
    ask_of(NULL, four, 0);
    s.draft.part[3].ask.standing = SLATE_STANDING_LOGICAL;
    assert_refused(&ram, "of an MBR");
    ask_of(NULL, four, 2);
    s.draft.goal.table_given = true;
    s.draft.goal.table = SLATE_TABLE_MBR;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    ram_put_entry(&ram, 1, 0x0C, false, at_mib(1), at_mib(20));
    ask_of(NULL, four, 2);
    assert_refused(&ram, "hybrid");
    craft_erase(&ram, 462, 16);
    ask_of(NULL, four, 2);
    assert_ok(make(&ram));
    craft_flip(&ram, block + 60); /* the first header */
    assert_status(make(&ram), SLATE_ERR_ONE_COPY);
    ram_close(&ram);
    ask_of(&ram, "a container", 0);
    s.draft.part[3].ask.standing = SLATE_STANDING_LOGICAL;
    assert_refused(&ram, "stays as a whole");
    ask_of(NULL, "a container", 0);
    s.draft.part[3].ask.size = 100 * (uint64_t)MIB;
    assert_status(make(&ram), SLATE_ERR_TOO_SMALL);
    ram_close(&ram);
}

/* Logical partitions stay one by one where the chain is as everybody makes
 * it; in any other one, together. */
static void an_odd_chain_stays_whole(void **state)
{
    /* of the second of four links, at 36 MiB, and of the last one */
    static const struct {
        uint64_t byte, value;
        int bytes;
    } oddities[] = {
        {36 * MIB + 482, 0x83, 1},                   /* a third entry, */
        {36 * MIB + 490, 5, 4},                      /* with a size */
        {36 * MIB + 454, UINT32_MAX - 20 * 2048, 4}, /* ahead of its link */
        {36 * MIB + 470, 0, 4},                      /* a circle */
        {36 * MIB + 510, 0, 2},                      /* no link at all */
        {86 * MIB + 458, 60 * 2048, 4}, /* reaches beyond the container */
        {36 * MIB + 450, 0, 1},         /* a link without a partition */
        {36 * MIB + 458, 0, 4}};
    struct ram ram;

    (void)state;
    block = 512;
    ask_of(&ram, "a chain", 0);
    ask_more((struct slate_ask){.keep = 3});
    assert_refused(&ram, "not both"); /* the container as well */
    ask_of(NULL, "a chain", 0);
    s.draft.part[6].ask.active = true; /* a primary one, then */
    assert_ok(make(&ram));
    s.draft.part[0].ask.standing = SLATE_STANDING_LOGICAL;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_PARTS);
    for (size_t i = 0; i < sizeof oddities / sizeof oddities[0]; i++) {
        struct ram one;

        ram_copy(&one, &ram);
        craft_le(&one, oddities[i].byte, oddities[i].value, oddities[i].bytes);
        session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
        s.draft.parts = 0;
        ask_more((struct slate_ask){.keep = 5});
        assert_refused(&one, "their container");
        s.draft.parts = 0;
        ask_more((struct slate_ask){.keep = 1});
        ask_more((struct slate_ask){.keep = 3});
        assert_ok(make(&one));
        ram_close(&one);
    }
    ram_close(&ram);
}

/* What a draft file says of the links is not believed. */
static void links_from_a_file_are_checked(void **state)
{
    static const size_t at[] = {454, 458, 466, 482, 506, 510};
    struct ram ram;

    (void)state;
    block = 512;
    ask_of(&ram, "a chain", 0);
    assert_ok(make(&ram));
    for (size_t link = 1; link <= 4; link++) {
        for (size_t i = 0; i < sizeof at / sizeof at[0]; i++) {
            s.draft.basis.image.byte[512 * link + at[i]] ^= 0x5A;
            assert_true(slate_draft_make(&s.draft) != SLATE_OK);
            s.draft.basis.image.byte[512 * link + at[i]] ^= 0x5A;
        }
    }
    s.draft.part[2].range.first++;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_PARTS);
    s.draft.part[2].range.first--;
    assert_ok(slate_draft_make(&s.draft));
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_edit_leaves_the_rest_as_it_was),
        cmocka_unit_test(the_power_may_go_in_every_write),
        cmocka_unit_test(what_has_changed_since_is_refused),
        cmocka_unit_test(what_cannot_stay_is_refused),
        cmocka_unit_test(an_odd_chain_stays_whole),
        cmocka_unit_test(links_from_a_file_are_checked),
    };

    return cmocka_run_group_tests_name("keep", tests, NULL, NULL);
}
