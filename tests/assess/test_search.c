/* SPDX-License-Identifier: MIT */
/* Volumes that no partition holds are found where they begin, with what speaks
 * for them; copies, ruins and noise are not; and they are put back without a
 * change to anything else. */
#include "changes.h"
#include "craft.h"

#define MIB 2048u /* blocks of 512 bytes */
#define ROOM 8u

static struct session s;
static struct slate_lost lost[ROOM];
static struct slate_search search;

static void run(const struct ram *ram, uint64_t every, uint64_t from)
{
    assert_ok(session_look(&s, ram));
    assert_ok(slate_search_start(&search, &s.media, &s.facts, every, from, lost,
                                 ROOM, s.work));
    while (!search.finished)
        assert_ok(slate_search_step(&search));
    assert_int_equal(search.at, ram->facts.block_count);
}

/* Every format, at the places where they are put. */
static void each_format_is_found(void **state)
{
    static const uint64_t places[] = {63,         129,   2048, 5 * MIB,
                                      16065 + 63, 16065, 8192};
    const struct slate_format *format;

    (void)state;
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        bool small = format->kind == SLATE_VOLUME_FAT12;

        for (size_t p = 0; p < sizeof places / sizeof places[0]; p++) {
            uint64_t count = small ? 12345 : 80 * MIB + 1;
            struct ram ram;

            ram_open(&ram, 512, 120 * MIB, true);
            craft_format(&ram, format->kind, places[p], count, "LOST");
            run(&ram, 0, 0);
            assert_int_equal(search.found, 1);
            assert_int_equal(lost[0].first, places[p]);
            /* whole clusters, or all of it */
            assert_true(lost[0].count <= count);
            assert_true(lost[0].count + 8 > count);
            assert_int_equal(lost[0].volume.kind, format->kind);
            assert_string_equal(lost[0].volume.label, "LOST");
            assert_true((lost[0].evidence & SLATE_LOST_CONTENT) != 0);
            assert_int_equal((lost[0].evidence & SLATE_LOST_PLACE) != 0,
                             format->kind != SLATE_VOLUME_EXT4);
            assert_int_equal(
                lost[0].evidence & (SLATE_LOST_OVERLAP | SLATE_LOST_TAKEN), 0);
            assert_true(search.total >= search.places / 2);
            assert_true(search.total <= search.places * 2);
            ram_close(&ram);
        }
    }
}

static void with_large_blocks(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 4096, 120 * 256, true);
    craft_format(&ram, SLATE_VOLUME_EXFAT, 77, 50 * 256, "FOUR");
    craft_format(&ram, SLATE_VOLUME_NTFS, 60 * 256, 40 * 256, "TWO");
    run(&ram, 0, 0);
    assert_int_equal(search.found, 2);
    assert_int_equal(lost[0].first, 77);
    assert_int_equal(lost[1].first, 60 * 256);
    ram_close(&ram);
}

/* Between two places nothing is looked for; a finer distance finds it. */
static void places_are_bounded(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 200 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_FAT16, 10 * MIB + 8, 40 * MIB, "OFF");
    run(&ram, 0, 0);
    assert_int_equal(search.found, 0);
    assert_true(search.places < 2048 + 200 + 60 + 820);
    run(&ram, 4096, 0);
    assert_int_equal(search.found, 1);
    assert_int_equal(lost[0].first, 10 * MIB + 8);
    /* gone on with from a block */
    run(&ram, 4096, 10 * MIB + 8);
    assert_int_equal(search.found, 1);
    run(&ram, 4096, 10 * MIB + 9);
    assert_int_equal(search.found, 0);
    run(&ram, 67108864, 0);
    assert_true(search.places < 2048 + 5 + 60 + 820);
    assert_status(slate_search_start(&search, &s.media, &s.facts, 511, 0, lost,
                                     ROOM, s.work),
                  SLATE_ERR_ARGUMENT);
    ram_close(&ram);
}

#define LARGEST (((uint64_t)1 << 55) - 1) /* blocks: 16 EiB */

