/* SPDX-License-Identifier: MIT */
/* The composer's face: a format of 100,000 extents is walked, erased around,
 * enacted and proved with calls that grow as its extents do. */
#include "check.h"

#define FIRST 4096u /* of its extents; then two blocks in every four */
#define STRIDE 4u

static struct session s;
static uint64_t calls, fills;
static uint64_t extents; /* the plan */

static bool many_next(const void *plan, enum slate_moment moment, uint64_t *at,
                      struct slate_extent *extent)
{
    (void)plan;
    calls++;
    if (moment != SLATE_MOMENT_BODY || *at >= extents)
        return false;
    extent->first = FIRST + STRIDE * (*at)++;
    extent->count = 2;
    extent->role = 0;
    extent->zero = false;
    return true;
}

static bool many_covers(const void *plan, uint64_t lba, uint64_t *until)
{
    uint64_t end = FIRST + STRIDE * extents, in;

    (void)plan;
    calls++;
    *until = lba < FIRST ? FIRST : UINT64_MAX;
    if (lba < FIRST || lba >= end)
        return false;
    in = (lba - FIRST) % STRIDE;
    *until = in < 2 ? lba - in + 2 : lba - in + STRIDE;
    if (in >= 2 && *until >= end)
        *until = UINT64_MAX;
    return in < 2;
}

static enum slate_status many_fill(const void *plan, uint64_t first,
                                   uint32_t count, void *data)
{
    (void)plan;
    fills++;
    memset(data, (int)(first / STRIDE % 251) + 1, 512 * (size_t)count);
    return SLATE_OK;
}

static const char *const many_steps[] = {"write many things"};

static const struct slate_format many = {
    .composer = {"many", many_next, many_covers, many_fill, many_steps},
    .kind = SLATE_VOLUME_OTHER};

/* A draft whose one part is of that format, over an old range that reaches
 * behind it. */
static void draft_many(struct ram *ram, uint64_t count)
{
    struct wanted goal = {.table_given = true, .table = SLATE_TABLE_MBR};
    struct slate_basis *basis = &s.draft.basis;

    extents = count;
    ram_open(ram, 512, FIRST + STRIDE * count + 4096, true);
    assert_ok(session_draft(&s, ram, &goal));
    s.draft.part[0].format = &many;
    basis->old.count = 1;
    basis->old.range[0].first = 0;
    basis->old.range[0].count = ram->facts.block_count;
    calls = 0;
    fills = 0;
}

static void check_extents(uint64_t count)
{
    struct slate_walk walk = {0};
    struct slate_extent e;
    uint64_t erased = 0, body = 0, blocks = 0, reached = 0;

    while (slate_draft_next(&s.draft, &walk, &e)) {
        if (e.moment == SLATE_MOMENT_MARK || e.moment == SLATE_MOMENT_COMMIT)
            continue;
        if (e.moment == SLATE_MOMENT_BODY && body++ == 0)
            reached = 0;
        assert_true(e.first >= reached);
        reached = e.first + e.count;
        erased += e.zero ? 1 : 0;
        blocks += e.count;
    }
    assert_int_equal(body, count);
    assert_int_equal(erased, count + 1);
    assert_int_equal(blocks, s.media.geometry.block_count - 1);
}

static void walks_are_linear(void **state)
{
    static const uint64_t counts[] = {1000, 10000, 100000};

    (void)state;
    for (size_t i = 0; i < 3; i++) {
        struct ram ram;

        draft_many(&ram, counts[i]);
        check_extents(counts[i]);
        /* a step of the walk; erasing, two looks at each border */
        assert_true(calls <= 6 * counts[i] + 64);
        assert_int_equal(fills, 0);
        ram_close(&ram);
    }
}

static void many_extents_are_enacted_and_proved(void **state)
{
    struct slate_prove prove;
    uint8_t block[512];
    struct ram ram;

    (void)state;
    draft_many(&ram, 100000);
    assert_ok(session_enact(&s, 65536));
    assert_true(fills <= 100002);
    assert_true(calls <= 12 * 100000 + 256);
    calls = 0;
    assert_ok(session_prove(&s, 65536));
    assert_true(calls <= 12 * 100000 + 256);
    ram_get(&ram, (FIRST + STRIDE * 77777) * 512 + 512, block, sizeof block);
    assert_int_equal(block[0], (FIRST / STRIDE + 77777) % 251 + 1);
    block[511] ^= 1;
    ram_put(&ram, (FIRST + STRIDE * 77777) * 512 + 512, block, sizeof block);
    assert_status(
        slate_prove_run(&prove, &s.draft, &s.media, s.work, 65536, NULL, NULL),
        SLATE_ERR_UNPROVED);
    assert_int_equal(prove.different, 1);
    assert_int_equal(prove.first_different, FIRST + STRIDE * 77777 + 1);
    assert_string_equal(prove.first_step, "write many things");
    ram_close(&ram);
}

