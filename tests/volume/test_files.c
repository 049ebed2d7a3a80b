/* SPDX-License-Identifier: MIT */
/* Files placed on a fresh volume, read back by an own reading of FAT and exFAT:
 * each byte, chain, stamp and attribute; what fits to the last cluster. */
#include <stdio.h>

#include "placing.h"
#include "turns.h"

#define MIB UINT64_C(1048576)

static struct session s;
static struct placed placed;
static struct tree tree;
static const struct placing p = {&s, &placed, &tree};

static void on_every_format_and_block_size(void **state)
{
    (void)state;
    for (size_t i = 0; i < 4 * KINDS; i++) {
        struct ram ram;

        placing_begin(&p, &ram, i / 4, i % 2 == 0 ? 512 : 4096, i % 4 < 2);
        placing_usual(&p, placing_cluster_bytes(&p));
        placing_enact(&p, &ram);
        assert_true(tree.bits == 0 || tree.labelled);
        ram_close(&ram);
    }
}

/* Noise between what is written does not matter: a device that was full
 * before reads the same. */
static void on_a_device_that_was_full_of_something(void **state)
{
    static uint8_t noise[65536];

    (void)state;
    memset(noise, 0xE5, sizeof noise);
    for (size_t i = 0; i < KINDS; i++) {
        struct ram ram;

        placing_begin(&p, &ram, i, 512, true);
        for (uint64_t at = 0; at < placing_kinds[i].bytes_512;
             at += sizeof noise)
            ram_put(&ram, at, noise, sizeof noise);
        assert_ok(session_look(&s, &ram));
        assert_ok(slate_draft_base(&s.draft, &s.facts));
        placing_usual(&p, placing_cluster_bytes(&p));
        placing_enact(&p, &ram);
        ram_close(&ram);
    }
}

/* A small work buffer composes the same; so does any block by itself, the last
 * one first. */
static void blocks_compose_in_any_order(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        struct ram ram;
        struct slate_walk walk = {0};
        struct slate_extent e;
        uint8_t block[512], stored[512];

        placing_begin(&p, &ram, i, 512, true);
        placing_usual(&p, placing_cluster_bytes(&p));
        assert_ok(slate_draft_make(&s.draft));
        assert_ok(session_enact(&s, SLATE_WORK_MIN));
        placed_check(&placed, &s.draft, &ram, &tree);
        while (slate_draft_next(&s.draft, &walk, &e)) {
            for (uint64_t n = e.count < 900 ? e.count : 900;
                 n-- > 0 && e.moment > SLATE_MOMENT_MARK;) {
                assert_ok(
                    slate_draft_compose(&s.draft, &e, e.first + n, 1, block));
                ram_get(&ram, (e.first + n) * 512, stored, 512);
                assert_memory_equal(block, stored, 512);
            }
        }
        ram_close(&ram);
    }
}

/* Those of the root that shall come first have its first entries, and on FAT12
 * and FAT16 the first clusters; the label stands behind them. */
static void chosen_ones_come_first(void **state)
{
    static const uint32_t aheads[] = {0, 1, 2, 3};

    (void)state;
    for (size_t i = 0; i < 4 * KINDS; i++) {
        struct ram ram;
        uint32_t ahead = aheads[i % 4];

        placing_begin(&p, &ram, i / 4, 512, false);
        placed_add(&placed, 0, "SYSTEM1.SYS", 3000);
        placed_add(&placed, 0, "SYSTEM2.SYS", 20000);
        placed_add(&placed, 0, "SHELL.COM", 9000);
        placed_digest(&placed);
        placed.files->ahead = ahead;
        placing_enact(&p, &ram);
        if (tree.bits != 0)
            assert_int_equal(tree.label_at, ahead);
        if (tree.bits == 12 || tree.bits == 16)
            assert_int_equal(tree.entry[0].cluster, 2);
        placed.files->ahead = 4;
        assert_status(slate_draft_make(&s.draft), SLATE_ERR_ARGUMENT);
        ram_close(&ram);
    }
}

