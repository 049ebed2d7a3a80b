/* SPDX-License-Identifier: MIT */
/* Bad blocks: nothing is written to them, their clusters are marked in every
 * copy, and what a volume cannot do without is elsewhere or refused. */
#include "check.h"
#include "exfat_check.h"

#define FIRST 2048u

static struct session s;
static uint64_t bad[4096];
static uint32_t bad_count;

static void add_bad(uint64_t first, uint32_t count)
{
    assert_ok(slate_draft_bad(&s.draft, first, count));
    for (uint32_t i = 0; i < count; i++)
        bad[bad_count++] = first + i;
}

static bool is_bad_range(uint64_t first, uint64_t count)
{
    for (uint32_t i = 0; i < bad_count; i++) {
        if (bad[i] >= first && bad[i] < first + count)
            return true;
    }
    return false;
}

static void want(enum slate_volume_kind kind, uint64_t blocks)
{
    static struct slate_range all;

    session_want(&s, &(struct wanted){.table_given = true,
                                      .table = SLATE_TABLE_MBR,
                                      .volume = kind,
                                      .label = "WORN"});
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = (struct slate_geometry){blocks, 512, 512, 0};
    /* all of it is to be erased */
    s.draft.basis.old = (struct slate_ranges){&all, 1, 1};
    all = (struct slate_range){0, blocks};
    bad_count = 0;
}

static void no_extent_touches_one(void)
{
    struct slate_walk walk = {0};
    struct slate_extent e;
    uint64_t blocks = 0;

    while (slate_draft_next(&s.draft, &walk, &e)) {
        assert_false(is_bad_range(e.first, e.count));
        blocks += e.moment == SLATE_MOMENT_MARK ? 0 : e.count;
    }
    /* and all others are written, the rest of the volume erased */
    assert_int_equal(blocks + bad_count, s.draft.basis.geometry.block_count);
}

static uint32_t entry_at(const uint8_t *table, uint32_t entry, uint32_t bits)
{
    if (bits == 32)
        return (uint32_t)number_at(table, (size_t)entry * 4, 4) & 0x0FFFFFFF;
    if (bits == 16)
        return (uint32_t)number_at(table, (size_t)entry * 2, 2);
    return (uint32_t)number_at(table, (size_t)entry * 3 / 2, 2) >>
               (entry % 2 * 4) &
           0xFFF;
}

/* Both tables, entry by entry, from the fields of the boot block. */
static void check_fat(uint32_t bits)
{
    static uint8_t b[512], info[512], table[2][4194304];
    uint64_t first = s.draft.part[0].range.first, data;
    uint32_t reserved, blocks, clusters, found = 0, mark, root = 0;
    struct slate_figures figures;

    session_compose(&s, first, 1, b);
    reserved = (uint32_t)number_at(b, 14, 2);
    blocks = (uint32_t)(bits == 32 ? number_at(b, 36, 4) : number_at(b, 22, 2));
    data = first + reserved + 2 * (uint64_t)blocks + number_at(b, 17, 2) / 16;
    clusters = (uint32_t)((first + s.draft.part[0].range.count - data) / b[13]);
    assert_true((size_t)blocks * 512 <= sizeof table[0]);
    for (uint32_t copy = 0; copy < 2; copy++)
        for (uint32_t i = 0; i < blocks; i++)
            session_compose(&s, first + reserved + copy * blocks + i, 1,
                            table[copy] + (size_t)i * 512);
    assert_memory_equal(table[0], table[1], (size_t)blocks * 512);
    mark = bits == 12 ? 0xFF7 : bits == 16 ? 0xFFF7 : 0x0FFFFFF7;
    if (bits == 32)
        root = (uint32_t)number_at(b, 44, 4);
    for (uint32_t i = 2; i < clusters + 2; i++) {
        uint32_t value = entry_at(table[0], i, bits);
        bool wanted = is_bad_range(data + (uint64_t)(i - 2) * b[13], b[13]);

        found += wanted ? 1u : 0u;
        if (wanted)
            assert_int_equal(value, mark);
        else if (i == root)
            assert_true(value >= 0x0FFFFFF8);
        else
            assert_int_equal(value, 0);
    }
    assert_true(bits != 32 ||
                !is_bad_range(data + (uint64_t)(root - 2) * b[13], b[13]));
    assert_int_equal(entry_at(table[0], 1, bits) & 0xFF7, 0xFF7);
    s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
    assert_int_equal(figures.bad_clusters, found);
    if (bits == 32) {
        session_compose(&s, first + 1, 1, info);
        assert_int_equal(number_at(info, 488, 4), clusters - 1 - found);
    }
}

