/* SPDX-License-Identifier: MIT */
/* Drafts: a pure function of their input; extents in a safe order; any block
 * composed in any order. */
#include <stdlib.h>

#include "check.h"

#define EXTENTS 96

static struct session s;

static uint32_t extents_of(const struct slate_draft *draft,
                           struct slate_extent *extent)
{
    struct slate_walk walk = {0};
    uint32_t count = 0;

    while (slate_draft_next(draft, &walk, &extent[count]))
        assert_true(++count < EXTENTS);
    return count;
}

/* A device with a past: two volumes, a GPT's remains, an old table. */
static void open_used(struct ram *ram, uint32_t block_bytes)
{
    struct wanted goal = {.table_given = true, .table = SLATE_TABLE_GPT};

    ram_open(ram, block_bytes, 2147483648u / block_bytes, true);
    assert_ok(session_draft(&s, ram, &goal));
    assert_ok(session_enact(&s, sizeof s.work));
    ram_put_entry(ram, 0, 0x07, true, 4096, 100000);
    ram_put_entry(ram, 1, 0x83, false, 200000, 60000);
    ram_put(ram, 4096u * (uint64_t)block_bytes, "old volume", 10);
}

/* The old range that an erased extent lies in. */
static uint32_t old_range_of(const struct slate_extent *extent)
{
    for (uint32_t i = 0; i < s.draft.basis.old.count; i++) {
        const struct slate_range *old = &s.draft.basis.old.range[i];

        if (extent->first >= old->first &&
            extent->first + extent->count <= old->first + old->count)
            return i;
    }
    fail_msg("block %llu is in no old range",
             (unsigned long long)extent->first);
    return 0;
}

/* The last old structures go first. */
static void check_last_first(const struct slate_extent *before,
                             const struct slate_extent *after)
{
    uint32_t a = old_range_of(before), b = old_range_of(after);

    assert_true(b < a || (b == a && after->first > before->first));
}

static void extents_are_disjoint_and_in_safe_order(void **state)
{
    struct wanted goal = {.label = "SAFE"};
    struct slate_extent e[EXTENTS];

    (void)state;
    for (int table = 0; table < 3; table++) {
        struct ram ram;
        uint32_t count;
        uint64_t blocks = 0;

        open_used(&ram, 512);
        goal.table_given = true;
        goal.table = (enum slate_table_kind)table;
        assert_ok(session_draft(&s, &ram, &goal));
        count = extents_of(&s.draft, e);
        assert_int_equal(e[0].moment, SLATE_MOMENT_MARK);
        assert_int_equal(e[0].first, 0);
        assert_int_equal(e[count - 1].moment, SLATE_MOMENT_COMMIT);
        assert_int_equal(e[count - 1].first, 0);
        for (uint32_t i = 1; i < count; i++) {
            blocks += e[i].count;
            assert_true(e[i].count > 0);
            assert_true(e[i].first + e[i].count <=
                        s.media.geometry.block_count);
            assert_true(e[i].moment >= e[i - 1].moment);
            if (e[i].moment == SLATE_MOMENT_ERASE && i > 1)
                check_last_first(&e[i - 1], &e[i]);
            for (uint32_t j = 1; j < i; j++)
                assert_true(e[i].first >= e[j].first + e[j].count ||
                            e[j].first >= e[i].first + e[i].count);
        }
        assert_int_equal(blocks, slate_draft_blocks(&s.draft, true));
        assert_int_equal(blocks + 1, slate_draft_blocks(&s.draft, false));
        ram_close(&ram);
    }
}

/* Every block of both ends and of the old heads is in some extent. */
static void old_structures_are_all_covered(void **state)
{
    static const struct slate_range old[] = {
        {0, 2048},     {4194304 - 2048, 2048}, {4096, 256},
        {200000, 256}, {104096 - 128, 128},    {260000 - 128, 128}};
    struct wanted goal = {.label = "SAFE"};
    struct slate_extent e[EXTENTS];
    struct ram ram;
    uint32_t count;

    (void)state;
    open_used(&ram, 512);
    assert_ok(session_draft(&s, &ram, &goal));
    count = extents_of(&s.draft, e);
    for (size_t r = 0; r < sizeof old / sizeof old[0]; r++) {
        for (uint64_t lba = old[r].first; lba < old[r].first + old[r].count;
             lba++) {
            bool covered = false;

            for (uint32_t i = 1; i < count && !covered; i++)
                covered = lba >= e[i].first && lba < e[i].first + e[i].count;
            assert_true(covered);
        }
    }
    ram_close(&ram);
}

