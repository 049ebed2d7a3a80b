/* SPDX-License-Identifier: MIT */
/* Low-level format against simulated devices: the bytes that go out, drives
 * that have no sectors, lose them or are cut, bad places, interleave, two
 * logical drives. */
#include <stdio.h>

#include "eraser.h"
#include "program.h"

#define DRIVE                                                                  \
    "\"attached\": \"scsi\", \"maker\": \"Capstan\", \"model\": \"Drum 1\", "  \
    "\"serial\": \"W-1\", \"rotating\": true, \"blocks\": 1360, "              \
    "\"block_bytes\": 512, "
#define TRACKS                                                                 \
    "\"tracks\": {\"cylinders\": 20, \"heads\": 4, \"sectors\": 17, "          \
    "\"minutes\": 1, \"clock\": 1000000"

static const struct slate_drive drum = {20, 4,  17, 0,  512,  3,    0,
                                        0,  10, 20, 11, 3600, 10416};
static struct slate_lowlevel lowlevel;
static struct slate_lowlevel_wish wish;
static struct slate_drive drive;

static void lay_drive(const char *tracks, const char *erases)
{
    char members[2000];

    snprintf(members, sizeof members,
             DRIVE "\"erases\": {\"ways\": [\"format\"]%s}, " TRACKS "%s}",
             erases, tracks);
    lay(members);
    open_unit("buoy");
    drive = drum;
    memset(&wish, 0, sizeof wish);
    wish.drive = &drive;
}

static enum slate_status format(void)
{
    return format_as(&lowlevel, &wish);
}

/* Worked out by hand from SCSI-2, 9.2.1, 9.3.3, and SBC-3, 5.3.2: page 04h with
 * 20 cylinders, 4 heads, precompensation from 10, reduced current from 20; page
 * 03h with an interleave of 3; page 01h with 11 bits; the block descriptor;
 * FORMAT UNIT with two places in bytes from the index. What is as it shall be
 * already is not set. */
static void what_goes_out_is_as_the_standards_have_it(void **state)
{
    static const struct slate_defect sticker[] = {{2, 1, SLATE_DEFECT_TRACK},
                                                  {12, 3, 4410}};
    static const char *const sent[] = {"1a004400fc00",
                                       "15110000"
                                       "1c00"
                                       " 00000000"
                                       "0416"
                                       "000014"
                                       "04"
                                       "00000a"
                                       "000014",
                                       "15110000"
                                       "1c00"
                                       " 00000000"
                                       "0316"
                                       "0001"
                                       "0000"
                                       "0000"
                                       "0000"
                                       "0011"
                                       "0200"
                                       "0003"
                                       "0000"
                                       "0000",
                                       "15110000"
                                       "1000"
                                       " 00000000"
                                       "010a"
                                       "0000"
                                       "0b",
                                       "15100000"
                                       "0c00"
                                       " 00000008"
                                       "00000000"
                                       "00000200",
                                       "041400000300"
                                       " 00020010"
                                       "000002"
                                       "01"
                                       "ffffffff"
                                       "00000c"
                                       "03"
                                       "0000113a"};

    (void)state;
    lay_drive("", "");
    wish.form = SLATE_DEFECT_INDEX;
    wish.defect = sticker;
    wish.defects = 2;
    forget_sent();
    assert_ok(format());
    for (size_t i = 0; i < sizeof sent / sizeof sent[0]; i++) {
        if (!was_sent(sent[i]))
            fail_msg("%s was not sent", sent[i]);
    }
    close_device();
}

/* Older devices answer when they are done, or take no list; one that takes no
 * list does not get bad places passed over. */
static void every_sort_of_format_unit_is_spoken(void **state)
{
    static const struct slate_defect sticker[] = {{12, 3, 4410}};

    (void)state;
    lay_drive("", ", \"waits\": true");
    assert_ok(format());
    assert_true(was_sent("041000000300 00020000"));
    assert_true(was_sent("041000000300 00000000"));
    close_device();
    lay_drive("", ", \"plain\": true");
    wish.form = SLATE_DEFECT_INDEX;
    assert_ok(format());
    assert_true(was_sent("040000000300"));
    wish.defect = sticker;
    wish.defects = 1;
    assert_status(format(), SLATE_ERR_COMMAND);
    close_device();
    lay_drive("", ", \"waits\": true, \"does\": \"fails\"");
    assert_true(format() != SLATE_OK);
    close_device();
}

