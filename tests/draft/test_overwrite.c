/* SPDX-License-Identifier: MIT */
/* Overwriting as drafts: every block that shall go is written as often and with
 * what was asked for, nothing else is touched, wherever the work is cut. */
#include "check.h"
#include "craft.h"
#include "kept.h"

#define BLOCKS 500u
#define WORK 8192u

static struct session s;
static struct ram before, ram;
static struct shim shim;
static uint8_t counted[KEPT_MIB * 2048];
static uint32_t size; /* of a block */

static void open_noisy(uint32_t block_bytes, uint64_t blocks)
{
    size = block_bytes;
    ram_open(&before, size, blocks, true);
    craft_noise(&before, 0, blocks * size);
}

/* Rounds as letters: z for zeros, r for random data, else the byte itself. */
static void want_rounds(const char *rounds, enum slate_read_back read_back,
                        enum slate_discard discard)
{
    struct slate_overwrite *over = &s.draft.goal.overwrite;

    memset(over, 0, sizeof *over);
    over->read_back = read_back;
    over->discard = discard;
    for (; *rounds != '\0'; rounds++)
        over->round[over->rounds++] = (struct slate_round){
            *rounds == 'z'   ? SLATE_ROUND_ZERO
            : *rounds == 'r' ? SLATE_ROUND_RANDOM
                             : SLATE_ROUND_BYTE,
            (uint8_t)(*rounds == 'z' || *rounds == 'r' ? 0 : *rounds)};
}

/* A device of which nothing stays, without table or volume. */
static void draft_bare(const char *rounds, enum slate_read_back read_back,
                       enum slate_discard discard)
{
    assert_ok(session_look(&s, &before));
    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING,
                                      .table_given = true,
                                      .table = SLATE_TABLE_NONE});
    s.draft.part[0].ask.bare = true;
    want_rounds(rounds, read_back, discard);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    assert_ok(slate_draft_make(&s.draft));
}

/* A copy of the device, behind a shim that counts. */
static void open_copy(void)
{
    ram_copy(&ram, &before);
    shim_open(&shim, &ram.port);
    memset(counted, 0, sizeof counted);
    shim.counted = counted;
    assert_ok(slate_media_open(&s.media, &shim.port));
}

static void close_copy(void)
{
    shim_close(&shim);
    ram_close(&ram);
}

/* What a round leaves in a block, worked out apart from the draft; of random
 * data, that it is that. */
static bool is_round(char round, const uint8_t *data)
{
    unsigned ones = 0;

    if (round != 'r') {
        for (uint32_t i = 0; i < size; i++) {
            if (data[i] != (round == 'z' ? 0 : (uint8_t)round))
                return false;
        }
        return true;
    }
    for (uint32_t i = 0; i < size; i += 8) {
        uint64_t eight;

        memcpy(&eight, data + i, 8);
        ones += (unsigned)__builtin_popcountll(eight);
    }
    return ones > 4 * size - size / 2 && ones < 4 * size + size / 2;
}

/* So many blocks are looked at that each assertion counts. */
static void check_count(uint64_t lba, uint32_t times)
{
    if (counted[lba] != times)
        fail_msg("block %llu was written %u times", (unsigned long long)lba,
                 counted[lba]);
}

static void check_block(char round, uint64_t lba)
{
    uint8_t was[SLATE_BLOCK_MAX], is[SLATE_BLOCK_MAX];

    ram_get(&before, lba * size, was, size);
    ram_get(&ram, lba * size, is, size);
    assert_memory_not_equal(was, is, size);
    assert_true(is_round(round, is));
}