/* All that is written, in one pass. */
static uint8_t *compose_all(const struct slate_extent *e, uint32_t count,
                            uint32_t block_bytes, size_t *length)
{
    uint8_t *all;
    size_t at = 0;

    *length = (size_t)slate_draft_blocks(&s.draft, false) * block_bytes;
    all = malloc(*length);
    for (uint32_t i = 0; i < count; i++) {
        assert_ok(slate_draft_compose(&s.draft, &e[i], e[i].first,
                                      (uint32_t)e[i].count, all + at));
        at += (size_t)e[i].count * block_bytes;
    }
    assert_int_equal(at, *length);
    return all;
}

/* Equal as it is; with one bit changed, that block and no other differs. */
static void check_compare(const struct slate_extent *extent, uint64_t first,
                          uint32_t count, uint8_t *chunk, uint32_t seed)
{
    static uint8_t scratch[37 * 4096];
    struct slate_difference found;
    uint32_t bytes = count * s.draft.basis.geometry.block_bytes;
    uint32_t at = (seed >> 5) % bytes;

    assert_ok(slate_draft_compare(&s.draft, extent, first, count, chunk,
                                  scratch, &found));
    assert_int_equal(found.blocks, 0);
    chunk[at] ^= 0x40;
    assert_ok(slate_draft_compare(&s.draft, extent, first, count, chunk,
                                  scratch, &found));
    assert_int_equal(found.blocks, 1);
    assert_int_equal(found.first,
                     first + at / s.draft.basis.geometry.block_bytes);
}

/* Chunks of 1 to 37 blocks, taken from the back and in random places. */
static void any_order_and_any_chunk_compose_the_same(void **state)
{
    struct wanted goal = {.label = "ORDER"};
    struct slate_extent e[EXTENTS];

    (void)state;
    for (uint32_t block = 512; block <= 4096; block *= 2) {
        static uint8_t chunk[37 * 4096];
        uint32_t seed = block;
        struct ram ram;
        uint32_t count;
        uint8_t *all;
        size_t length;

        open_used(&ram, block);
        goal.table_given = block > 512;
        goal.table = block == 1024 ? SLATE_TABLE_NONE : SLATE_TABLE_GPT;
        assert_ok(session_draft(&s, &ram, &goal));
        count = extents_of(&s.draft, e);
        all = compose_all(e, count, block, &length);
        for (int round = 0; round < 3000; round++) {
            uint64_t ahead = 0, at;
            uint32_t i, n;

            seed = seed * 1664525 + 1013904223;
            i = count - 1 - (seed >> 8) % count;
            for (uint32_t j = 0; j < i; j++)
                ahead += e[j].count;
            at = (seed >> 3) % e[i].count;
            n = (uint32_t)((seed >> 16) % 37 + 1);
            if (n > e[i].count - at)
                n = (uint32_t)(e[i].count - at);
            assert_ok(slate_draft_compose(&s.draft, &e[i], e[i].first + at, n,
                                          chunk));
            assert_memory_equal(chunk, all + (ahead + at) * block,
                                (size_t)n * block);
            check_compare(&e[i], e[i].first + at, n, chunk, seed);
        }
        free(all);
        ram_close(&ram);
    }
}

/* Each change of the input, and back again. */
static void change_input(int i)
{
    struct slate_basis *basis = &s.draft.basis;
    struct slate_ask *ask = &s.draft.part[0].ask;

    switch (i) {
    case 0:
        ask->label[0] ^= 'S' ^ 'Z';
        break;
    case 1:
        s.draft.goal.use ^= SLATE_USE_CAMERA;
        break;
    case 2:
        ask->cluster_bytes ^= 8192;
        break;
    case 3:
        basis->evidence.seen[1].check[7] ^= 1;
        break;
    case 4:
        basis->evidence.seen[0].check[0] ^= 1;
        break;
    case 5:
        basis->evidence.seen[1].first ^= 1;
        break;
    case 6:
        basis->old.range[1].first ^= 1;
        basis->old.range[1].count ^= 1;
        break;
    case 7:
        basis->geometry.physical_bytes ^= 512 ^ 4096;
        break;
    case 8:
        s.draft.choices.seed[15] ^= 1;
        break;
    case 9:
        ask->volume ^= SLATE_VOLUME_FAT32;
        break;
    case 10:
        ask->active = !ask->active;
        break;
    case 11:
        s.draft.goal.lasting = !s.draft.goal.lasting;
        break;
    case 12:
        basis->identity[7] ^= 1;
        break;
    case 13:
        basis->tag[7] ^= 1;
        break;
    default:
        s.draft.choices.stamp.second ^= 1;
        break;
    }
}