/* The same place as a block, in bytes from the index and as a sector: 10 x 4 x
 * 17 blocks ahead of cylinder 10, and place 7 has sector 8. */
static void places_go_out_in_every_form(void **state)
{
    static const struct {
        enum slate_defect_form form;
        struct slate_defect defect;
        const char *bytes;
    } rows[] = {
        {SLATE_DEFECT_BLOCK, {688, 0, 0}, "041000000300 00020004000002b0"},
        {SLATE_DEFECT_INDEX,
         {10, 0, 4410},
         "041400000300 0002000800000a000000113a"},
        {SLATE_DEFECT_SECTOR,
         {10, 0, 7},
         "041500000300 0002000800000a0000000007"}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        lay_drive("", "");
        assert_ok(format()); /* sectors stand as the interleave has it */
        wish.form = rows[i].form;
        wish.defect = &rows[i].defect;
        wish.defects = 1;
        wish.forgets_grown = i == 0;
        forget_sent();
        assert_ok(format());
        if (i > 0 && !was_sent(rows[i].bytes))
            fail_msg("%s was not sent", rows[i].bytes);
        if (i == 0)
            assert_true(was_sent("041800000300 00020004000002b0"));
        assert_status(slate_media_read(&media, 688, 1, block), SLATE_ERR_READ);
        assert_ok(slate_media_read(&media, 687, 1, block));
        assert_ok(slate_media_read(&media, 689, 1, block));
        close_device();
    }
}

static uint32_t count_bad(struct slate_ranges *bad)
{
    uint32_t count = 0;

    bad->count = 0;
    for (uint64_t i = 0; i < media.geometry.block_count; i++) {
        struct slate_policy once = {.tries = 4};
        struct slate_policy before = slate_media_read_by(&media, &once);
        enum slate_status status = slate_media_read(&media, i, 1, block);

        (void)slate_media_read_by(&media, &before);
        if (status == SLATE_OK)
            continue;
        assert_int_equal(status, SLATE_ERR_READ);
        if (bad->count < bad->room)
            bad->range[bad->count++] = (struct slate_range){i, 1};
        count++;
    }
    return count;
}

static void reopen(void)
{
    close_device();
    open_unit("buoy");
}

/* Neither has sectors that this controller finds, and each says why. */
static void drives_get_their_sectors(void **state)
{
    static const struct {
        const char *member;
        uint8_t asc;
    } rows[] = {{", \"unformatted\": true", 0x12},
                {", \"other_controller\": true", 0x10}};

    (void)state;
    for (size_t i = 0; i < 2; i++) {
        lay_drive(rows[i].member, "");
        assert_status(slate_media_read(&media, 0, 1, block), SLATE_ERR_READ);
        assert_int_equal(media.fault.sense_key, 3);
        assert_int_equal(media.fault.asc, rows[i].asc);
        assert_ok(format());
        assert_int_equal(media.geometry.block_count, 1360);
        assert_ok(slate_media_read(&media, 1359, 1, block));
        reopen();
        assert_ok(slate_media_read(&media, 0, 1, block));
        close_device();
    }
}

/* Where it is cut, the drive takes nothing until it has been done again. */
static void a_cut_format_has_to_be_done_again(void **state)
{
    (void)state;
    for (int step = 1; step <= 20; step += 6) {
        char erases[60];

        snprintf(erases, sizeof erases, ", \"power_cut_at_step\": %d", step);
        lay_drive("", erases);
        assert_status(format(), SLATE_ERR_NO_DEVICE);
        assert_true(lowlevel.begun);
        plug_again("buoy");
        assert_true(is_guarded(SLATE_GUARD_UNERASED));
        assert_status(slate_media_read(&media, 0, 1, block), SLATE_ERR_READ);
        assert_ok(format());
        assert_false(is_guarded(SLATE_GUARD_UNERASED));
        assert_ok(slate_media_read(&media, 0, 1, block));
        close_device();
    }
}

