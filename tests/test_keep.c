/* SPDX-License-Identifier: MIT */
/* Partitions that stay: to the last bit, with their entries, whatever else goes
 * or comes, and wherever the power goes meanwhile. */
#include "check.h"
#include "craft.h"
#include "shim.h"

#define MIB 1048576u
#define DEVICE_MIB 160u

static struct session s;
static uint32_t block; /* bytes */

static uint32_t at_mib(uint32_t mib)
{
    return mib * (MIB / block);
}

/* Start-up code, and bytes in entries that nobody else would write there. */
static void code(struct ram *ram)
{
    craft_noise(ram, 0, 440);
    craft_le(ram, 440, 0x51DE7E57, 4);
}

static void put_entry(struct ram *ram, unsigned slot, uint8_t type,
                      uint32_t mib, uint32_t size)
{
    ram_put_entry(ram, slot, type, slot == 1, at_mib(mib), at_mib(size));
    craft_le(ram, 446 + 16 * slot + 1, 0xABCDEF, 3); /* CHS of its own */
}

static void three_primaries(struct ram *ram)
{
    code(ram);
    put_entry(ram, 0, 0x06, 1, 20);
    put_entry(ram, 1, 0x83, 30, 20);
    put_entry(ram, 3, 0x0C, 60, 40); /* one slot is left out */
    craft_fat(ram, at_mib(1), at_mib(20), 16);
    craft_ext4(ram, at_mib(30), at_mib(20), "LOGS");
}

static void a_container(struct ram *ram)
{
    code(ram);
    put_entry(ram, 0, 0x06, 1, 20);
    put_entry(ram, 1, 0x0F, 30, 50);
    put_entry(ram, 2, 0x07, 100, 20);
    craft_link(ram, at_mib(30), 0x06, 63, at_mib(15), at_mib(20));
    craft_link(ram, at_mib(50), 0x83, 63, at_mib(10), 0);
    craft_fat(ram, at_mib(1), at_mib(20), 16);
}

static void gpt_of(struct ram *ram, uint32_t entries, uint32_t entry_bytes)
{
    struct craft_gpt table = {
        .entries = entries,
        .entry_bytes = entry_bytes,
        .partition = {{at_mib(1), at_mib(20), 0, NULL, 0},
                      {at_mib(30), at_mib(20), 4, &craft_linux, 0},
                      {0},
                      {at_mib(60), at_mib(40), 0, NULL, 0}}};

    craft_gpt(ram, &table);
    craft_fat(ram, at_mib(1), at_mib(20), 16);
    craft_ext4(ram, at_mib(30), at_mib(20), "LOGS");
}

static void usual_gpt(struct ram *ram)
{
    gpt_of(ram, 0, 0);
}

static void gpt_of_wide_entries(struct ram *ram)
{
    gpt_of(ram, 200, 256);
}

static void gpt_of_four_entries(struct ram *ram)
{
    gpt_of(ram, 4, 128);
}

static const struct {
    const char *name;
    void (*build)(struct ram *ram);
    uint32_t number[3]; /* of its partitions */
} devices[] = {{"three primaries", three_primaries, {1, 2, 4}},
               {"a container", a_container, {1, 2, 3}},
               {"GPT", usual_gpt, {1, 2, 4}},
               {"GPT of wide entries", gpt_of_wide_entries, {1, 2, 4}},
               {"GPT of four entries", gpt_of_four_entries, {1, 2, 4}}};

/* Which of the three stay, and how many MiB the new ones ask for; 0: none. */
static const struct {
    bool keep[3];
    uint32_t mib[2];
} edits[] = {{{true, true, true}, {10, 0}},   {{true, false, true}, {20, 0}},
             {{true, false, false}, {0, 0}},  {{false, true, false}, {12, 25}},
             {{false, false, true}, {3, 50}}, {{true, true, false}, {0, 0}}};

#define DEVICES (sizeof devices / sizeof devices[0])
#define EDITS (sizeof edits / sizeof edits[0])