static void the_seal_covers_every_input(void **state)
{
    struct wanted goal = {.label = "SEAL"};
    uint8_t first[SLATE_DIGEST_BYTES];
    struct ram ram;

    (void)state;
    open_used(&ram, 512);
    assert_ok(session_draft(&s, &ram, &goal));
    memcpy(first, s.draft.seal, sizeof first);
    assert_ok(slate_draft_make(&s.draft));
    assert_memory_equal(s.draft.seal, first, sizeof first);
    for (int i = 0; i < 15; i++) {
        change_input(i);
        assert_ok(slate_draft_make(&s.draft));
        assert_memory_not_equal(s.draft.seal, first, sizeof first);
        change_input(i);
        assert_ok(slate_draft_make(&s.draft));
        assert_memory_equal(s.draft.seal, first, sizeof first);
    }
    ram_close(&ram);
}

/* A basis may come from a file: nonsense is refused, not computed with. */
static void impossible_input_is_refused(void **state)
{
    struct wanted goal = {.label = "X"};
    struct ram ram;

    (void)state;
    open_used(&ram, 512);
    for (int i = 0; i < 9; i++) {
        struct slate_basis *basis = &s.draft.basis;

        assert_ok(session_draft(&s, &ram, &goal));
        switch (i) {
        case 0:
            basis->old.range[0].count = 0;
            break;
        case 1:
            basis->old.range[1].first = 0;
            break;
        case 2:
            basis->old.range[0].count = UINT64_MAX;
            break;
        case 3:
            basis->evidence.seen[1].count = UINT64_MAX;
            break;
        case 4:
            basis->geometry.physical_bytes = 0;
            break;
        case 5:
            basis->geometry.physical_bytes = 3000;
            break;
        case 6:
            basis->geometry.erase_bytes = 700;
            break;
        case 7:
            basis->geometry.block_count = UINT64_MAX;
            break;
        default:
            basis->geometry.block_count = 0;
            break;
        }
        assert_status(slate_draft_make(&s.draft), SLATE_ERR_ARGUMENT);
    }
    assert_ok(session_draft(&s, &ram, &goal));
    s.draft.goal.use = (enum slate_use)99;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_USE);
    s.draft.goal.use = SLATE_USE_ANYTHING;
    memset(s.draft.part[0].ask.label, 'A', SLATE_LABEL_ROOM);
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_USE);
    ram_close(&ram);
}

static void tables_are_chosen_and_refusals_explained(void **state)
{
    struct wanted goal = {0};
    struct slate_geometry geometry = {131072, 512, 512, 0};
    struct slate_text text;
    char words[256];

    (void)state;
    assert_ok(session_plan(&s, &goal, geometry));
    assert_int_equal(s.draft.table.kind, SLATE_TABLE_MBR);
    slate_text_start(&text, words, sizeof words);
    assert_true(slate_draft_remark(&s.draft, 2, &text));
    assert_non_null(strstr(words, "Clusters of 512 bytes"));
    geometry.block_count = 60000;
    assert_ok(session_plan(&s, &goal, geometry));
    assert_int_equal(s.draft.part[0].format->kind, SLATE_VOLUME_FAT16);
    slate_text_start(&text, words, sizeof words);
    assert_true(slate_draft_remark(&s.draft, 1, &text));
    assert_non_null(strstr(words, "too small for FAT32"));
    goal.volume = SLATE_VOLUME_FAT32;
    assert_status(session_plan(&s, &goal, geometry), SLATE_ERR_TOO_SMALL);
    slate_text_start(&text, words, sizeof words);
    slate_draft_refusal_words(&s.draft, SLATE_ERR_TOO_SMALL, &text);
    assert_string_equal(words,
                        "FAT32 needs at least 34.1 MB (32.5 MiB) with "
                        "512-byte blocks; this device has 30.7 MB (29.3 MiB), "
                        "of which 29.7 MB (28.3 MiB) are left for a "
                        "partition");
    goal.volume = SLATE_VOLUME_NONE;
    geometry.block_count = 7814037168; /* 4 TB */
    assert_ok(session_plan(&s, &goal, geometry));
    assert_int_equal(s.draft.part[0].format->kind, SLATE_VOLUME_EXFAT);
    assert_int_equal(s.draft.table.kind, SLATE_TABLE_GPT);
    geometry.block_count = UINT64_MAX / 512; /* 16 EiB */
    assert_status(session_plan(&s, &goal, geometry), SLATE_ERR_TOO_LARGE);
    slate_text_start(&text, words, sizeof words);
    slate_draft_refusal_words(&s.draft, SLATE_ERR_TOO_LARGE, &text);
    assert_non_null(strstr(words, "exFAT reaches 144 PB (128 PiB)"));
    geometry.block_count = 1000;
    assert_status(session_plan(&s, &goal, geometry), SLATE_ERR_TOO_SMALL);
    /* partitions begin at the erase unit and end at a physical block */
    geometry = (struct slate_geometry){30546945, 512, 4096, 4194304};
    assert_ok(session_plan(&s, &goal, geometry));
    assert_int_equal(s.draft.part[0].range.first, 8192);
    assert_int_equal(s.draft.part[0].range.first + s.draft.part[0].range.count,
                     30546944);
}