static void every_round_reaches_every_block(void **state)
{
    static const char *const rounds[] = {"z",  "U",  "r",   "rz",
                                         "zr", "rr", "zUr", "Urrz"};

    (void)state;
    for (uint32_t bytes = 512; bytes <= 4096; bytes *= 8) {
        open_noisy(bytes, BLOCKS);
        for (size_t i = 0; i < sizeof rounds / sizeof rounds[0]; i++) {
            for (int how = 0; how < SLATE_READ_BACKS * SLATE_DISCARDS; how++) {
                size_t n = strlen(rounds[i]);

                draft_bare(rounds[i], (enum slate_read_back)(how / 3),
                           (enum slate_discard)(how % 3));
                open_copy();
                assert_ok(session_enact(&s, WORK));
                assert_ok(session_prove(&s, WORK));
                for (uint64_t lba = 0; lba < BLOCKS; lba++) {
                    check_block(rounds[i][n - 1], lba);
                    /* the mark, and what comes over it */
                    check_count(lba, lba == 0 ? 2 : (uint32_t)n);
                }
                close_copy();
            }
        }
        ram_close(&before);
    }
}

/* Random data differs from round to round, from block to block and from draft
 * to draft, and follows from its key alone. */
static void random_rounds_are_keyed(void **state)
{
    static uint8_t first[BLOCKS * 512], second[BLOCKS * 512];

    (void)state;
    open_noisy(512, BLOCKS);
    for (int seed = 0; seed < 3; seed++) {
        draft_bare("r", SLATE_READ_BACK_LAST, SLATE_DISCARD_NOT);
        s.draft.choices.seed[0] = (uint8_t)(seed / 2);
        assert_ok(slate_draft_make(&s.draft));
        open_copy();
        assert_ok(session_enact(&s, WORK));
        ram_get(&ram, 0, second, sizeof second);
        if (seed == 1)
            assert_memory_equal(first, second, sizeof first);
        for (uint32_t i = 0; seed == 2 && i < BLOCKS; i++)
            assert_memory_not_equal(first + (size_t)512 * i,
                                    second + (size_t)512 * i, 512);
        for (uint32_t i = 1; i < BLOCKS; i++)
            assert_memory_not_equal(second + (size_t)512 * (i - 1),
                                    second + (size_t)512 * i, 512);
        memcpy(first, second, sizeof first);
        close_copy();
    }
    ram_close(&before);
}

/* Random data of block 0 is never taken for a table. */
static void no_random_block_ends_as_a_boot_block(void **state)
{
    uint32_t spoiled = 0;

    (void)state;
    open_noisy(512, BLOCKS);
    draft_bare("r", SLATE_READ_BACK_LAST, SLATE_DISCARD_NOT);
    for (uint32_t seed = 0; seed < 150000; seed++) {
        uint8_t data[512];

        memcpy(s.draft.choices.seed, &seed, sizeof seed);
        session_compose(&s, 0, 1, data);
        assert_false(data[510] == 0x55 && data[511] == 0xAA);
        spoiled += data[510] == 0x55 && data[511] == 0x55;
    }
    assert_true(spoiled > 0);
    ram_close(&before);
}

/* A table and a volume come over it in the same draft. */
static void a_volume_comes_over_it(void **state)
{
    static const enum slate_volume_kind kinds[] = {
        SLATE_VOLUME_FAT32, SLATE_VOLUME_EXFAT, SLATE_VOLUME_NTFS,
        SLATE_VOLUME_EXT4};

    (void)state;
    open_noisy(512, 200000);
    for (int i = 0; i < 8; i++) {
        uint32_t rounds = i % 2 == 0 ? 2 : 1;

        assert_ok(session_look(&s, &before));
        session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING,
                                          .table_given = true,
                                          .table = i < 4 ? SLATE_TABLE_GPT
                                                         : SLATE_TABLE_MBR,
                                          .volume = kinds[i % 4]});
        want_rounds(i % 2 == 0 ? "rU" : "U", SLATE_READ_BACK_ALL,
                    SLATE_DISCARD_NOT);
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        assert_ok(slate_draft_make(&s.draft));
        open_copy();
        assert_ok(session_enact(&s, 65536));
        assert_ok(session_prove(&s, 65536));
        for (uint64_t lba = 1; lba < 200000; lba++)
            check_count(lba, rounds + (counted[lba] > rounds)); /* once more,
                                                where new content is */
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.volume[0].kind, kinds[i % 4]);
        close_copy();
    }
    ram_close(&before);
}