/* A source that fails ends enacting with what it says, and proving as well. */
static enum slate_status failing_fill(const void *plan, uint64_t first,
                                      uint32_t count, void *data)
{
    return first < FIRST + STRIDE * 50 ? many_fill(plan, first, count, data)
                                       : SLATE_ERR_ACCESS;
}

static void a_fill_that_fails_ends_the_work(void **state)
{
    struct slate_format failing = many;
    struct slate_prove prove;
    struct ram ram;

    (void)state;
    failing.composer.fill = failing_fill;
    draft_many(&ram, 100);
    s.draft.part[0].format = &failing;
    assert_status(session_enact(&s, 65536), SLATE_ERR_ACCESS);
    assert_false(ram.claimed);
    assert_ok(slate_media_open(&s.media, &ram.port));
    assert_status(
        slate_prove_run(&prove, &s.draft, &s.media, s.work, 65536, NULL, NULL),
        SLATE_ERR_ACCESS);
    ram_close(&ram);
}

/* What holds of a composer's face: its extents cover what it covers and nothing
 * else, and blocks come out the same in any order and in runs of any length. */
static void check_face(const struct slate_composed *composed, uint64_t first,
                       uint64_t count)
{
    static uint8_t whole[64 * 512], part[64 * 512];
    const struct slate_composer *composer = composed->composer;
    struct slate_supply supply;
    struct slate_walk walk = {0};
    struct slate_extent extent;
    uint32_t seed = 1;
    bool in[64] = {false};
    uint64_t until;

    slate_compose_supply(composed, &supply);
    while (supply.next(supply.context, &walk, &extent)) {
        assert_true(extent.first >= first &&
                    extent.first + extent.count <= first + count);
        assert_true(strlen(composer->steps[extent.role]) > 5);
        for (uint64_t i = 0; i < extent.count; i++) {
            assert_false(in[extent.first - first + i]);
            in[extent.first - first + i] = true;
        }
        assert_ok(supply.compose(supply.context, &extent, extent.first,
                                 (uint32_t)extent.count, whole));
        for (int n = 0; n < 50; n++) {
            uint64_t from, run;

            seed = seed * 1664525 + 1013904223;
            from = seed / 256 % extent.count;
            run = 1 + seed / 65536 % (extent.count - from);
            assert_ok(supply.compose(supply.context, &extent,
                                     extent.first + from, (uint32_t)run, part));
            assert_memory_equal(part, whole + from * 512, run * 512);
        }
    }
    for (uint64_t lba = first < 3 ? 0 : first - 3; lba < first + count + 3;
         lba++) {
        bool covers = composer->covers(composed->plan, lba, &until);
        bool wanted = lba >= first && lba < first + count && in[lba - first];

        assert_int_equal(covers, wanted);
        assert_true(until > lba);
        for (uint64_t ahead = lba; ahead < until && ahead < first + count + 3;
             ahead++) {
            wanted =
                ahead >= first && ahead < first + count && in[ahead - first];
            assert_int_equal(wanted, covers);
        }
    }
}

static void patterns_kept_blocks_and_patches_have_the_face(void **state)
{
    static uint8_t bytes[64 * 512];
    const struct slate_pattern pattern = {{100, 60}, 512, {7, 7, 7}};
    const struct slate_random random = {{100, 60}, 512, {7, 7, 7}};
    const struct slate_kept kept = {{0, 33}, 512, bytes};
    const struct slate_patch patch[] = {
        {2, SLATE_MOMENT_BODY, SLATE_PATCH_VOLUME},
        {3, SLATE_MOMENT_BODY, SLATE_PATCH_VOLUME},
        {4, SLATE_MOMENT_COPIES, SLATE_PATCH_VOLUME_COPY},
        {9, SLATE_MOMENT_TABLE, SLATE_PATCH_TABLE},
        {20, SLATE_MOMENT_TABLE_COPY, SLATE_PATCH_TABLE_COPY}};
    struct slate_patch_plan patches = {patch, 5, 512, bytes, false};

    (void)state;
    for (size_t i = 0; i < sizeof bytes; i++)
        bytes[i] = (uint8_t)(i / 512 * 3 + i);
    check_face(&(struct slate_composed){&slate_pattern_composer, &pattern, 512},
               100, 60);
    check_face(&(struct slate_composed){&slate_random_composer, &random, 512},
               100, 60);
    check_face(&(struct slate_composed){&slate_kept_composer, &kept, 512}, 0,
               33);
    check_face(&(struct slate_composed){&slate_patch_composer, &patches, 512},
               2, 19);
    patches.former = true;
    check_face(&(struct slate_composed){&slate_patch_composer, &patches, 512},
               2, 19);
}

