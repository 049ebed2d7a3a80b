/* SPDX-License-Identifier: MIT */
/* The arithmetic of drives: capacity, the order of sectors, places and blocks,
 * stickers against what is bad. */
#include <stdlib.h>

#include <trueslate/drive.h>

#include "check.h"

static const struct slate_drive drum = {615, 4,   17,  0,  512,  3,    0,
                                        0,   300, 615, 11, 3600, 10416};

/* Laid out by hand: which sector stands at each place of a track. */
static const struct {
    uint32_t sectors, interleave;
    uint8_t at[18];
} tracks[] = {
    {17, 1, {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16}},
    {17, 3, {0, 6, 12, 1, 7, 13, 2, 8, 14, 3, 9, 15, 4, 10, 16, 5, 11}},
    {17, 6, {0, 3, 6, 9, 12, 15, 1, 4, 7, 10, 13, 16, 2, 5, 8, 11, 14}},
    {8, 2, {0, 4, 1, 5, 2, 6, 3, 7}},
    {9, 3, {0, 3, 6, 1, 4, 7, 2, 5, 8}},
    {18, 4, {0, 9, 5, 14, 1, 10, 6, 15, 2, 11, 7, 16, 3, 12, 8, 17, 4, 13}},
    {1, 1, {0}}};

static void sectors_stand_in_the_order_of_the_interleave(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof tracks / sizeof tracks[0]; i++) {
        struct slate_drive drive = drum;

        drive.sectors = tracks[i].sectors;
        drive.interleave = tracks[i].interleave;
        assert_int_equal(slate_drive_check(&drive), SLATE_DRIVE_GOOD);
        for (uint32_t slot = 0; slot < drive.sectors; slot++) {
            struct slate_sector_place place = {0, 0, tracks[i].at[slot]};

            assert_int_equal(slate_drive_slot(&drive, &place), slot);
            assert_int_equal(slate_drive_sector(&drive, &place, slot),
                             tracks[i].at[slot]);
        }
    }
}

/* The first sector moves on from track to track. */
static void skew_moves_the_first_sector_on(void **state)
{
    struct slate_drive drive = drum;
    struct slate_sector_place place = {0, 0, 0};

    (void)state;
    drive.track_skew = 2;
    drive.cylinder_skew = 5;
    assert_int_equal(slate_drive_slot(&drive, &place), 0);
    place.head = 1;
    assert_int_equal(slate_drive_slot(&drive, &place), 2);
    place.head = 3;
    assert_int_equal(slate_drive_slot(&drive, &place), 6);
    place = (struct slate_sector_place){1, 0, 0};
    assert_int_equal(slate_drive_slot(&drive, &place), 11);
    place = (struct slate_sector_place){1, 1, 1};
    assert_int_equal(slate_drive_slot(&drive, &place), 16);
}

/* Whatever the numbers: each place once, there and back. */
static void every_block_has_its_place(void **state)
{
    (void)state;
    for (uint32_t sectors = 1; sectors <= SLATE_DRIVE_SECTORS_MAX;
         sectors += 1 + sectors / 9) {
        for (uint32_t interleave = 1; interleave < sectors || interleave == 1;
             interleave += 1 + interleave / 5) {
            struct slate_drive drive = {.cylinders = 3,
                                        .heads = 2,
                                        .sectors = sectors,
                                        .block_bytes = 512,
                                        .interleave = interleave,
                                        .track_skew = 7};
            bool seen[SLATE_DRIVE_SECTORS_MAX] = {false};
            uint64_t track = (uint64_t)rand() % 6;

            assert_int_equal(slate_drive_blocks(&drive), 6 * sectors);
            for (uint64_t i = 0; i < sectors; i++) {
                uint64_t block = track * sectors + i;
                struct slate_sector_place place =
                    slate_drive_place(&drive, block);
                uint32_t slot = slate_drive_slot(&drive, &place);

                assert_int_equal(slate_drive_block(&drive, &place), block);
                assert_int_equal(place.cylinder, track / 2);
                assert_int_equal(place.head, track % 2);
                assert_true(slot < sectors && !seen[slot]);
                seen[slot] = true;
                assert_int_equal(slate_drive_sector(&drive, &place, slot), i);
            }
        }
    }
}