/* Each is found: refused, failed half-way, done and not what was asked for. */
static void what_does_not_work_is_told(void **state)
{
    (void)state;
    lay_drive("", ", \"does\": \"refuses\"");
    assert_status(format(), SLATE_ERR_COMMAND);
    close_device();
    lay_drive("", ", \"does\": \"fails\"");
    assert_status(format(), SLATE_ERR_UNERASED);
    close_device();
    lay_drive("", ", \"does\": \"nothing\"");
    drive.cylinders = 10;
    drive.reduced_current = 10;
    assert_status(format(), SLATE_ERR_UNPROVED);
    close_device();
    lay_drive("", ""); /* more than it has */
    drive.cylinders = 21;
    assert_status(format(), SLATE_ERR_UNERASED);
    close_device();
    lay_drive(", \"fixed\": true", "");
    assert_status(format(), SLATE_ERR_ARGUMENT);
    wish.drive = NULL;
    assert_ok(format());
    close_device();
    lay_drive("", "");
    drive.interleave = 17;
    assert_status(format(), SLATE_ERR_ARGUMENT);
    assert_false(lowlevel.begun);
    close_device();
}

/* With smaller geometry, in both sorts of pages, with and without spares. */
static void geometry_is_what_was_set(void **state)
{
    static const struct {
        const char *members;
        uint32_t cylinders, heads, sectors, spares;
    } rows[] = {{"", 20, 4, 17, 0},
                {"", 10, 2, 17, 1},
                {", \"flexible\": true", 19, 3, 16, 0},
                {", \"flexible\": true", 1, 1, 17, 2}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        const struct slate_drive *now = &lowlevel.facts.drive;

        lay_drive(rows[i].members, "");
        drive.cylinders = rows[i].cylinders;
        drive.heads = rows[i].heads;
        drive.sectors = rows[i].sectors;
        drive.spares = rows[i].spares;
        drive.precompensation = 1;
        drive.reduced_current = drive.cylinders;
        assert_ok(format());
        assert_int_equal(media.geometry.block_count,
                         slate_drive_blocks(&drive));
        assert_int_equal(now->cylinders, drive.cylinders);
        assert_int_equal(now->heads, drive.heads);
        assert_int_equal(now->sectors, drive.sectors);
        assert_int_equal(now->spares, drive.spares);
        assert_int_equal(now->interleave, 3);
        assert_int_equal(now->precompensation, 1);
        assert_int_equal(now->burst_bits, 11);
        assert_int_equal(now->revolutions, 3600);
        assert_int_equal(lowlevel.facts.flexible, i > 1);
        close_device();
    }
}

#define SPOTS                                                                  \
    ", \"spots\": [{\"cylinder\": 2, \"head\": 1, \"byte\": 4410}, "           \
    "{\"cylinder\": 7, \"head\": 0, \"byte\": 100, \"kind\": \"fades\"}, "     \
    "{\"cylinder\": 9, \"head\": 3, \"byte\": 9000}, "                         \
    "{\"cylinder\": 15, \"head\": 2, \"byte\": 5000, \"kind\": \"worn\"}]"

/* The sticker has the first one and the worn one; the second goes away, the
 * third comes back. */
static void stickers_are_compared_with_what_is_bad(void **state)
{
    static const struct slate_defect sticker[] = {{2, 1, 4400}, {15, 2, 5000}};
    struct slate_range now[16], before[16];
    struct slate_ranges bad = {now, 16, 0}, earlier = {before, 16, 0};
    struct slate_defects_seen seen;

    (void)state;
    lay_drive(SPOTS, "");
    drive.interleave = 1;
    assert_int_equal(count_bad(&earlier), 4);
    wish.form = SLATE_DEFECT_INDEX;
    wish.defect = sticker;
    wish.defects = 2;
    assert_ok(format());
    assert_int_equal(count_bad(&bad), 3);
    slate_defects_judge(&drive, sticker, 2, &bad, &earlier, &seen);
    assert_int_equal(seen.known, 2);
    assert_int_equal(seen.back, 1);
    assert_int_equal(seen.gone, 1);
    assert_int_equal(slate_drive_judge(&seen), SLATE_DRIVE_DYING);
    assert_int_equal(bad.range[0].first, (2 * 4 + 1) * 17 + 7);
    close_device();
}