/* The next device of which partitions can stay; false behind the last one. */
static bool next_device(size_t *index, struct kept_case *one)
{
    const char *former = *index == 0 ? "" : one->name;

    while (kept_case((*index)++, one)) {
        if (strcmp(one->name, former) != 0)
            return true;
    }
    return false;
}

/* All partitions stay, logical ones one by one where they can; this one, with
 * its entry alone. */
static enum slate_status draft_around(const char *rounds, uint32_t emptied)
{
    enum slate_role within = slate_layout_chain_is_plain(&s.facts.layout)
                                 ? SLATE_ROLE_EXTENDED
                                 : SLATE_ROLE_LOGICAL;
    enum slate_status status;

    session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
    s.draft.parts = 0;
    for (uint32_t i = 0; i < s.facts.layout.count; i++) {
        uint32_t number = s.facts.partition[i].number;

        if (s.facts.partition[i].role != within)
            assert_ok(slate_draft_ask(
                &s.draft, &(struct slate_ask){.keep = number,
                                              .emptied = number == emptied}));
    }
    want_rounds(rounds, SLATE_READ_BACK_LAST, SLATE_DISCARD_NOT);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    status = slate_draft_keep(&s.draft, &s.facts, &s.media, s.work);
    return status == SLATE_OK ? slate_draft_make(&s.draft) : status;
}

/* Marks blocks that a table of the device stands on, found without the library:
 * block 0, both copies of a GPT, links to logical partitions. */
static void mark_table(uint8_t *held, const struct ram *of)
{
    uint8_t b[512], header[512];

    held[0] = 1;
    ram_get(of, 0, b, sizeof b);
    if (b[450] == 0xEE) {
        uint64_t copy, array, blocks;

        ram_get(of, 512, header, sizeof header);
        copy = number_at(header, 32, 8);
        blocks =
            (number_at(header, 80, 4) * number_at(header, 84, 4) + 511) / 512;
        for (int i = 0; i < 2; i++) {
            ram_get(of, (i == 0 ? 1 : copy) * 512, header, sizeof header);
            array = number_at(header, 72, 8);
            memset(held + array, 1, (size_t)blocks);
        }
        held[1] = held[copy] = 1;
        return;
    }
    for (size_t i = 0; i < 4; i++) {
        uint64_t container = number_at(b, 454 + 16 * i, 4), link = container;

        while ((b[450 + 16 * i] == 5 || b[450 + 16 * i] == 15) && link != 0) {
            held[link] = 1;
            ram_get(of, link * 512, header, sizeof header);
            link = header[466] == 0 ? 0 : container + number_at(header, 470, 4);
        }
    }
}

/* What stays, stays; what no partition holds is overwritten, and the table is
 * not written at all. */
static void what_no_partition_holds_is_overwritten(void **state)
{
    struct kept_case one = {0};

    (void)state;
    for (size_t i = 0; next_device(&i, &one);) {
        static uint8_t held[sizeof counted];
        uint64_t touched = 0;

        size = 512;
        kept_build(&before, &one, size);
        assert_ok(session_look(&s, &before));
        assert_ok(draft_around("rU", 0));
        open_copy();
        assert_ok(session_enact(&s, 65536));
        assert_ok(session_prove(&s, 65536));
        memset(held, 0, sizeof held);
        mark_table(held, &before);
        for (uint32_t p = 0; p < s.draft.parts; p++)
            memset(held + s.draft.part[p].range.first, 1,
                   (size_t)s.draft.part[p].range.count);
        for (uint64_t lba = 0; lba < before.facts.block_count; lba++) {
            check_count(lba, held[lba] != 0 ? 0 : 2);
            if (held[lba] == 0)
                check_block('U', lba);
            touched += held[lba] != 0 ? 0 : 1;
        }
        assert_true(touched > 0);
        close_copy();
        ram_close(&before);
    }
}