static void a_description_is_checked_field_by_field(void **state)
{
    static const struct {
        size_t field;
        uint32_t good, bad;
        enum slate_drive_wrong wrong;
    } rows[] = {
        {offsetof(struct slate_drive, cylinders), 16777215, 16777216,
         SLATE_DRIVE_CYLINDERS},
        {offsetof(struct slate_drive, cylinders), 615, 0,
         SLATE_DRIVE_CYLINDERS},
        {offsetof(struct slate_drive, heads), 255, 256, SLATE_DRIVE_HEADS},
        {offsetof(struct slate_drive, heads), 1, 0, SLATE_DRIVE_HEADS},
        {offsetof(struct slate_drive, sectors), 255, 256, SLATE_DRIVE_SECTORS},
        {offsetof(struct slate_drive, sectors), 4, 0, SLATE_DRIVE_SECTORS},
        {offsetof(struct slate_drive, spares), 16, 17, SLATE_DRIVE_SPARES},
        {offsetof(struct slate_drive, block_bytes), 8192, 8193,
         SLATE_DRIVE_BLOCK},
        {offsetof(struct slate_drive, block_bytes), 128, 127,
         SLATE_DRIVE_BLOCK},
        {offsetof(struct slate_drive, interleave), 16, 17,
         SLATE_DRIVE_INTERLEAVE},
        {offsetof(struct slate_drive, interleave), 1, 0,
         SLATE_DRIVE_INTERLEAVE},
        {offsetof(struct slate_drive, track_skew), 65535, 65536,
         SLATE_DRIVE_SKEW},
        {offsetof(struct slate_drive, cylinder_skew), 65535, 65536,
         SLATE_DRIVE_SKEW},
        {offsetof(struct slate_drive, precompensation), 615, 616,
         SLATE_DRIVE_PRECOMPENSATION},
        {offsetof(struct slate_drive, reduced_current), 0, 616,
         SLATE_DRIVE_CURRENT},
        {offsetof(struct slate_drive, burst_bits), 255, 256,
         SLATE_DRIVE_BURST}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct slate_drive drive = drum;

        memcpy((char *)&drive + rows[i].field, &rows[i].good, 4);
        assert_int_equal(slate_drive_check(&drive), SLATE_DRIVE_GOOD);
        memcpy((char *)&drive + rows[i].field, &rows[i].bad, 4);
        assert_int_equal(slate_drive_check(&drive), rows[i].wrong);
        assert_true(strlen(slate_drive_expected(rows[i].wrong)) > 0);
    }
}

static void the_table_has_sound_drives(void **state)
{
    uint32_t count;
    const struct slate_drive_profile *profile = slate_drive_profiles(&count);

    (void)state;
    assert_true(count >= 4);
    for (uint32_t i = 0; i < count; i++) {
        assert_int_equal(slate_drive_check(&profile[i].drive),
                         SLATE_DRIVE_GOOD);
        assert_ptr_equal(slate_drive_profile(profile[i].name), &profile[i]);
    }
    assert_int_equal(slate_drive_blocks(&slate_drive_profile("DRUM-20")->drive),
                     41820);
    assert_null(slate_drive_profile("drum-2"));
    assert_null(slate_drive_profile(""));
}

static void lists_are_sorted_each_once(void **state)
{
    struct slate_defect list[] = {{7, 1, 90}, {7, 0, 100}, {3, 3, 5},
                                  {7, 1, 90}, {7, 0, 99},  {3, 3, 5}};
    static const struct slate_defect sorted[] = {
        {3, 3, 5}, {7, 0, 99}, {7, 0, 100}, {7, 1, 90}};
    uint32_t count = 6;

    (void)state;
    slate_defects_sort(list, &count);
    assert_int_equal(count, 4);
    assert_memory_equal(list, sorted, sizeof sorted);
    count = 0;
    slate_defects_sort(list, &count);
    assert_int_equal(count, 0);
}

/* 10416 bytes, 17 sectors: 612.7 bytes each. Byte 4410 is in place 7, where
 * sector 8 stands with an interleave of 3. */
static void a_byte_from_the_index_is_a_block(void **state)
{
    static const struct {
        struct slate_defect defect;
        uint64_t first, count; /* count 0: there is no such place */
    } rows[] = {{{0, 0, 0}, 0, 1},
                {{0, 0, 612}, 0, 1},
                {{0, 0, 613}, 6, 1},
                {{0, 1, 4410}, 17 + 8, 1},
                {{12, 3, 4410}, (12 * 4 + 3) * 17 + 8, 1},
                {{614, 3, 10415}, 614 * 68 + 51 + 11, 1},
                {{614, 3, 10416}, 0, 0},
                {{615, 0, 0}, 0, 0},
                {{0, 4, 0}, 0, 0},
                {{5, 2, SLATE_DEFECT_TRACK}, (5 * 4 + 2) * 17, 17}};
    struct slate_drive unknown = drum;
    struct slate_range range;

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        assert_int_equal(slate_defect_range(&drum, &rows[i].defect, &range),
                         rows[i].count != 0);
        if (rows[i].count == 0)
            continue;
        assert_int_equal(range.first, rows[i].first);
        assert_int_equal(range.count, rows[i].count);
    }
    unknown.track_bytes = 0;
    assert_true(slate_defect_range(&unknown, &rows[3].defect, &range));
    assert_int_equal(range.first, 17);
    assert_int_equal(range.count, 17);
}