/* With a spare sector on each track, what is listed is replaced; what is found
 * later can be, too. */
static void spare_sectors_take_the_place_of_bad_ones(void **state)
{
    static const struct slate_defect sticker[] = {{2, 1, 4410}, {15, 2, 5000}};
    struct slate_defect list[8];
    enum slate_defect_form form;
    struct slate_range now[16];
    struct slate_ranges bad = {now, 16, 0};
    uint32_t count;

    (void)state;
    lay_drive(SPOTS, "");
    drive.spares = 1;
    drive.interleave = 1;
    wish.form = SLATE_DEFECT_INDEX;
    wish.defect = sticker;
    wish.defects = 2;
    assert_ok(format());
    assert_int_equal(media.geometry.block_count, 20 * 4 * 16);
    assert_int_equal(count_bad(&bad), 1);
    assert_ok(slate_defects_read(&media, SLATE_DEFECTS_GROWN, &form, list, 8,
                                 &count, work));
    assert_int_equal(form, SLATE_DEFECT_INDEX);
    assert_int_equal(count, 2);
    assert_int_equal(list[0].cylinder, 2);
    assert_int_equal(list[0].head, 1);
    assert_int_equal(list[0].at * 17 / 10416, 4410 * 17 / 10416);
    assert_ok(slate_defects_read(&media, SLATE_DEFECTS_PRIMARY, &form, list, 8,
                                 &count, work));
    assert_int_equal(count, 0);
    assert_ok(slate_reassign_block(&media, bad.range[0].first));
    assert_int_equal(count_bad(&bad), 0);
    assert_ok(slate_defects_read(&media, SLATE_DEFECTS_GROWN, &form, list, 1,
                                 &count, work));
    assert_int_equal(count, 3);
    close_device();
    lay_drive(SPOTS, "");
    assert_status(slate_reassign_block(&media, 5), SLATE_ERR_COMMAND);
    close_device();
}

/* What a drive's maker has listed in it is passed over by every format, and
 * told apart from what was found since. */
static void the_makers_own_list_is_kept(void **state)
{
    struct slate_defect list[4];
    enum slate_defect_form form;
    struct slate_range now[16];
    struct slate_ranges bad = {now, 16, 0};
    uint32_t count;

    (void)state;
    lay_drive(", \"spots\": [{\"cylinder\": 3, \"head\": 1, \"byte\": 5, "
              "\"primary\": true}, {\"cylinder\": 8, \"head\": 0, "
              "\"byte\": 5}]",
              "");
    drive.spares = 1;
    assert_ok(format());
    assert_int_equal(count_bad(&bad), 1);
    assert_int_equal(bad.range[0].first, 8 * 4 * 16);
    assert_ok(slate_defects_read(&media, SLATE_DEFECTS_PRIMARY, &form, list, 4,
                                 &count, work));
    assert_int_equal(count, 1);
    assert_int_equal(list[0].cylinder, 3);
    assert_ok(slate_defects_read(&media, SLATE_DEFECTS_GROWN, &form, list, 4,
                                 &count, work));
    assert_int_equal(count, 0);
    assert_ok(slate_reassign_block(&media, bad.range[0].first));
    wish.forgets_grown = true; /* it is bad again then, and the first is not */
    assert_ok(format());
    assert_int_equal(count_bad(&bad), 1);
    assert_int_equal(bad.range[0].first, 8 * 4 * 16);
    wish.forgets_grown = false;
    assert_ok(slate_reassign_block(&media, bad.range[0].first));
    assert_ok(format());
    assert_int_equal(count_bad(&bad), 0);
    close_device();
}

/* The best value is the one at which controller and machine are ready in time;
 * a smaller one costs a whole turn for each sector. */