/* Up to the last cluster, and not one byte more. */
static void they_fit_to_the_last_cluster(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        struct slate_figures figures;
        struct ram ram;
        uint32_t file;

        if (!turn_of(i, 4))
            continue;
        placing_begin(&p, &ram, i, 512, true);
        placed_add(&placed, 0, "first.dat", 1);
        file = placed_add(&placed, 0, "rest.dat", 0);
        assert_ok(slate_draft_make(&s.draft));
        s.draft.part[0].format->figures(&s.draft.part[0].volume, &figures);
        assert_int_equal(figures.placed_clusters, 1);
        placed.files->item[file].bytes = figures.room_bytes + 1;
        assert_status(slate_draft_make(&s.draft), SLATE_ERR_FILES);
        assert_int_equal(s.draft.files.refused, file);
        placed.files->item[file].bytes = figures.room_bytes;
        placed_digest(&placed);
        placing_enact(&p, &ram);
        assert_int_equal(tree.free, 0);
        ram_close(&ram);
    }
}

static struct slate_geometry geometry_of(uint64_t bytes)
{
    return (struct slate_geometry){bytes / 512, 512, 512, 0};
}

static void want(enum slate_volume_kind volume, uint64_t bytes)
{
    struct wanted goal = {.volume = volume};

    session_want(&s, &goal);
    strcpy(s.draft.basis.tag, "TARUK-47");
    s.draft.basis.geometry = geometry_of(bytes);
    placed_begin(&placed, &s.draft);
}

static void refused_in(const char *words)
{
    char text[400];
    struct slate_text out;

    slate_text_start(&out, text, sizeof text);
    slate_draft_refusal_words(&s.draft, slate_draft_make(&s.draft), &out);
    if (strstr(text, words) == NULL)
        fail_msg("'%s' is not in '%s'", words, text);
}

/* 4 GiB less a byte is what a file on FAT can have; a larger one goes on exFAT
 * where that may be chosen. */
static void a_file_of_four_gibibytes(void **state)
{
    const uint64_t most = UINT32_MAX;

    (void)state;
    for (uint64_t over = 0; over < 2; over++) {
        want(SLATE_VOLUME_FAT32, 16000 * MIB);
        placed_add(&placed, placed_add_folder(&placed, 0, "films"), "long.mov",
                   most + over);
        assert_status(slate_draft_make(&s.draft),
                      over == 0 ? SLATE_OK : SLATE_ERR_FILE_SIZE);
    }
    refused_in("films/long.mov has 4.29 GB (4 GiB), and a FAT volume holds "
               "files below 4.29 GB (4 GiB) alone");
    want(SLATE_VOLUME_NONE, 16000 * MIB);
    placed_add(&placed, 0, "long.mov", most);
    assert_ok(slate_draft_make(&s.draft));
    assert_int_equal(s.draft.part[0].format->kind, SLATE_VOLUME_FAT32);
    placed.files->item[1].bytes++;
    assert_ok(slate_draft_make(&s.draft));
    assert_int_equal(s.draft.part[0].format->kind, SLATE_VOLUME_EXFAT);
}

/* The root of FAT16 has 512 entries: one is the label's, if there is one. */
static void a_root_directory_that_is_full(void **state)
{
    struct wanted goal = {.volume = SLATE_VOLUME_FAT16, .label = "FULL"};
    struct ram ram;
    char name[24];

    (void)state;
    ram_open(&ram, 512, 24 * MIB / 512, true);
    assert_ok(session_look(&s, &ram));
    session_want(&s, &goal);
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    placed_begin(&placed, &s.draft);
    for (int i = 0; i < 511; i++) {
        snprintf(name, sizeof name, "LOG%d.DAT", i);
        placed_add(&placed, 0, name, 0);
    }
    placed_digest(&placed);
    placing_enact(&p, &ram);
    placed_add(&placed, 0, "ONE.DAT", 0);
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_ROOT_FULL);
    refused_in("put files in a folder");
    s.draft.part[0].ask.label[0] = '\0';
    assert_ok(slate_draft_make(&s.draft));
    ram_close(&ram);
}

/* A root of so many names, each an entry of 8.3 on FAT, a set of three on
 * exFAT. */
static void fill_root(struct ram *ram, size_t kind, uint32_t block_bytes,
                      uint32_t names)
{
    char name[24];

    placing_begin(&p, ram, kind, block_bytes, true);
    for (uint32_t i = 0; i < names; i++) {
        snprintf(name, sizeof name, "B%u.DAT", i);
        placed_add(&placed, 0, name, i % 3);
    }
    placed_digest(&placed);
    placing_enact(&p, ram);
    assert_int_equal(tree.count, names);
    ram_close(ram);
}

/* Roots that fill their clusters, and go into the next one: of one, two, three
 * and more of them. What is fixed in size takes as many as it has. */