/* Bad blocks at a listed place and beside it are known, two places off or on
 * another head not. */
static void near_misses_are_new(void **state)
{
    static const struct slate_defect sticker[] = {
        {2, 0, SLATE_DEFECT_TRACK}, {12, 3, 4410}, {40, 0, 30}};
    uint64_t track = (12 * 4 + 3) * 17;
    struct {
        uint64_t block;
        bool known;
    } rows[] = {
        {track + 8, true},   /* place 7 */
        {track + 2, true},   /* place 6 */
        {track + 14, true},  /* place 8 */
        {track + 3, false},  /* place 9 */
        {track + 13, false}, /* place 5 */
        {track - 17 + 8, false}, {track + 17 + 8, false}, {40 * 68, true},
        {40 * 68 + 11, true},  /* place 16, the other side of the index */
        {40 * 68 + 12, false}, /* place 2 */
        {2 * 68 + 16, true},     {2 * 68 + 17, false},    {0, false},
        {41819, false}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++)
        assert_int_equal(slate_defects_know(&drum, sticker, 3, rows[i].block),
                         rows[i].known);
    assert_false(slate_defects_know(&drum, NULL, 0, track + 8));
}

static void judge(const struct slate_range *now, uint32_t count,
                  const struct slate_range *before, uint32_t count_before,
                  struct slate_defects_seen *seen)
{
    static const struct slate_defect sticker[] = {{12, 3, 4410}, {99, 1, 0}};
    struct slate_range lists[2][4];
    struct slate_ranges bad = {lists[0], 4, count};
    struct slate_ranges earlier = {lists[1], 4, count_before};

    memcpy(lists[0], now, count * sizeof *now);
    if (before != NULL)
        memcpy(lists[1], before, count_before * sizeof *before);
    slate_defects_judge(&drum, sticker, 2, &bad,
                        before == NULL ? NULL : &earlier, seen);
}

static void what_came_back_is_told_from_what_is_new(void **state)
{
    static const struct slate_range listed = {(12 * 4 + 3) * 17 + 8, 1};
    static const struct slate_range both[] = {{(12 * 4 + 3) * 17 + 8, 1},
                                              {9000, 2}};
    static const struct slate_range earlier = {9001, 3};
    struct slate_defects_seen seen;

    (void)state;
    judge(&listed, 0, NULL, 0, &seen);
    assert_int_equal(slate_drive_judge(&seen), SLATE_DRIVE_SOUND);
    assert_int_equal(seen.sound, 2);
    judge(&listed, 1, NULL, 0, &seen);
    assert_int_equal(slate_drive_judge(&seen), SLATE_DRIVE_AS_LISTED);
    assert_int_equal(seen.known, 1);
    assert_int_equal(seen.sound, 1);
    judge(both, 2, NULL, 0, &seen);
    assert_int_equal(slate_drive_judge(&seen), SLATE_DRIVE_WATCH);
    assert_int_equal(seen.fresh, 2);
    assert_int_equal(seen.back, 0);
    assert_int_equal(seen.appeared, 0); /* nobody knows */
    judge(both, 2, &earlier, 0, &seen);
    assert_int_equal(slate_drive_judge(&seen), SLATE_DRIVE_WATCH);
    assert_int_equal(seen.appeared, 2);
    judge(both, 2, &earlier, 1, &seen);
    assert_int_equal(slate_drive_judge(&seen), SLATE_DRIVE_DYING);
    assert_int_equal(seen.bad, 3);
    assert_int_equal(seen.known, 1);
    assert_int_equal(seen.back, 1);
    assert_int_equal(seen.appeared, 1);
    assert_int_equal(seen.gone, 2);
}

int main(void)
{
    static const struct CMUnitTest tests[] = {
        cmocka_unit_test(sectors_stand_in_the_order_of_the_interleave),
        cmocka_unit_test(skew_moves_the_first_sector_on),
        cmocka_unit_test(every_block_has_its_place),
        cmocka_unit_test(a_description_is_checked_field_by_field),
        cmocka_unit_test(the_table_has_sound_drives),
        cmocka_unit_test(lists_are_sorted_each_once),
        cmocka_unit_test(a_byte_from_the_index_is_a_block),
        cmocka_unit_test(near_misses_are_new),
        cmocka_unit_test(what_came_back_is_told_from_what_is_new),
    };

    return cmocka_run_group_tests(tests, NULL, NULL);
}
