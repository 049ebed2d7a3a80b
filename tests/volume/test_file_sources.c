/* SPDX-License-Identifier: MIT */
/* Files whose source changes or fails while they are placed, and the power
 * going in every write. */
#include "placing.h"
#include "turns.h"

static struct session s;
static struct placed placed;
static struct tree tree;
static const struct placing p = {&s, &placed, &tree};

/* The mark stands: no volume was born of content that is not what was drafted.
 */
static void is_unfinished(const struct ram *ram)
{
    uint8_t block[512];

    ram_get(ram, 0, block, sizeof block);
    assert_true(slate_mark_names(block, 512, s.draft.seal));
}

/* A file changes in one byte after any number of reads: before the last of its
 * own, that is found; later it is too late to matter. */
static void a_source_that_changes(void **state)
{
    static const uint64_t bytes[] = {0, 1, 511, 512, 65536, 69998, 69999};

    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        struct ram ram;
        const uint32_t large = PLACING_LARGE;

        placing_begin(&p, &ram, i, 512, true);
        placing_usual(&p, placing_cluster_bytes(&p));
        assert_int_equal(placed.files->item[large].bytes, 70000);
        assert_ok(slate_draft_make(&s.draft));
        for (size_t b = 0; b < sizeof bytes / sizeof bytes[0]; b++) {
            placed.changed = large;
            placed.changed_at = bytes[b];
            placed.change_after = placed.reads = 0;
            assert_status(session_enact(&s, 8192), SLATE_ERR_SOURCE);
            assert_int_equal(placed.source.failed, large);
            is_unfinished(&ram);
        }
        placed.changed = PLACED_NOBODY;
        placed.shorter = large; /* told of before anything is written */
        assert_status(session_enact(&s, 8192), SLATE_ERR_SOURCE);
        placed.shorter = PLACED_NOBODY;
        assert_ok(session_enact(&s, 8192));
        placed_check(&placed, &s.draft, &ram, &tree);
        placed.changed = large;
        placed.reads = 0;
        assert_status(session_prove(&s, 8192), SLATE_ERR_SOURCE);
        ram_close(&ram);
    }
}

/* Any single read of the source fails; with the source whole again, the same
 * draft goes on to the same end. */
static void a_source_that_fails_at_any_read(void **state)
{
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        uint64_t reads, files = 0;
        struct ram ram;

        placing_begin(&p, &ram, i, 512, true);
        placing_usual(&p, placing_cluster_bytes(&p));
        placing_enact(&p, &ram);
        reads = placed.reads;
        for (uint32_t item = 1; item < placed.files->count; item++)
            files += placed.files->item[item].folder ? 0 : 1;
        ram_close(&ram);
        /* the rest proves; FAT16 and FAT32 have FAT12's code: a fifth */
        for (uint64_t n = 1; n <= reads / 2; n += i == 1 || i == 2 ? 5 : 1) {
            placing_begin(&p, &ram, i, 512, true);
            placing_usual(&p, placing_cluster_bytes(&p));
            assert_ok(slate_draft_make(&s.draft));
            placed.fail_read = n;
            assert_status(session_enact(&s, sizeof s.work), SLATE_ERR_SOURCE);
            if (n > 2 * files)
                is_unfinished(&ram);
            else if (n <= files)
                assert_int_equal(ram.writes, 0);
            placed.fail_read = 0;
            placing_enact(&p, &ram);
            ram_close(&ram);
            states++;
        }
    }
    print_message("%llu reads that failed\n", (unsigned long long)states);
}

static const struct shim_way ways[] = {
    {0, false, false, SHIM_KEPT},     {64, false, false, SHIM_LOST},
    {256, true, false, SHIM_SOME},    {512, false, false, SHIM_LOST},
    {2048, false, false, SHIM_SOME},  {256, false, true, SHIM_KEPT},
    {100000, false, false, SHIM_SOME}};

#define WAYS (sizeof ways / sizeof ways[0])

/* The mark, or the old content, or the new one: going on reaches it. */
static void every_cut(void **state)
{
    uint64_t states = 0;

    (void)state;
    for (size_t i = 0; i < 2 * KINDS; i++) {
        struct ram before, after;
        uint64_t writes;

        placing_begin(&p, &before, i / 2, 512, i % 2 == 0);
        placing_usual(&p, placing_cluster_bytes(&p));
        assert_ok(slate_draft_make(&s.draft));
        ram_copy(&after, &before);
        assert_ok(slate_media_open(&s.media, &after.port));
        assert_ok(session_enact(&s, 65536));
        placed_check(&placed, &s.draft, &after, &tree);
        writes = after.writes;
        for (uint64_t n = 1; n <= writes; n++) {
            for (size_t way = 0; way < WAYS; way++) {
                const struct cut cut = {&before,   &after,      n,
                                        ways[way], (uint32_t)n, 65536};
                struct ram ram;
                struct shim shim;

                if (n > 1 && n < writes &&
                    (way != (n + i) % WAYS || !turn_of(n, 4)))
                    continue;
                session_cut(&s, &cut, &ram, &shim);
                session_go_on(&s, &cut, &ram, &shim);
                states++;
            }
        }
        ram_close(&before);
        ram_close(&after);
    }
    print_message("%llu states after a cut\n", (unsigned long long)states);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_source_that_changes),
        cmocka_unit_test(a_source_that_fails_at_any_read),
        cmocka_unit_test(every_cut),
    };

    return cmocka_run_group_tests_name("file sources", tests, NULL, NULL);
}