static void a_root_directory_of_many_clusters(void **state)
{
    static const uint32_t clusters[] = {1, 2, 3, 17};

    (void)state;
    for (size_t i = 0; i < (size_t)2 * KINDS * 4; i++) {
        size_t kind = i / 8;
        uint32_t block_bytes = i / 4 % 2 == 0 ? 512 : 4096;
        bool exfat = placing_kinds[kind].kind == SLATE_VOLUME_EXFAT;
        bool fixed = !exfat && placing_kinds[kind].kind != SLATE_VOLUME_FAT32;
        uint32_t cluster, names;
        struct ram ram;

        if (!turn_of(i, 4))
            continue;
        placing_begin(&p, &ram, kind, block_bytes, true);
        cluster = placing_cluster_bytes(&p);
        ram_close(&ram);
        names = (clusters[i % 4] * cluster / 32 - (exfat ? 3 : 1)) /
                (exfat ? 3 : 1);
        if (fixed && names > 200)
            names = 200;
        fill_root(&ram, kind, block_bytes, names);
        fill_root(&ram, kind, block_bytes, names + 1);
    }
}

/* FAT: a folder has 65536 entries, of which two are "." and "..". */
static void a_folder_that_is_full(void **state)
{
    uint32_t folder;
    char name[24];

    (void)state;
    want(SLATE_VOLUME_FAT32, 16000 * MIB);
    folder = placed_add_folder(&placed, 0, "LOGS");
    for (int i = 0; i < 65534; i++) {
        snprintf(name, sizeof name, "L%d.DAT", i);
        placed_add(&placed, folder, name, 0);
    }
    assert_ok(slate_draft_make(&s.draft));
    placed_add(&placed, folder, "L.DAT", 0);
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_FILES);
    refused_in("LOGS has more entries than a folder holds");
    s.draft.part[0].ask.volume = SLATE_VOLUME_EXFAT;
    assert_ok(slate_draft_make(&s.draft));
}

/* Too many for the root: told of the root, by name. */
static void a_root_directory_beyond_all_bounds(void **state)
{
    char name[24];

    (void)state;
    want(SLATE_VOLUME_FAT32, 16000 * MIB);
    for (int i = 0; i < 65537; i++) {
        snprintf(name, sizeof name, "L%d.DAT", i);
        placed_add(&placed, 0, name, 0);
    }
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_FILES);
    refused_in("the root directory has more entries than a folder holds");
}

/* Files go around bad clusters, each of them in a row still. */
static void around_bad_blocks(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        struct ram ram;
        uint64_t first;
        uint32_t cluster;

        placing_begin(&p, &ram, i, 512, false);
        cluster = placing_cluster_bytes(&p);
        placing_usual(&p, cluster);
        assert_ok(slate_draft_make(&s.draft));
        first = tree.clusters_at;
        assert_ok(session_enact(&s, sizeof s.work));
        placed_check(&placed, &s.draft, &ram, &tree);
        first = tree.clusters_at;
        for (uint64_t bad = 40; bad < 200; bad += 37)
            assert_ok(
                slate_draft_bad(&s.draft, first + bad * cluster / 512, 1));
        assert_ok(slate_draft_make(&s.draft));
        ram_close(&ram);
        placing_begin(&p, &ram, i, 512, false);
        for (uint64_t bad = 40; bad < 200; bad += 37)
            assert_ok(
                slate_draft_bad(&s.draft, first + bad * cluster / 512, 1));
        placing_usual(&p, cluster);
        assert_ok(slate_draft_make(&s.draft));
        for (uint32_t item = 1; item < placed.files->count; item++) {
            const struct slate_spot *spot = &placed.files->spot[item];

            for (uint32_t bad = 40; bad < 200; bad += 37)
                assert_false(spot->cluster <= bad &&
                             bad < spot->cluster + spot->clusters);
        }
        if (placing_kinds[i].kind != SLATE_VOLUME_EXFAT)
            placing_enact(&p, &ram);
        ram_close(&ram);
    }
}

/* One part gets them, with a volume of its own; what is stored comes back, and
 * each of its fields is under the seal. */
