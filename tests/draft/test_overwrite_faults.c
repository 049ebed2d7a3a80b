/* SPDX-License-Identifier: MIT */
/* Overwriting on devices that fail: cut at any write, worn, deaf, unplugged.
 * What was not overwritten is told, to the block. */
#include "check.h"
#include "craft.h"

#define BLOCKS 600u
#define WORK 4096u

static struct session s;
static struct ram before, after, ram;
static struct shim shim;
static struct slate_range failed_range[SESSION_BAD];
static struct slate_ranges failed;
static uint8_t counted[BLOCKS];

static void want_rounds(const char *rounds, enum slate_read_back read_back)
{
    struct slate_overwrite *over = &s.draft.goal.overwrite;

    memset(over, 0, sizeof *over);
    over->read_back = read_back;
    for (; *rounds != '\0'; rounds++)
        over->round[over->rounds++] = (struct slate_round){
            *rounds == 'r' ? SLATE_ROUND_RANDOM : SLATE_ROUND_BYTE,
            (uint8_t)*rounds};
}

static void draft_bare(const char *rounds, enum slate_read_back read_back)
{
    assert_ok(session_look(&s, &before));
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING,
                                      .table_given = true,
                                      .table = SLATE_TABLE_NONE});
    s.draft.part[0].ask.bare = true;
    want_rounds(rounds, read_back);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    assert_ok(slate_draft_make(&s.draft));
}

static void open_noisy(void)
{
    ram_open(&before, 512, BLOCKS, true);
    craft_noise(&before, 0, BLOCKS * 512u);
}

/* An enacted copy; receives its writes. */
static uint64_t run_uncut(void)
{
    uint64_t writes;

    ram_copy(&after, &before);
    writes = after.writes;
    assert_ok(slate_media_open(&s.media, &after.port));
    assert_ok(session_enact(&s, WORK));
    return after.writes - writes;
}

static const struct shim_way ways[] = {
    {0, false, false, SHIM_KEPT},    {512, false, false, SHIM_LOST},
    {512, true, false, SHIM_SOME},   {256, false, true, SHIM_KEPT},
    {1024, false, false, SHIM_SOME}, {256, true, false, SHIM_LOST}};

#define WAYS (sizeof ways / sizeof ways[0])

/* The old content, or the mark, or the end: nothing in between. */
static void check_whole(uint64_t unreadable)
{
    uint8_t block[512], old[512], new[512];

    if (unreadable == 0)
        return;
    ram_get(&ram, 0, block, sizeof block);
    ram_get(&before, 0, old, sizeof old);
    ram_get(&after, 0, new, sizeof new);
    if (slate_mark_names(block, sizeof block, s.draft.seal) ||
        memcmp(block, new, sizeof new) == 0)
        return;
    assert_memory_equal(block + 256, old + 256, 192); /* torn, at most */
}

static void a_device_is_cut_at_every_write(void **state)
{
    static const char *const rounds[] = {"r", "U", "Ur", "rU", "rrz"};
    uint64_t states = 0;

    (void)state;
    open_noisy();
    for (size_t i = 0; i < sizeof rounds / sizeof rounds[0]; i++) {
        uint64_t writes;

        draft_bare(rounds[i], SLATE_READ_BACK_LAST);
        writes = run_uncut();
        for (uint64_t n = 1; n <= writes; n += 1 + n % 3) {
            size_t w = (size_t)(n % WAYS);
            const struct cut cut = {&before, &after,      n,
                                    ways[w], (uint32_t)n, WORK};

            session_cut(&s, &cut, &ram, &shim);
            check_whole(shim.unreadable);
            session_go_on(&s, &cut, &ram, &shim);
            states++;
        }
        ram_close(&after);
    }
    print_message("%llu states\n", (unsigned long long)states);
    ram_close(&before);
}