/* Nothing asked for is no draft; a table alone is one. */
static void nothing_asked_for_is_refused(void **state)
{
    char words[200];
    struct slate_text text;
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 100000, true);
    assert_ok(session_look(&s, &ram));
    slate_draft_place(&s.draft, s.room, sizeof s.room);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_PARTS);
    slate_text_start(&text, words, sizeof words);
    slate_draft_refusal_words(&s.draft, SLATE_ERR_PARTS, &text);
    assert_non_null(strstr(words, "nothing is asked for"));
    s.draft.goal.table_given = true;
    s.draft.goal.table = SLATE_TABLE_MBR;
    assert_ok(slate_draft_make(&s.draft));
    ram_close(&ram);
}

/* What has no room, and how many bytes it would take: with those it goes on.
 * Whatever the room, nothing is written behind it. */
static void what_has_no_room_is_told(void **state)
{
    static uint8_t room[20000];
    const struct slate_ask ask = {.files = true};
    const struct slate_item item = {.folder = true};
    char words[200];
    struct slate_text text;
    struct ram ram;
    bool enough = false;

    (void)state;
    ram_open(&ram, 512, 100000, true);
    assert_ok(session_look(&s, &ram));
    slate_draft_place(&s.draft, room, 100);
    assert_status(slate_draft_ask(&s.draft, &ask), SLATE_ERR_ROOM);
    slate_text_start(&text, words, sizeof words);
    slate_draft_refusal_words(&s.draft, SLATE_ERR_ROOM, &text);
    assert_non_null(strstr(words, "the room for partitions is too small: "));
    assert_non_null(strstr(words, " bytes are needed, and 100 are there"));
    for (size_t bytes = 0; !enough; bytes++) {
        size_t at = bytes % 16; /* of any alignment */
        enum slate_status status;

        assert_true(bytes < sizeof room - 16);
        memset(room, 0xE7, sizeof room);
        slate_draft_place(&s.draft, room + at, bytes);
        status = slate_draft_ask(&s.draft, &ask);
        if (status == SLATE_OK)
            status = slate_draft_base(&s.draft, &s.facts);
        if (status == SLATE_OK)
            status = slate_draft_bad(&s.draft, 50000, 1);
        if (status == SLATE_OK)
            status = slate_draft_file(&s.draft, &item, "");
        if (status == SLATE_OK)
            status = slate_draft_make(&s.draft);
        enough = status == SLATE_OK;
        assert_int_equal(status, enough ? SLATE_OK : SLATE_ERR_ROOM);
        assert_true(enough || s.draft.shortage.needed > bytes);
        for (size_t i = at + bytes; i < sizeof room; i++)
            assert_int_equal(room[i], 0xE7);
    }
    ram_close(&ram);
}

/* In another room it composes the same; one that is too small changes nothing.
 */
static void a_draft_moves(void **state)
{
    static uint8_t other[100000];
    struct wanted goal = {.volume = SLATE_VOLUME_FAT32, .label = "GAUGE"};
    uint8_t seal[SLATE_DIGEST_BYTES];
    struct ram ram;
    size_t bytes = 0;

    (void)state;
    ram_open(&ram, 512, 200000, true);
    assert_ok(session_draft(&s, &ram, &goal));
    memcpy(seal, s.draft.seal, sizeof seal);
    while (slate_draft_move(&s.draft, other, bytes) != SLATE_OK)
        assert_true(++bytes < sizeof other);
    memset(s.room, 0xE7, sizeof s.room);
    assert_ok(slate_draft_make(&s.draft));
    assert_memory_equal(seal, s.draft.seal, sizeof seal);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(extents_are_disjoint_and_in_safe_order),
        cmocka_unit_test(old_structures_are_all_covered),
        cmocka_unit_test(any_order_and_any_chunk_compose_the_same),
        cmocka_unit_test(the_seal_covers_every_input),
        cmocka_unit_test(impossible_input_is_refused),
        cmocka_unit_test(tables_are_chosen_and_refusals_explained),
        cmocka_unit_test(nothing_asked_for_is_refused),
        cmocka_unit_test(what_has_no_room_is_told),
        cmocka_unit_test(a_draft_moves),
    };

    return cmocka_run_group_tests_name("draft", tests, NULL, NULL);
}