static void stored_and_sealed(void **state)
{
    static uint8_t stored[65536];
    static struct placed again;
    static struct session t;
    uint8_t seal[SLATE_DIGEST_BYTES];
    struct ram ram;
    size_t length;

    (void)state;
    placing_begin(&p, &ram, 3, 512, true);
    placing_usual(&p, placing_cluster_bytes(&p));
    assert_ok(slate_draft_make(&s.draft));
    memcpy(seal, s.draft.seal, sizeof seal);
    assert_ok(slate_draft_store(&s.draft, stored, sizeof stored, &length));
    session_want(&t, &(struct wanted){.label = ""});
    placed_begin(&again, &t.draft);
    assert_ok(slate_draft_restore(&t.draft, stored, length));
    assert_memory_equal(t.draft.seal, seal, sizeof seal);
    assert_string_equal(slate_item_name(&t.draft.files, 8), "track one.bin");
    placed.files->item[9].digest[5] ^= 1;
    assert_ok(slate_draft_make(&s.draft));
    assert_memory_not_equal(s.draft.seal, seal, sizeof seal);
    placed.files->item[9].digest[5] ^= 1;
    placed.files->names.byte[3] ^= 1;
    assert_ok(slate_draft_make(&s.draft));
    assert_memory_not_equal(s.draft.seal, seal, sizeof seal);
    placed.files->names.byte[3] ^= 1;
    placed.files->item[4].changed.second ^= 2;
    assert_ok(slate_draft_make(&s.draft));
    assert_memory_not_equal(s.draft.seal, seal, sizeof seal);
    s.draft.part[0].ask.bare = true;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_PARTS);
    s.draft.part[0].ask.bare = s.draft.part[0].ask.files = false;
    assert_status(slate_draft_make(&s.draft), SLATE_ERR_ARGUMENT);
    ram_close(&ram);
}

/* What is no tree is refused: lists may come from a file. */
static void what_is_no_tree(void **state)
{
    uint32_t folder, file;
    struct ram ram;

    (void)state;
    placing_begin(&p, &ram, 0, 512, false);
    folder = placed_add_folder(&placed, 0, "A");
    placed_add(&placed, 0, "B", 1);
    file = placed_add(&placed, folder, "C", 1);
    assert_ok(slate_draft_make(&s.draft));
#define NO_TREE(change, back)                                                  \
    do {                                                                       \
        change;                                                                \
        assert_status(slate_draft_make(&s.draft), SLATE_ERR_ARGUMENT);         \
        back;                                                                  \
        assert_ok(slate_draft_make(&s.draft));                                 \
    } while (0)
    NO_TREE(placed.files->item[file].parent = file,
            placed.files->item[file].parent = folder);
    NO_TREE(placed.files->item[file].parent = 9,
            placed.files->item[file].parent = folder);
    NO_TREE(placed.files->item[file].parent = 2,
            placed.files->item[file].parent = folder);
    NO_TREE(placed.files->item[0].folder = false,
            placed.files->item[0].folder = true);
    NO_TREE(
        (placed.files->item[2].parent = 1, placed.files->item[file].parent = 0),
        (placed.files->item[2].parent = 0,
         placed.files->item[file].parent = folder));
    NO_TREE(placed.files->item[1].bytes = 1, placed.files->item[1].bytes = 0);
    NO_TREE(placed.files->item[2].bytes = UINT64_MAX,
            placed.files->item[2].bytes = 1);
    NO_TREE(placed.files->item[2].name++, placed.files->item[2].name--);
    NO_TREE(placed.files->item[2].attributes = 8,
            placed.files->item[2].attributes = 0);
    NO_TREE(placed.files->item[2].changed.month = 13,
            placed.files->item[2].changed.month = 12);
    NO_TREE(placed.files->item[2].changed.year = 1979,
            placed.files->item[2].changed.year = 1980);
    NO_TREE(placed.files->names.count--, placed.files->names.count++);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(on_every_format_and_block_size),
        cmocka_unit_test(on_a_device_that_was_full_of_something),
        cmocka_unit_test(blocks_compose_in_any_order),
        cmocka_unit_test(chosen_ones_come_first),
        cmocka_unit_test(they_fit_to_the_last_cluster),
        cmocka_unit_test(a_file_of_four_gibibytes),
        cmocka_unit_test(a_root_directory_that_is_full),
        cmocka_unit_test(a_root_directory_of_many_clusters),
        cmocka_unit_test(a_folder_that_is_full),
        cmocka_unit_test(a_root_directory_beyond_all_bounds),
        cmocka_unit_test(around_bad_blocks),
        cmocka_unit_test(stored_and_sealed),
        cmocka_unit_test(what_is_no_tree),
    };

    return cmocka_run_group_tests_name("files", tests, NULL, NULL);
}