/* Two partitions with a volume each, one behind the other. */
static void open_two_volumes(void)
{
    ram_open(&before, 512, BLOCKS, true);
    assert_ok(session_look(&s, &before));
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING,
                                      .table_given = true,
                                      .table = SLATE_TABLE_MBR,
                                      .volume = SLATE_VOLUME_FAT12});
    s.draft.goal.cylinders = true;
    s.draft.goal.heads = 1;
    s.draft.goal.track_sectors = 63;
    s.draft.part[0].ask.size_kind = SLATE_SIZE_BYTES;
    s.draft.part[0].ask.size = 252u * 512;
    assert_ok(slate_draft_ask(
        &s.draft, &(struct slate_ask){.volume = SLATE_VOLUME_FAT12}));
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    assert_ok(slate_draft_make(&s.draft));
    assert_ok(session_enact(&s, WORK));
}

static void draft_emptied(void)
{
    assert_ok(session_look(&s, &before));
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.part[0].ask = (struct slate_ask){.keep = 1, .emptied = true};
    assert_ok(slate_draft_ask(&s.draft, &(struct slate_ask){.keep = 2}));
    want_rounds("Ur", SLATE_READ_BACK_LAST);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    assert_ok(slate_draft_keep(&s.draft, &s.facts, &s.media, s.work));
    assert_ok(slate_draft_make(&s.draft));
}

/* The partition shows its old volume, untouched, or none that is known. */
static void check_emptied(const struct slate_range *one,
                          const struct slate_range *two)
{
    assert_ok(session_look(&s, &ram));
    assert_int_equal(s.facts.layout.count, 2);
    assert_int_equal(s.facts.volume[1].kind, SLATE_VOLUME_FAT12);
    assert_true(ram_same(&ram, &before, 0, one->first * 512));
    assert_true(ram_same(&ram, &before, two->first * 512, two->count * 512));
    if (slate_volume_is_known(s.facts.volume[0].kind)) {
        assert_int_equal(s.facts.volume[0].kind, SLATE_VOLUME_FAT12);
        assert_true(ram_same(&ram, &before, (one->first + 1) * 512,
                             (one->count - 1) * 512));
    }
}

static void an_emptied_partition_is_cut_at_every_write(void **state)
{
    struct slate_range one, two;
    uint64_t writes, marked = 0;

    (void)state;
    open_two_volumes();
    draft_emptied();
    one = s.draft.part[0].range;
    two = s.draft.part[1].range;
    writes = run_uncut();
    for (uint64_t n = 1; n <= writes; n++) {
        for (size_t w = 0; w < WAYS; w++) {
            const struct cut cut = {&before, &after,      n,
                                    ways[w], (uint32_t)n, WORK};

            session_cut(&s, &cut, &ram, &shim);
            check_emptied(&one, &two);
            marked += s.facts.volume[0].kind == SLATE_VOLUME_UNFINISHED;
            session_go_on(&s, &cut, &ram, &shim);
        }
    }
    assert_true(marked > writes);
    assert_ok(session_look(&s, &after));
    assert_false(slate_volume_is_known(s.facts.volume[0].kind));
    ram_close(&after);
    ram_close(&before);
}

/* Enacts a copy until so many writes are done; then it is unplugged. */
static void stop_after(uint64_t writes, struct slate_enact *enact)
{
    enum slate_status status = SLATE_OK;

    ram_copy(&ram, &before);
    shim_open(&shim, &ram.port);
    memset(counted, 0, sizeof counted);
    shim.counted = counted;
    assert_ok(slate_media_open(&s.media, &shim.port));
    assert_ok(slate_enact_start(enact, &s.draft, &s.media, s.draft.basis.tag,
                                s.work, WORK));
    while (shim.writes < writes && status == SLATE_OK && !enact->pass.finished)
        status = slate_enact_step(enact);
    assert_ok(status);
    assert_ok(slate_enact_end(enact));
}

static uint32_t most_written(void)
{
    uint32_t most = 0;

    for (uint32_t i = 1; i < BLOCKS; i++)
        most = counted[i] > most ? counted[i] : most;
    return most;
}

