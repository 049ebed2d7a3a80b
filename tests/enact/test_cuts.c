/* SPDX-License-Identifier: MIT */
/* The power goes in every write of a renewal, over every kind of old content:
 * the device shows the old content, the mark or the new content, and enacting
 * the same draft again ends as if nothing had been. */
#include "check.h"
#include "old_content.h"
#include "shim.h"

#define BLOCKS_512 73728u  /* 36 MiB: about the smallest FAT32 volume */
#define BLOCKS_4096 68608u /* 268 MiB, the same */

static struct session s;

/* How the power goes; torn bytes are of the write in which it does. */
static const struct shim_way ways[] = {
    {0, false, false, SHIM_KEPT},         {64, false, false, SHIM_LOST},
    {256, false, false, SHIM_SOME},       {448, false, false, SHIM_KEPT},
    {64, true, false, SHIM_SOME},         {256, true, false, SHIM_LOST},
    {448, true, false, SHIM_KEPT},        {512, false, false, SHIM_LOST},
    {2048, false, false, SHIM_SOME},      {512, true, false, SHIM_SOME},
    {3584, true, false, SHIM_LOST},       {256, false, true, SHIM_KEPT},
    {100000000, false, false, SHIM_SOME},
};

#define WAYS (sizeof ways / sizeof ways[0])

static void check_block_0(struct ram *ram, const struct ram *before,
                          const struct ram *after, const struct shim *shim)
{
    uint32_t bytes = ram->facts.block_bytes;
    uint8_t block[4096], old[4096], new[4096];

    ram_get(ram, 0, block, bytes);
    ram_get(before, 0, old, bytes);
    ram_get(after, 0, new, bytes);
    if (memcmp(block, old, bytes) == 0) {
        assert_true(ram_equal(ram, before));
        return;
    }
    if (memcmp(block, new, bytes) == 0) {
        assert_true(ram_equal(ram, after));
        return;
    }
    /* torn in the middle, or marked */
    assert_true(slate_mark_names(block, bytes, s.draft.seal));
    if (shim->unreadable == 0)
        return;
    assert_ok(slate_media_open(&s.media, &shim->port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    assert_true(s.facts.marked);
    assert_int_equal(s.facts.layout.found, 0);
}

static void cut_and_go_on(const struct ram *before, const struct ram *after,
                          uint64_t n, size_t way)
{
    const struct cut cut = {
        before, after, n, ways[way], (uint32_t)(n * WAYS + way), 262144};
    struct ram ram;
    struct shim shim;

    session_cut(&s, &cut, &ram, &shim);
    check_block_0(&ram, before, after, &shim);
    session_go_on(&s, &cut, &ram, &shim);
}

static uint64_t cuts_of(size_t kind, uint32_t block_bytes,
                        const struct wanted *goal)
{
    struct ram before, after;
    uint64_t n, writes, states = 0;

    ram_open(&before, block_bytes,
             block_bytes == 512 ? BLOCKS_512 : BLOCKS_4096, true);
    old_content_at(kind)->build(&before);
    assert_ok(session_draft(&s, &before, goal));
    ram_copy(&after, &before);
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, 262144));
    writes = after.writes;
    for (n = 1; n <= writes; n++) {
        /* every way where block 0 is written; elsewhere one after the other */
        for (size_t way = 0; way < WAYS; way++) {
            if (n == 1 || n == writes || way == (n + kind) % WAYS) {
                cut_and_go_on(&before, &after, n, way);
                states++;
            }
        }
    }
    ram_close(&before);
    ram_close(&after);
    assert_true(writes > 10);
    return states;
}

/* Every third one is renewed without a table. */
static void run_kinds(uint32_t block_bytes)
{
    uint64_t states = 0;

    for (size_t kind = 0; kind < OLD_CONTENTS; kind++) {
        struct wanted goal = {.label = "CUT", .table_given = kind % 3 == 2};

        states += cuts_of(kind, block_bytes, &goal);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
}

static void every_cut_over_every_kind_of_old_content(void **state)
{
    (void)state;
    run_kinds(512);
}

static void the_same_with_large_blocks(void **state)
{
    (void)state;
    run_kinds(4096);
}

/* Every format, over a third of the old contents each, under a table and
 * without. */
static void every_cut_of_every_format(void **state)
{
    const struct slate_format *format;
    uint64_t states = 0;

    (void)state;
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        for (size_t kind = i % 3; kind < OLD_CONTENTS; kind += 3) {
            struct wanted goal = {.volume = format->kind,
                                  .label = "CUT",
                                  .table_given = kind % 2 == 0,
                                  .table = SLATE_TABLE_NONE};

            states += cuts_of(kind, 512, &goal);
        }
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_cut_over_every_kind_of_old_content),
        cmocka_unit_test(the_same_with_large_blocks),
        cmocka_unit_test(every_cut_of_every_format),
    };

    return cmocka_run_group_tests_name("cuts", tests, NULL, NULL);
}