static void read_draft(void *context, uint64_t block, uint8_t *data)
{
    (void)context;
    session_compose(&s, s.draft.part[0].range.first + block, 1, data);
}

static void check_volume(enum slate_volume_kind kind)
{
    static struct exfat_seen seen;
    const struct slate_range *range = &s.draft.part[0].range;
    struct exfat_blocks from = {NULL,         read_draft,   512,
                                range->count, range->first, bad,
                                bad_count,    NULL};

    no_extent_touches_one();
    if (kind == SLATE_VOLUME_EXFAT)
        exfat_check(&from, &seen);
    else
        check_fat(kind == SLATE_VOLUME_FAT12   ? 12
                  : kind == SLATE_VOLUME_FAT16 ? 16
                                               : 32);
}

static const struct {
    enum slate_volume_kind kind;
    uint64_t blocks;
    uint32_t head; /* blocks that stand where they stand */
} kinds[] = {{SLATE_VOLUME_FAT12, 16384, 1},
             {SLATE_VOLUME_FAT16, 131072, 1},
             {SLATE_VOLUME_FAT32, 131072, 32},
             {SLATE_VOLUME_EXFAT, 131072, 24}};

#define KINDS (sizeof kinds / sizeof kinds[0])

/* Where nothing can give way: block 0, and what a volume begins with. Right
 * behind it, everything does. */
static void what_cannot_be_elsewhere_is_refused(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        const uint64_t in_the_way[] = {0, FIRST, FIRST + kinds[i].head - 1};

        for (size_t j = 0; j < 3; j++) {
            want(kinds[i].kind, kinds[i].blocks);
            add_bad(in_the_way[j], 1);
            assert_status(slate_draft_make(&s.draft), SLATE_ERR_BAD_BLOCK);
        }
        want(kinds[i].kind, kinds[i].blocks);
        add_bad(FIRST - 1, 1); /* nobody's */
        add_bad(FIRST + kinds[i].head, 1);
        assert_ok(slate_draft_make(&s.draft));
        check_volume(kinds[i].kind);
        want(kinds[i].kind, kinds[i].blocks);
        assert_ok(slate_draft_bad(&s.draft, FIRST + kinds[i].head,
                                  kinds[i].blocks - FIRST - kinds[i].head));
        assert_true(slate_draft_make(&s.draft) != SLATE_OK);
    }
}

/* A block in each structure of a volume, one after the other. */
static void structures_give_way(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (uint64_t at = FIRST + kinds[i].head;
             at < FIRST + kinds[i].head + 3000;
             at += at < FIRST + 80 ? 1 : 97) {
            want(kinds[i].kind, kinds[i].blocks);
            add_bad(at, 1 + (uint32_t)at % 3);
            assert_ok(slate_draft_make(&s.draft));
            check_volume(kinds[i].kind);
        }
    }
}

/* Ranges all over the device, in any order, touching and overlapping. */
static void many_are_marked(void **state)
{
    uint32_t seed = 3;

    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (int round = 0; round < 8; round++) {
            want(kinds[i].kind, kinds[i].blocks);
            for (uint32_t at = FIRST + 40 + (uint32_t)round; bad_count < 120;) {
                uint32_t count;

                seed = seed * 1664525 + 1013904223;
                count = 1 + (seed >> 16) % 5;
                at += 1 + (seed >> 20) % ((uint32_t)kinds[i].blocks / 150);
                if (at + count >= kinds[i].blocks)
                    break;
                add_bad(at, count);
                at += count + (seed & 1);
            }
            add_bad(kinds[i].blocks - 1, 1);
            assert_ok(slate_draft_make(&s.draft));
            check_volume(kinds[i].kind);
        }
    }
}