/* Rounds that are done are not done once more; with what the earlier run says
 * of itself, not even what goes on is read. */
static void what_is_done_is_not_done_again(void **state)
{
    struct slate_enact enact;
    uint64_t writes;

    (void)state;
    open_noisy();
    draft_bare("rrU", SLATE_READ_BACK_LAST);
    writes = run_uncut();
    for (uint64_t n = 2; n < writes; n += 7) {
        for (int told = 0; told < 3; told++) {
            uint64_t safe, read;
            uint32_t round;

            stop_after(n, &enact);
            safe = enact.safe;
            round = (uint32_t)((n - 2) / (BLOCKS / 4));
            assert_ok(slate_enact_start(&enact, &s.draft, &s.media,
                                        s.draft.basis.tag, s.work, WORK));
            assert_true(enact.resumed);
            read = s.media.traffic.blocks_read;
            if (told > 0) /* also a wrong number does no harm */
                assert_ok(slate_enact_go_on(
                    &enact, told == 1 ? safe : safe + 2 * BLOCKS));
            assert_ok(slate_enact_complete(&enact, NULL, NULL));
            assert_true(ram_equal(&ram, &after));
            /* of what a flush has left behind, once more; untold, a round of
             * one byte may have hidden those ahead of it */
            assert_true(most_written() <= (told == 1 ? 4 : 6));
            read = s.media.traffic.blocks_read - read;
            if (told == 1) /* no more than may have been lost */
                assert_true(read <= 3 * (BLOCKS / 64 + WORK / 1024 + 1));
            if (round < 1 && told == 0)
                assert_true(most_written() == 3);
            shim_close(&shim);
            ram_close(&ram);
        }
    }
    ram_close(&after);
    ram_close(&before);
}

/* Some blocks of the device cannot be read, and perhaps not be written. */
static void wear(bool writes)
{
    static const struct slate_range worn[4] = {
        {17, 1}, {100, 9}, {333, 2}, {BLOCKS - 1, 1}};

    memcpy(before.worn, worn, sizeof worn);
    before.worn_reads = true;
    before.worn_writes = writes;
}

static void open_worn(bool overlapped)
{
    ram_copy(&ram, &before);
    if (overlapped)
        ram_let_overlap(&ram);
    failed = (struct slate_ranges){failed_range, SESSION_BAD, 0};
    assert_ok(slate_media_open(&s.media, &ram.port));
}

static enum slate_status enact_noting(struct slate_enact *enact, size_t work,
                                      bool noting)
{
    enum slate_status status = slate_enact_start(
        enact, &s.draft, &s.media, s.draft.basis.tag, s.work, work);

    if (status != SLATE_OK)
        return status;
    enact->failed = noting ? &failed : NULL;
    return slate_enact_complete(enact, NULL, NULL);
}

static enum slate_status prove_noting(struct slate_prove *prove, size_t work)
{
    enum slate_status status =
        slate_prove_start(prove, &s.draft, &s.media, s.work, work);

    prove->failed = &failed;
    while (status == SLATE_OK && !prove->pass.finished)
        status = slate_prove_step(prove);
    assert_ok(slate_prove_end(prove));
    return status;
}

static void check_failed(void)
{
    for (size_t i = 0; i < 4; i++) {
        assert_int_equal(failed.range[i].first, ram.worn[i].first);
        assert_int_equal(failed.range[i].count, ram.worn[i].count);
    }
    assert_int_equal(failed.count, 4);
}

/* A block that cannot be written, or not be read, does not end the work: all
 * others are overwritten, and the list is exact. */