static void ask_for(size_t device, size_t edit)
{
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    for (int i = 0; i < 3; i++) {
        struct slate_ask ask = {.keep = devices[device].number[i]};

        if (edits[edit].keep[i])
            assert_ok(slate_draft_ask(&s.draft, &ask));
    }
    for (int i = 0; i < 2; i++) {
        struct slate_ask ask = {.size_kind = SLATE_SIZE_BYTES,
                                .size = edits[edit].mib[i] * (uint64_t)MIB,
                                .label = "NEW"};

        if (ask.size != 0)
            assert_ok(slate_draft_ask(&s.draft, &ask));
    }
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

static void build(struct ram *ram, size_t device)
{
    ram_open(ram, block, at_mib(DEVICE_MIB), true);
    craft_noise(ram, 21ull * MIB, 2 * MIB); /* in a gap */
    craft_noise(ram, 140ull * MIB, 2 * MIB);
    devices[device].build(ram);
}

/* A byte that no extent holds is as it was. */
static void check_outside(const struct ram *before, const struct ram *after)
{
    static uint8_t listed[DEVICE_MIB * MIB / 512];
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

/* Where a raw entry stands. */
static uint64_t entry_at(const struct ram *ram, uint32_t number)
{
    uint8_t header[512];

    if (s.draft.table.kind == SLATE_TABLE_MBR)
        return 446 + 16 * (uint64_t)(number - 1);
    ram_get(ram, block, header, sizeof header);
    return number_at(header, 72, 8) * block +
           (number - 1) * number_at(header, 84, 4);
}

static void check_entries(const struct ram *before, const struct ram *after)
{
    uint32_t bytes = s.draft.table.kind == SLATE_TABLE_MBR ? 16 : 256;
    uint8_t a[4096], b[4096];

    if (s.draft.table.kind == SLATE_TABLE_GPT &&
        entry_at(before, 2) - entry_at(before, 1) == 128)
        bytes = 128;
    for (uint32_t i = 0; i < s.draft.parts; i++) {
        const struct slate_part *part = &s.draft.part[i];
        uint64_t at = entry_at(before, part->ask.keep);

        if (part->ask.keep == 0)
            continue;
        ram_get(before, at, a, bytes);
        ram_get(after, at, b, bytes);
        assert_memory_equal(a, b, bytes);
    }
    ram_get(before, 0, a, block);
    ram_get(after, 0, b, block);
    assert_memory_equal(a, b, 446);
    assert_memory_equal(a + 510, b + 510, block - 510);
    if (s.draft.table.kind == SLATE_TABLE_GPT)
        assert_memory_equal(a, b, block);
}

/* What is read back is what stays and what is new, and nothing else. */
static void check_layout(void)
{
    uint32_t logical = 0;

    assert_int_equal(
        slate_layout_check(&s.facts.layout, s.media.geometry.block_count) &
            ~(unsigned)(SLATE_LAYOUT_CHS | SLATE_LAYOUT_UNORDERED |
                        SLATE_LAYOUT_UNUSUAL_GPT),
        0);
    if (s.facts.layout.kind == SLATE_TABLE_GPT) {
        assert_int_equal(s.facts.layout.primary.state, SLATE_GPT_SOUND);
        assert_int_equal(s.facts.layout.backup.state, SLATE_GPT_SOUND);
    }
    for (uint32_t i = 0; i < s.facts.layout.count; i++)
        logical += s.facts.partition[i].role == SLATE_ROLE_LOGICAL ? 1u : 0u;
    assert_int_equal(s.facts.layout.count - logical, s.draft.parts);
    for (uint32_t i = 0; i < s.draft.parts; i++) {
        const struct slate_part *part = &s.draft.part[i];
        const struct slate_partition *found =
            listed_at(part->range.first, part->range.count);

        assert_non_null(found);
        if (part->ask.keep != 0)
            assert_int_equal(found->number, part->ask.keep);
    }
}

static void every_edit_leaves_the_rest_as_it_was(void **state)
{
    (void)state;
    for (block = 512; block <= 4096; block *= 8) {
        for (size_t i = 0; i < DEVICES * EDITS; i++) {
            struct ram before, after;
            uint8_t seal[SLATE_DIGEST_BYTES];

            build(&before, i / EDITS);
            ask_for(i / EDITS, i % EDITS);
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

/* What a host would see: what stays is there, and what is new only when all of
 * it is. A block 0 that was torn, or cannot be read, shows nothing of that; the
 * draft mends it. */
static void check_cut(const struct ram *ram, const struct ram *after,
                      const struct shim *shim, bool torn)
{
    bool blind = s.draft.table.kind == SLATE_TABLE_MBR &&
                 (torn || shim->unreadable == 0);

    assert_ok(slate_media_open(&s.media, &shim->port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    for (uint32_t i = 0; i < s.draft.parts && !blind; i++) {
        const struct slate_part *part = &s.draft.part[i];
        bool there = listed_at(part->range.first, part->range.count) != NULL;

        if (part->ask.keep != 0)
            assert_true(there);
        if (!there)
            continue;
        assert_true(ram_same(ram, after, part->range.first * block,
                             part->range.count * block));
        assert_true(shim->unreadable < part->range.first ||
                    shim->unreadable - part->range.first >= part->range.count);
    }
}

static void cut_and_go_on(const struct ram *before, const struct ram *after,
                          uint64_t n, size_t way)
{
    const struct cut cut = {
        before, after, n, ways[way], (uint32_t)(n * WAYS + way), 65536};
    struct ram ram;
    struct shim shim;

    session_cut(&s, &cut, &ram, &shim);
    check_cut(&ram, after, &shim,
              ways[way].torn_bytes > 0 && ways[way].torn_bytes % block != 0);
    session_go_on(&s, &cut, &ram, &shim);
}

static uint64_t cuts_of(size_t device, size_t edit)
{
    struct ram before, after;
    uint64_t writes, states = 0;

    build(&before, device);
    ask_for(device, edit);
    assert_ok(make(&before));
    ram_copy(&after, &before);
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, 65536));
    writes = after.writes;
    for (uint64_t n = 1; n <= writes; n++) {
        bool table = n <= 4 || n + 4 > writes;

        /* where the table is written, more ways; over all edits, every one */
        for (size_t way = 0; way < WAYS; way++) {
            if ((way + n + device + edit) % (table ? 3 : WAYS) != 0)
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

    (void)state;
    for (size_t i = 0; i < DEVICES * EDITS; i++) {
        block = (i / EDITS + i) % 2 == 0 ? 512 : 4096;
        states += cuts_of(i / EDITS, i % EDITS);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
    assert_true(states > 1000);
}

/* What is kept, or anything else outside, has changed since: refused, fresh
 * and half-way. */
static void what_has_changed_since_is_refused(void **state)
{
    struct ram ram, before;
    struct shim shim;

    (void)state;
    block = 512;
    for (size_t device = 0; device < DEVICES; device++) {
        build(&before, device);
        ask_for(device, 1);
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

static void what_cannot_stay_is_refused(void **state)
{
    struct slate_ask keep = {.keep = 1}, more = {.label = "NEW"};
    struct ram ram;

    (void)state;
    block = 512;
    build(&ram, 4); /* a GPT of four entries, with three partitions */
    ask_for(4, 0);
    more.size_kind = SLATE_SIZE_BYTES;
    more.size = 2 * MIB;
    assert_ok(slate_draft_ask(&s.draft, &more));
    assert_status(make(&ram), SLATE_ERR_PARTS); /* no entry for the second */
    assert_non_null(strstr(s.draft.why, "no entry left"));
    ask_for(4, 2);
    keep.keep = 3;
    assert_ok(slate_draft_ask(&s.draft, &keep));
    assert_status(make(&ram), SLATE_ERR_PARTS);
    ask_for(4, 2);
    keep.keep = 1;
    assert_ok(slate_draft_ask(&s.draft, &keep));
    assert_status(make(&ram), SLATE_ERR_PARTS); /* named twice */
    ask_for(4, 2);
    s.draft.goal.table_given = true;
    s.draft.goal.table = SLATE_TABLE_MBR;
    assert_status(make(&ram), SLATE_ERR_PARTS);
    ram_put_entry(&ram, 1, 0x0C, false, at_mib(1), at_mib(20)); /* a hybrid */
    ask_for(4, 2);
    assert_status(make(&ram), SLATE_ERR_PARTS);
    assert_non_null(strstr(s.draft.why, "hybrid"));
    craft_erase(&ram, 462, 16);
    ask_for(4, 2);
    assert_ok(make(&ram));
    craft_flip(&ram, block + 60); /* the first header */
    assert_status(make(&ram), SLATE_ERR_ONE_COPY);
    ram_close(&ram);
    build(&ram, 1);
    ask_for(1, 2);
    keep.keep = 5;
    assert_ok(slate_draft_ask(&s.draft, &keep));
    assert_status(make(&ram), SLATE_ERR_PARTS); /* a logical one */
    ask_for(1, 0);
    s.draft.part[3].ask.size = 100 * (uint64_t)MIB;
    assert_status(make(&ram), SLATE_ERR_TOO_SMALL);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_edit_leaves_the_rest_as_it_was),
        cmocka_unit_test(the_power_may_go_in_every_write),
        cmocka_unit_test(what_has_changed_since_is_refused),
        cmocka_unit_test(what_cannot_stay_is_refused),
    };

    return cmocka_run_group_tests_name("keep", tests, NULL, NULL);
}