static enum slate_status largest_facts(void *context,
                                       struct slate_port_facts *facts)
{
    (void)context;
    facts->block_bytes = 512;
    facts->block_count = LARGEST;
    return SLATE_OK;
}

static enum slate_status largest_read(void *context, uint64_t lba,
                                      uint32_t count, void *data)
{
    const struct ram *ram = context;

    memset(data, 0, (size_t)count * 512);
    if (lba + count <= ram->facts.block_count)
        ram_get(ram, lba * 512, data, (size_t)count * 512);
    return SLATE_OK;
}

static enum slate_status largest_write(void *context, uint64_t lba,
                                       uint32_t count, const void *data)
{
    (void)context;
    (void)lba;
    (void)count;
    (void)data;
    return SLATE_ERR_PROTECTED;
}

/* A device of 16 EiB is begun at once, and a step of it is bounded. */
static void the_largest_is_begun(void **state)
{
    static const struct slate_port_ops ops = {.size = sizeof ops,
                                              .facts = largest_facts,
                                              .read = largest_read,
                                              .write = largest_write};
    struct ram ram;
    const struct slate_port port = {&ops, &ram};

    (void)state;
    ram_open(&ram, 512, 100 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_FAT32, 1 * MIB, 70 * MIB, "FIRST");
    assert_ok(slate_media_open(&s.media, &port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    assert_ok(slate_search_start(&search, &s.media, &s.facts, 0, 1 * MIB, lost,
                                 ROOM, s.work));
    assert_ok(slate_search_step(&search));
    assert_int_equal(search.places, 16);
    assert_int_equal(search.found, 1);
    assert_ok(slate_search_start(&search, &s.media, &s.facts, 0,
                                 LARGEST - MIB - 1, lost, ROOM, s.work));
    while (!search.finished)
        assert_ok(slate_search_step(&search));
    assert_int_equal(search.at, LARGEST);
    assert_true(search.places <= 3);
    ram_close(&ram);
}

/* What looks like a beginning, and is none. */
static void copies_and_ruins_do_not_count(void **state)
{
    struct ram ram;
    uint8_t block[4096];

    (void)state;
    /* signatures of FAT, NTFS and exFAT with nothing behind them */
    ram_open(&ram, 512, 300 * MIB, true);
    craft_ntfs(&ram, 3 * MIB, 20 * MIB, "HOLLOW");
    craft_exfat(&ram, 50 * MIB, 20 * MIB, "HOLLOW");
    craft_fat(&ram, 90 * MIB, 20 * MIB, 16);
    craft_erase(&ram, 90 * 1048576ull + 512, 1048576);
    run(&ram, 0, 0);
    assert_int_equal(search.found, 2); /* those that have a copy */
    for (uint32_t i = 0; i < 2; i++)
        assert_int_equal(lost[i].evidence & ~(uint32_t)SLATE_LOST_PLACE,
                         SLATE_LOST_COPY | SLATE_LOST_HOLLOW);
    ram_close(&ram);
    /* the copy of a first block, after the first one went */
    ram_open(&ram, 512, 300 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_FAT32, 100, 70 * MIB, "COPY");
    craft_erase(&ram, 100 * 512, 512);
    craft_format(&ram, SLATE_VOLUME_EXFAT, 90 * MIB, 70 * MIB, "COPY");
    craft_erase(&ram, 90 * 1048576ull, 12 * 512);
    craft_format(&ram, SLATE_VOLUME_NTFS, 190 * MIB, 70 * MIB + 1, "COPY");
    craft_erase(&ram, 190 * 1048576ull, 512);
    run(&ram, 0, 0);
    assert_int_equal(search.found, 0);
    ram_close(&ram);
    /* a group of ext4 with units of 1 KiB: its copy stands 1024 bytes behind a
     * whole number of MiB */
    ram_open(&ram, 512, 300 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_EXT4, 1 * MIB, 100 * MIB, "GROUPS");
    ram_get(&ram, 1048576 + 1024, block, 1024);
    block[90] = 1;
    ram_put(&ram, 200 * 1048576ull + 1024, block, 1024);
    run(&ram, 0, 0);
    assert_int_equal(search.found, 1);
    assert_int_equal(lost[0].first, 1 * MIB);
    ram_close(&ram);
    /* XFS: each allocation group begins with a superblock and its header */
    ram_open(&ram, 512, 300 * MIB, true);
    for (uint32_t group = 0; group < 4; group++) {
        uint64_t at = (10 + 64 * group) * 1048576ull;

        craft_text(&ram, at, "XFSB");
        craft_be(&ram, at + 4, 4096, 4);
        craft_be(&ram, at + 8, 65536, 8);
        craft_be(&ram, at + 102, 512, 2);
        craft_text(&ram, at + 512, "XAGF");
        craft_be(&ram, at + 512 + 8, group, 4);
    }
    run(&ram, 0, 0);
    assert_int_equal(search.found, 1);
    assert_int_equal(lost[0].first, 10 * MIB);
    assert_int_equal(lost[0].count, 256 * MIB);
    assert_int_equal(lost[0].evidence, SLATE_LOST_CONTENT);
    ram_close(&ram);
    /* noise, and a device that a volume takes as a whole */
    ram_open(&ram, 512, 40 * MIB, true);
    craft_noise(&ram, 512, 40 * 1048576 - 512);
    run(&ram, 0, 0);
    assert_int_equal(search.found, 0);
    ram_close(&ram);
    ram_open(&ram, 512, 200 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_FAT32, 100 * MIB, 80 * MIB, "OLD");
    craft_format(&ram, SLATE_VOLUME_FAT32, 0, 200 * MIB, "WHOLE");
    run(&ram, 0, 0);
    assert_int_equal(search.places, 0);
    ram_close(&ram);
}

/* One that has been written over in part; one that reaches too far. */
static void what_speaks_against_one_is_told(void **state)
{
    struct ram ram;
    char words[300];
    struct slate_text text;

    (void)state;
    ram_open(&ram, 512, 300 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_FAT32, 63, 250 * MIB, "STALE");
    craft_format(&ram, SLATE_VOLUME_FAT32, 40 * MIB, 100 * MIB, "YOUNG");
    run(&ram, 0, 0);
    assert_int_equal(search.found, 2);
    assert_true((lost[0].evidence & SLATE_LOST_OVERLAP) != 0);
    assert_true((lost[1].evidence & SLATE_LOST_OVERLAP) != 0);
    slate_text_start(&text, words, sizeof words);
    slate_lost_words(&lost[0], &text);
    assert_non_null(strstr(words, "shares blocks"));
    assert_status(
        session_put_back(&s, (uint64_t[]){63, 40 * MIB}, 2, SLATE_TABLE_MBR),
        SLATE_ERR_IN_THE_WAY);
    assert_int_equal(s.draft.obstacle.number, 2);
    assert_ok(session_put_back(&s, (uint64_t[]){40 * MIB}, 1, SLATE_TABLE_MBR));
    ram_close(&ram);
    /* into a partition, and beyond the device */
    ram_open(&ram, 512, 300 * MIB, true);
    ram_put_entry(&ram, 0, 0x0C, false, 50 * MIB, 100 * MIB);
    craft_format(&ram, SLATE_VOLUME_FAT32, 50 * MIB, 100 * MIB, "THERE");
    craft_format(&ram, SLATE_VOLUME_FAT32, 10 * MIB, 80 * MIB, "INTO");
    craft_format(&ram, SLATE_VOLUME_FAT32, 50 * MIB, 100 * MIB, "THERE");
    craft_format(&ram, SLATE_VOLUME_FAT32, 240 * MIB, 80 * MIB, "BEYOND");
    run(&ram, 0, 0);
    assert_int_equal(search.found, 2);
    assert_true((lost[0].evidence & SLATE_LOST_TAKEN) != 0);
    assert_true((lost[1].evidence & SLATE_LOST_TAKEN) != 0);
    for (uint32_t i = 0; i < 2; i++) {
        const uint64_t first = lost[i].first;

        assert_status(session_put_back(&s, &first, 1, SLATE_TABLE_MBR),
                      SLATE_ERR_IN_THE_WAY);
        assert_int_equal(s.draft.obstacle.number, 1);
    }
    assert_status(slate_lost_read(&s.media, &s.facts, 60 * MIB, s.work, lost),
                  SLATE_ERR_ARGUMENT);
    assert_status(slate_lost_read(&s.media, &s.facts, 300 * MIB, s.work, lost),
                  SLATE_ERR_ARGUMENT);
    assert_status(slate_lost_read(&s.media, &s.facts, 5, s.work, lost),
                  SLATE_ERR_FORMAT);
    ram_close(&ram);
}

/* A place that cannot be read is counted, and the search goes on. */
static void what_cannot_be_read_is_counted(void **state)
{
    struct ram ram;

    (void)state;
    ram_open(&ram, 512, 200 * MIB, true);
    craft_format(&ram, SLATE_VOLUME_FAT32, 30 * MIB, 80 * MIB, "BEHIND");
    ram.fail_read = 10 * MIB + 3;
    run(&ram, 0, 0);
    assert_int_equal(search.unread, 1);
    assert_int_equal(search.found, 1);
    ram_close(&ram);
}

static uint64_t reads_left;

static enum slate_status reads_until(void *context, uint64_t lba,
                                     uint32_t count, void *data)
{
    return reads_left == 0 || --reads_left == 0
               ? SLATE_ERR_NO_MEDIUM
               : largest_read(context, lba, count, data);
}

/* A medium that is taken out tells nothing of what was on it: the search ends
 * as a failure, and not as one that found nothing. */
static void a_medium_that_goes_ends_it(void **state)
{
    static const struct slate_port_ops ops = {.size = sizeof ops,
                                              .facts = largest_facts,
                                              .read = reads_until,
                                              .write = largest_write};
    struct ram ram;
    const struct slate_port port = {&ops, &ram};

    (void)state;
    ram_open(&ram, 512, 100 * MIB, true);
    reads_left = UINT64_MAX;
    assert_ok(slate_media_open(&s.media, &port));
    assert_ok(session_assess(&s, SLATE_DEPTH_FULL));
    assert_ok(slate_search_start(&search, &s.media, &s.facts, 0, 0, lost, ROOM,
                                 s.work));
    reads_left = 100;
    while (!search.finished && slate_search_step(&search) == SLATE_OK)
        continue;
    assert_false(search.finished);
    assert_status(search.status, SLATE_ERR_NO_MEDIUM);
    assert_true(search.places <= 100);
    ram_close(&ram);
}

/* Nothing but blocks of the table is another one afterwards. */
static void nothing_else_changes(void **state)
{
    const struct change *change;

    (void)state;
    for (size_t i = 0; (change = change_at(i)) != NULL; i++) {
        uint64_t blocks;
        struct ram ram, before;

        if (change->kind != SLATE_MEND_LOST)
            continue;
        print_message("  %s\n", change->name);
        change->build(&before);
        ram_copy(&ram, &before);
        blocks = ram.facts.block_count;
        assert_ok(session_look(&s, &ram));
        assert_ok(change_draft(&s, change));
        assert_int_equal(s.draft.parts, 0);
        assert_ok(session_enact(&s, 262144));
        assert_ok(session_prove(&s, 262144));
        assert_true(
            ram_same(&ram, &before, 63 * 512, (blocks - 63 - 33) * 512));
        assert_ok(session_look(&s, &ram));
        assert_int_equal(s.facts.layout.found, change->found);
        assert_int_equal(slate_layout_check(&s.facts.layout, blocks) &
                             ~(unsigned)SLATE_LAYOUT_UNORDERED,
                         0);
        for (uint32_t n = 0; n < s.facts.layout.count; n++) {
            assert_true(slate_volume_is_known(s.facts.volume[n].kind));
        }
        /* it is in a partition by now, and not found any more */
        run(&ram, 0, 0);
        assert_int_equal(search.found, 0);
        ram_close(&ram);
        ram_close(&before);
    }
}

/* A table without a place for it. */
static void a_full_table_is_told(void **state)
{
    static const uint64_t first[] = {30 * MIB};
    struct ram ram;
    uint8_t block[512];

    (void)state;
    ram_open(&ram, 512, 200 * MIB, true);
    for (uint32_t i = 0; i < 4; i++)
        ram_put_entry(&ram, i, 0x83, false, (150 + i) * MIB, MIB);
    craft_fat32(&ram, 30 * MIB, 70 * MIB, "FIFTH");
    assert_ok(session_look(&s, &ram));
    assert_status(session_put_back(&s, first, 1, SLATE_TABLE_MBR),
                  SLATE_ERR_IN_THE_WAY);
    assert_non_null(strstr(s.draft.obstacle.why, "no entry left"));
    /* the third one is free */
    craft_erase(&ram, 446 + 32, 16);
    assert_ok(session_look(&s, &ram));
    assert_ok(session_put_back(&s, first, 1, SLATE_TABLE_MBR));
    assert_ok(session_enact(&s, 262144));
    ram_get(&ram, 0, block, sizeof block);
    assert_int_equal(block[446 + 32 + 4], 0x0C);
    assert_int_equal(number_at(block, 446 + 32 + 8, 4), 30 * MIB);
    assert_int_equal(number_at(block, 446 + 32 + 12, 4), 70 * MIB);
    assert_int_equal(number_at(block, 446 + 16 + 8, 4), 151 * MIB);
    ram_close(&ram);
    /* an entry without blocks lists nothing, and is not ours to take */
    ram_open(&ram, 512, 200 * MIB, true);
    ram_put_entry(&ram, 0, 0x12, false, 0, 0);
    ram_put_entry(&ram, 1, 0x83, false, 150 * MIB, MIB);
    craft_fat32(&ram, 30 * MIB, 70 * MIB, "THIRD");
    assert_ok(session_look(&s, &ram));
    assert_ok(session_put_back(&s, first, 1, SLATE_TABLE_MBR));
    assert_ok(session_enact(&s, 262144));
    ram_get(&ram, 0, block, sizeof block);
    assert_int_equal(block[446 + 4], 0x12);
    assert_int_equal(block[446 + 32 + 4], 0x0C);
    ram_close(&ram);
    /* in the container of logical ones */
    changes_old_disk(&ram, 400 * MIB);
    craft_fat32(&ram, 122 * MIB, 8 * MIB * 9 / 2, "INSIDE");
    assert_ok(session_look(&s, &ram));
    assert_status(
        session_put_back(&s, (uint64_t[]){122 * MIB}, 1, SLATE_TABLE_MBR),
        SLATE_ERR_IN_THE_WAY);
    assert_non_null(strstr(s.draft.obstacle.why, "container"));
    ram_close(&ram);
}

/* A GPT of which one copy is not sound is mended first. */
static void both_copies_have_to_be_sound(void **state)
{
    const struct change *change;
    struct ram ram;
    size_t i = 0;

    (void)state;
    while ((change = change_at(i)) != NULL &&
           strcmp(change->name, "put back under a GPT") != 0)
        i++;
    assert_non_null(change);
    change->build(&ram);
    craft_flip(&ram, 512 + 60);
    assert_ok(session_look(&s, &ram));
    assert_status(change_draft(&s, change), SLATE_ERR_ONE_COPY);
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(each_format_is_found),
        cmocka_unit_test(with_large_blocks),
        cmocka_unit_test(places_are_bounded),
        cmocka_unit_test(the_largest_is_begun),
        cmocka_unit_test(copies_and_ruins_do_not_count),
        cmocka_unit_test(what_speaks_against_one_is_told),
        cmocka_unit_test(what_cannot_be_read_is_counted),
        cmocka_unit_test(a_medium_that_goes_ends_it),
        cmocka_unit_test(nothing_else_changes),
        cmocka_unit_test(a_full_table_is_told),
        cmocka_unit_test(both_copies_have_to_be_sound),
    };

    return cmocka_run_group_tests_name("search", tests, NULL, NULL);
}