static void worn_blocks_are_listed(void **state)
{
    static const size_t works[] = {4096, 16384, 262144};
    struct slate_enact enact;
    struct slate_prove prove;

    (void)state;
    open_noisy();
    for (int how = 0; how < 24; how++) {
        bool writes = how % 2 == 0;
        size_t work = works[how / 2 % 3];

        wear(writes);
        draft_bare("Ur", how / 6 % 2 == 0 ? SLATE_READ_BACK_LAST
                                          : SLATE_READ_BACK_ALL);
        open_worn(how >= 12);
        assert_ok(enact_noting(&enact, work, true));
        assert_ok(prove_noting(&prove, work));
        check_failed();
        assert_int_equal(enact.unwritable, writes ? 13 : 0);
        assert_int_equal(enact.unwritable + enact.unreadable + prove.unreadable,
                         13);
        assert_int_equal(enact.altered + prove.altered + prove.different, 0);
        for (uint64_t lba = 1; lba < BLOCKS; lba++) {
            uint8_t is[512], was[512];
            uint64_t bad = UINT64_MAX;

            ram_get(&ram, lba * 512, is, 512);
            ram_get(&before, lba * 512, was, 512);
            for (size_t i = 0; i < 4; i++)
                bad = lba - failed.range[i].first < failed.range[i].count ? lba
                                                                          : bad;
            assert_int_equal(memcmp(is, was, 512) == 0, writes && bad == lba);
        }
        assert_status(s.media.fault.status, SLATE_OK);
        ram_close(&ram);
        wear(true);
        draft_bare("Ur", SLATE_READ_BACK_LAST);
        open_worn(how >= 12);
        assert_status(enact_noting(&enact, work, false), SLATE_ERR_WRITE);
        ram_close(&ram);
    }
    ram_close(&before);
}

/* Rounds that are read back ask for the next blocks meanwhile: wherever that
 * stops, or fails, nothing is left under way, and all else is the same. */
static void rounds_are_read_back_ahead(void **state)
{
    struct slate_enact enact;

    (void)state;
    open_noisy();
    draft_bare("rU", SLATE_READ_BACK_ALL);
    run_uncut();
    for (uint64_t n = 0; n <= 80; n++) {
        uint64_t doubles;

        failed.count = 0;
        open_worn(true);
        assert_ok(slate_enact_start(&enact, &s.draft, &s.media,
                                    s.draft.basis.tag, s.work, 6144));
        while (enact.deed != SLATE_DEED_CHECK)
            assert_ok(slate_enact_step(&enact));
        doubles = ram.doubles;
        for (uint64_t i = 0; i < n && !enact.pass.finished; i++)
            assert_ok(slate_enact_step(&enact));
        assert_true(n < 2 || ram.doubles > doubles);
        assert_ok(slate_enact_end(&enact));
        assert_null(ram.under_way);
        assert_false(ram.claimed);
        if (!enact.pass.finished)
            assert_ok(session_enact(&s, WORK));
        assert_true(ram_equal(&ram, &after));
        ram_close(&ram);
    }
    for (uint64_t lba = 1; lba < BLOCKS; lba += 7) {
        open_worn(true);
        assert_ok(slate_enact_start(&enact, &s.draft, &s.media,
                                    s.draft.basis.tag, s.work, 6144));
        ram.fail_read = lba;
        assert_status(slate_enact_complete(&enact, NULL, NULL), SLATE_ERR_READ);
        assert_int_equal(s.media.fault.operation, SLATE_OPERATION_READ);
        assert_true(s.media.fault.lba <= lba && lba - s.media.fault.lba < 4);
        assert_null(ram.under_way);
        ram_close(&ram);
    }
    ram_close(&after);
    ram_close(&before);
}

/* More than there is room for: such a device is at its end. */
static void too_many_worn_blocks_end_it(void **state)
{
    struct slate_enact enact;

    (void)state;
    open_noisy();
    wear(true);
    draft_bare("U", SLATE_READ_BACK_LAST);
    open_worn(false);
    failed.room = 3;
    assert_status(enact_noting(&enact, WORK, true), SLATE_ERR_BAD_LIST);
    ram_close(&ram);
    ram_close(&before);
}