/* Beside what stays, new partitions come over what was overwritten. */
static void new_ones_come_beside_what_stays(void **state)
{
    struct kept_case one;

    (void)state;
    for (size_t i = 0; kept_case(i, &one); i++) {
        static uint8_t held[sizeof counted];

        size = 512;
        kept_build(&before, &one, size);
        assert_ok(session_look(&s, &before));
        session_want(&s, &(struct wanted){.use = SLATE_USE_ANYTHING});
        kept_ask(&s.draft, &one);
        want_rounds("U", SLATE_READ_BACK_LAST, SLATE_DISCARD_NOT);
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        assert_ok(slate_draft_keep(&s.draft, &s.facts, &s.media, s.work));
        assert_ok(slate_draft_make(&s.draft));
        open_copy();
        assert_ok(session_enact(&s, 65536));
        assert_ok(session_prove(&s, 65536));
        memset(held, 0, sizeof held);
        mark_table(held, &before);
        mark_table(held, &ram);
        for (uint32_t p = 0; p < s.draft.parts; p++) {
            const struct slate_range *range = &s.draft.part[p].range;

            for (uint64_t n = 0; n < range->count; n++) {
                if (s.draft.part[p].ask.keep != 0)
                    check_count(range->first + n, 0);
            }
            if (s.draft.part[p].ask.keep != 0)
                memset(held + range->first, 1, (size_t)range->count);
        }
        for (uint64_t lba = 0; lba < before.facts.block_count; lba++) {
            if (held[lba] == 0 && counted[lba] == 0)
                fail_msg("%s, block %llu was left", one.name,
                         (unsigned long long)lba);
        }
        assert_ok(session_look(&s, &ram));
        assert_int_equal(
            slate_layout_check(&s.facts.layout, s.media.geometry.block_count) &
                ~(unsigned)(SLATE_LAYOUT_CHS | SLATE_LAYOUT_UNORDERED |
                            SLATE_LAYOUT_UNUSUAL_GPT),
            0);
        close_copy();
        ram_close(&before);
    }
}

/* One partition is emptied: its entry and all else stay to the last bit. */
static void a_partition_is_emptied(void **state)
{
    struct kept_case one = {0};

    (void)state;
    for (size_t i = 0; next_device(&i, &one);) {
        uint32_t count = 0;

        size = 512;
        kept_build(&before, &one, size);
        for (uint32_t n = 0; n < KEPT_NUMBERS && one.number[n] != 0; n++) {
            const struct slate_range *range = NULL;

            assert_ok(session_look(&s, &before));
            if (draft_around("Ur", one.number[n]) != SLATE_OK)
                continue; /* a container */
            for (uint32_t p = 0; p < s.draft.parts; p++) {
                if (s.draft.part[p].ask.emptied)
                    range = &s.draft.part[p].range;
            }
            if (range == NULL)
                continue; /* the same, which stays by what is in it */
            count++;
            open_copy();
            assert_ok(session_enact(&s, 65536));
            assert_ok(session_prove(&s, 65536));
            for (uint64_t lba = 0; lba < before.facts.block_count; lba++) {
                bool within =
                    lba >= range->first && lba - range->first < range->count;

                check_count(lba, within ? 2 : 0);
                if (within)
                    check_block('r', lba);
            }
            close_copy();
        }
        assert_true(count > 0);
        ram_close(&before);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_round_reaches_every_block),
        cmocka_unit_test(random_rounds_are_keyed),
        cmocka_unit_test(no_random_block_ends_as_a_boot_block),
        cmocka_unit_test(a_volume_comes_over_it),
        cmocka_unit_test(what_no_partition_holds_is_overwritten),
        cmocka_unit_test(new_ones_come_beside_what_stays),
        cmocka_unit_test(a_partition_is_emptied),
    };

    return cmocka_run_group_tests(tests, NULL, NULL);
}