static void the_interleave_is_measured(void **state)
{
    (void)state;
    for (uint32_t rest = 0; rest < 7; rest += 2) {
        struct slate_interleave measure;
        char tracks[30];

        snprintf(tracks, sizeof tracks, ", \"rest\": %u", rest);
        lay_drive(tracks, "");
        assert_ok(slate_interleave_start(&measure, &media, &drive, 8, work,
                                         sizeof work));
        while (!measure.finished)
            assert_ok(slate_interleave_step(&measure));
        assert_int_equal(slate_interleave_best(&measure), rest + 1);
        for (uint32_t i = 1; i <= 8; i++) { /* turns, and half of one ahead */
            uint64_t turns = i > rest ? i : i + 17;

            assert_in_range(measure.us[i], turns * 16666 + 8000,
                            turns * 16667 + 9000);
            assert_in_range(slate_interleave_rate(&measure, i),
                            8704 * 60 * 2 / (2 * turns + 1) * 98 / 100,
                            8704 * 60 * 2 / (2 * turns + 1) * 102 / 100);
        }
        assert_ok(format()); /* all of it */
        assert_int_equal(media.geometry.block_count, 1360);
        close_device();
    }
}

/* What follows the blocks of the first logical drive is the second one; each
 * keeps its own content, and places count through. */
static void a_drive_is_split_in_two(void **state)
{
    static const struct slate_defect sticker[] = {{15, 2, 5000}};
    struct slate_range now[16];
    struct slate_ranges bad = {now, 16, 0};

    (void)state;
    lay_drive(SPOTS, "");
    drive.interleave = 1;
    wish.first_blocks = 11 * 68;
    wish.form = SLATE_DEFECT_INDEX;
    wish.defect = sticker;
    wish.defects = 1;
    assert_ok(format());
    assert_int_equal(media.geometry.block_count, 11 * 68);
    assert_int_equal(media.units, 2);
    memset(block, 1, 512);
    assert_ok(slate_media_write(&media, 5, 1, block));
    close_device();
    open_unit("buoy/1");
    assert_int_equal(media.geometry.block_count, 9 * 68);
    assert_ok(slate_media_read(&media, 5, 1, block));
    assert_int_equal(block[0], 0);
    assert_true(count_bad(&bad) > 0);
    assert_int_equal(bad.range[0].first, (4 * 4 + 2) * 17 + 5000 * 17 / 10416);
    memset(block, 2, 512);
    assert_ok(slate_media_write(&media, 5, 1, block));
    assert_status(format(), SLATE_ERR_COMMAND); /* from the first one only */
    close_device();
    open_unit("buoy");
    assert_ok(slate_media_read(&media, 5, 1, block));
    assert_int_equal(block[0], 1);
    wish.first_blocks = 0; /* and put together again */
    assert_ok(format());
    assert_int_equal(media.geometry.block_count, 1360);
    assert_int_equal(media.units, 1);
    close_device();
}

/* A device that has taken something says so in another way (SPC-4, 4.5.6). */
static void what_was_rounded_was_taken(void **state)
{
    (void)state;
    lay_drive(", \"rounds\": true", "");
    drive.cylinders = drive.reduced_current = 15;
    assert_ok(format());
    assert_int_equal(media.geometry.block_count, 15 * 4 * 17);
    close_device();
}

static int tear_down(void **state)
{
    (void)state;
    program_clean();
    return 0;
}

int main(void)
{
    static const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_goes_out_is_as_the_standards_have_it),
        cmocka_unit_test(every_sort_of_format_unit_is_spoken),
        cmocka_unit_test(places_go_out_in_every_form),
        cmocka_unit_test(drives_get_their_sectors),
        cmocka_unit_test(a_cut_format_has_to_be_done_again),
        cmocka_unit_test(what_does_not_work_is_told),
        cmocka_unit_test(geometry_is_what_was_set),
        cmocka_unit_test(stickers_are_compared_with_what_is_bad),
        cmocka_unit_test(spare_sectors_take_the_place_of_bad_ones),
        cmocka_unit_test(the_makers_own_list_is_kept),
        cmocka_unit_test(the_interleave_is_measured),
        cmocka_unit_test(a_drive_is_split_in_two),
        cmocka_unit_test(what_was_rounded_was_taken),
    };

    return cmocka_run_group_tests_name("lowlevel", tests, NULL, tear_down);
}