/* What is acknowledged and dropped is found when it is read back. */
static void a_deaf_device_is_found_out(void **state)
{
    struct slate_enact enact;
    struct slate_prove prove;

    (void)state;
    open_noisy();
    for (int how = 0; how < 3; how++) {
        draft_bare("Ur", how == 0 ? SLATE_READ_BACK_LAST : SLATE_READ_BACK_ALL);
        ram_copy(&ram, &before);
        shim_open(&shim, &ram.port);
        shim.deaf_after = 51;
        failed = (struct slate_ranges){failed_range, SESSION_BAD, 0};
        assert_ok(slate_media_open(&s.media, &shim.port));
        if (how == 2) {
            assert_status(enact_noting(&enact, WORK, false),
                          SLATE_ERR_UNPROVED);
        } else {
            /* the true block 0 is told apart at once */
            assert_status(enact_noting(&enact, WORK, true), SLATE_OK);
            assert_ok(prove_noting(&prove, WORK));
            assert_int_equal(failed.count, 1);
            assert_int_equal(failed.range[0].first + failed.range[0].count,
                             BLOCKS);
            assert_int_equal(enact.altered + prove.altered,
                             failed.range[0].count);
            assert_int_equal(failed.range[0].first, 1);
            assert_int_equal(enact.altered, how == 0 ? 0 : BLOCKS - 201);
        }
        shim_close(&shim);
        ram_close(&ram);
    }
    ram_close(&before);
}

/* A volume never comes over blocks that have failed: the work ends behind the
 * rounds, and is drafted anew around them. */
static void a_volume_comes_around_worn_blocks(void **state)
{
    struct slate_enact enact;

    (void)state;
    open_noisy();
    wear(true);
    before.worn[0] = before.worn[1]; /* its file tables are sound */
    for (int again = 0; again < 2; again++) {
        assert_ok(session_look(&s, again == 0 ? &before : &ram));
        session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING,
                                          .table_given = true,
                                          .table = SLATE_TABLE_NONE,
                                          .volume = SLATE_VOLUME_FAT12});
        want_rounds(again == 0 ? "r" : "", SLATE_READ_BACK_LAST);
        for (uint32_t i = 0; again == 1 && i < failed.count; i++)
            assert_ok(slate_draft_bad(&s.draft, failed.range[i].first,
                                      failed.range[i].count));
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        assert_ok(slate_draft_make(&s.draft));
        if (again == 0) {
            open_worn(false);
            assert_status(enact_noting(&enact, WORK, true),
                          SLATE_ERR_BAD_BLOCK);
            assert_int_equal(failed.count, 3);
        } else {
            assert_ok(enact_noting(&enact, WORK, true));
            assert_ok(session_prove(&s, WORK));
        }
    }
    ram_close(&ram);
    ram_close(&before);
}

/* The device is told what it may forget: all of it, once. */
static void what_may_be_forgotten_is_told(void **state)
{
    (void)state;
    open_noisy();
    for (int discard = 0; discard < SLATE_DISCARDS; discard++) {
        draft_bare("r", SLATE_READ_BACK_LAST);
        s.draft.goal.overwrite.discard = (enum slate_discard)discard;
        assert_ok(slate_draft_make(&s.draft));
        ram_copy(&ram, &before);
        ram_let_clear(&ram, RAM_CLEARS);
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(session_enact(&s, WORK));
        assert_ok(session_prove(&s, WORK));
        assert_int_equal(ram.discarded, discard == 0 ? 0 : BLOCKS - 1);
        ram_close(&ram);
    }
    ram_close(&before);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_device_is_cut_at_every_write),
        cmocka_unit_test(an_emptied_partition_is_cut_at_every_write),
        cmocka_unit_test(what_is_done_is_not_done_again),
        cmocka_unit_test(worn_blocks_are_listed),
        cmocka_unit_test(rounds_are_read_back_ahead),
        cmocka_unit_test(too_many_worn_blocks_end_it),
        cmocka_unit_test(a_deaf_device_is_found_out),
        cmocka_unit_test(a_volume_comes_around_worn_blocks),
        cmocka_unit_test(what_may_be_forgotten_is_told),
    };

    return cmocka_run_group_tests(tests, NULL, NULL);
}