static void lists_are_kept_in_order(void **state)
{
    static struct slate_range own[SESSION_BAD];
    const struct slate_ranges *list = &s.draft.bad;

    (void)state;
    want(SLATE_VOLUME_FAT16, 131072);
    assert_ok(slate_draft_bad(&s.draft, 100, 10));
    assert_ok(slate_draft_bad(&s.draft, 50, 10));
    assert_ok(slate_draft_bad(&s.draft, 200, 1));
    assert_int_equal(list->count, 3);
    assert_ok(slate_draft_bad(&s.draft, 60, 40)); /* joins the first two */
    assert_int_equal(list->count, 2);
    assert_int_equal(list->range[0].first, 50);
    assert_int_equal(list->range[0].count, 60);
    assert_ok(slate_draft_bad(&s.draft, 70, 5)); /* within */
    assert_ok(slate_draft_bad(&s.draft, 10, 1000));
    assert_int_equal(list->count, 1);
    assert_status(slate_draft_bad(&s.draft, 5, 0), SLATE_ERR_ARGUMENT);
    assert_status(slate_draft_bad(&s.draft, UINT64_MAX, 2), SLATE_ERR_ARGUMENT);
    for (uint32_t i = 1; i < 3 * SESSION_BAD; i++)
        assert_ok(slate_draft_bad(&s.draft, 5000 + 2 * i, 1));
    /* a list of the caller's own is as long as it is */
    s.draft.bad = (struct slate_ranges){own, SESSION_BAD, 0};
    for (uint32_t i = 0; i < SESSION_BAD; i++)
        assert_ok(slate_draft_bad(&s.draft, 5000 + 2 * i, 1));
    assert_ok(slate_draft_bad(&s.draft, 5001, 1)); /* joins two */
    assert_ok(slate_draft_bad(&s.draft, 4990, 1));
    assert_status(slate_draft_bad(&s.draft, 4000, 1), SLATE_ERR_ROOM);
}

static const struct slate_port_ops *whole_ops;

static enum slate_status worn_write(void *context, uint64_t lba, uint32_t count,
                                    const void *data)
{
    return is_bad_range(lba, count)
               ? SLATE_ERR_WRITE
               : whole_ops->write(context, lba, count, data);
}

/* A device that fails every write to its bad blocks is renewed. */
static void a_worn_device_is_renewed(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        struct wanted goal = {.volume = kinds[i].kind, .label = "WORN"};
        struct slate_figures figures;
        struct slate_port_ops ops;
        struct ram ram;

        ram_open(&ram, 512, kinds[i].blocks, true);
        assert_ok(session_look(&s, &ram));
        session_want(&s, &goal);
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        bad_count = 0;
        for (uint32_t at = 4000; at < 12000; at += 1000)
            add_bad(at, 2);
        assert_ok(slate_draft_make(&s.draft));
        whole_ops = ram.port.ops;
        ops = *whole_ops;
        ops.write = worn_write;
        ram.port.ops = &ops;
        assert_ok(slate_media_open(&s.media, &ram.port));
        assert_ok(session_enact(&s, sizeof s.work));
        assert_ok(session_prove(&s, sizeof s.work));
        ram.port.ops = whole_ops;
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.volume[0].kind, kinds[i].kind);
        assert_true(s.facts.volume[0].free_known);
        s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
        assert_int_equal(s.facts.volume[0].free_clusters,
                         figures.room_bytes / figures.cluster_bytes);
        ram_close(&ram);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_cannot_be_elsewhere_is_refused),
        cmocka_unit_test(structures_give_way),
        cmocka_unit_test(many_are_marked),
        cmocka_unit_test(lists_are_kept_in_order),
        cmocka_unit_test(a_worn_device_is_renewed),
    };

    return cmocka_run_group_tests_name("bad", tests, NULL, NULL);
}