/* Vectors worked out from docs/formats.md by another program. */
static void random_data_is_as_published(void **state)
{
    static const struct {
        uint64_t lba;
        uint32_t bytes, crc;
        const char *head;
    } rows[] = {{0, 512, 0x083A82FD, "\xBE\x7C\x55\x34\x06\x2C\x70\xAD"},
                {7, 512, 0x5796B5BD, "\xE4\xAB\xDA\xFE\x12\x43\x63\x77"},
                {7, 4096, 0x77FFD6E6, "\xE4\xAB\xDA\xFE\x12\x43\x63\x77"},
                {(UINT64_C(1) << 40) + 3, 512, 0x54A972A8,
                 "\x1B\x2C\xF6\x48\x1F\xC8\x27\x7A"}};
    static uint8_t data[4096];

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_random random = {{0, UINT64_MAX}, rows[i].bytes, {0}};

        for (uint8_t byte = 0; byte < 16; byte++)
            random.key[byte] = byte;
        assert_ok(slate_random_composer.fill(&random, rows[i].lba, 1, data));
        assert_memory_equal(data, rows[i].head, 8);
        assert_int_equal(slate_crc32(0, data, rows[i].bytes), rows[i].crc);
        assert_true(slate_random_is(&random, rows[i].lba, data));
        for (uint32_t at = 0; at < rows[i].bytes; at += 37) {
            data[at] ^= 4;
            assert_false(slate_random_is(&random, rows[i].lba, data));
            data[at] ^= 4;
        }
    }
}

/* Of a run, each block is what it is by itself, wherever the run begins,
 * however long it is and wherever it goes in memory; and nothing is written
 * beside. */
static void a_run_of_random_data_is_its_blocks(void **state)
{
    static uint8_t run[10 * 4096 + 64], one[4096];

    (void)state;
    for (uint32_t bytes = 512; bytes <= 4096; bytes *= 2) {
        for (uint32_t i = 0; i < 200; i++) {
            struct slate_random random = {{0, UINT64_MAX}, bytes, {(uint8_t)i}};
            uint32_t count = 1 + i % 9;
            uint64_t lba = i < 100 ? i : UINT64_MAX / bytes - 2 * i;
            uint8_t *to = run + 1 + i % 32;

            memset(run, 0x6B, sizeof run);
            assert_ok(slate_random_composer.fill(&random, lba, count, to));
            assert_int_equal(to[-1], 0x6B);
            assert_int_equal(to[(size_t)count * bytes], 0x6B);
            for (uint32_t n = 0; n < count; n++) {
                assert_ok(slate_random_composer.fill(&random, lba + n, 1, one));
                assert_memory_equal(to + (size_t)n * bytes, one, bytes);
                assert_true(slate_random_is(&random, lba + n, one));
            }
        }
    }
}

/* Anything that has extents is proved, and what differs is named. */
static void a_pattern_is_proved(void **state)
{
    const struct slate_pattern pattern = {{300, 5000}, 512, {9}};
    const struct slate_composed composed = {&slate_pattern_composer, &pattern,
                                            512};
    struct slate_supply supply;
    struct ram ram;

    (void)state;
    slate_compose_supply(&composed, &supply);
    ram_open(&ram, 512, 10000, true);
    for (uint64_t lba = 300; lba < 5300; lba++) {
        assert_ok(slate_pattern_composer.fill(&pattern, lba, 1, s.work));
        assert_true(slate_pattern_is(&pattern, lba, s.work));
        assert_false(slate_pattern_is(&pattern, lba + 1, s.work));
        ram_put(&ram, lba * 512, s.work, 512);
    }
    assert_ok(slate_media_open(&s.media, &ram.port));
    for (int wrong = 0; wrong < 3; wrong++) {
        struct slate_prove prove;

        if (wrong > 0)
            ram_put(&ram, (wrong == 1 ? 4999 : 300) * 512 + 77, "\xEE", 1);
        assert_ok(slate_prove_begin(&prove, &supply, &s.media, s.work, 65536));
        while (!prove.pass.finished)
            assert_ok(slate_prove_step(&prove));
        assert_ok(slate_prove_end(&prove));
        assert_int_equal(prove.pass.done, 5000);
        assert_int_equal(prove.different, wrong);
        if (wrong > 0)
            assert_int_equal(prove.first_different, wrong == 1 ? 4999 : 300);
        if (wrong > 0)
            assert_string_equal(prove.first_step, "write a pattern");
    }
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(walks_are_linear),
        cmocka_unit_test(many_extents_are_enacted_and_proved),
        cmocka_unit_test(a_fill_that_fails_ends_the_work),
        cmocka_unit_test(patterns_kept_blocks_and_patches_have_the_face),
        cmocka_unit_test(random_data_is_as_published),
        cmocka_unit_test(a_run_of_random_data_is_its_blocks),
        cmocka_unit_test(a_pattern_is_proved),
    };

    return cmocka_run_group_tests_name("compose", tests, NULL, NULL);
}
