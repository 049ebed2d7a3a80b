/* SPDX-License-Identifier: MIT */
/* Devices that erase themselves: every way of every command set, and each of
 * them cut and reset at every step, failing, refused, or only said to be done.
 */
#include <stdio.h>

#include "turns.h"
#include "eraser.h"
#include "program.h"

static void every_way_erases_all(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (int all = 0; all < 2; all++) {
            lay_kind(&kinds[i], "");
            assert_int_equal(count_left(), BLOCKS / 8);
            assert_ok(erase_by(kinds[i].kind, all == 1));
            assert_true(erase.held > PLACES / 2);
            assert_verdict(kinds[i].crypto ? SLATE_ERASED_OTHER
                           : all == 1      ? SLATE_ERASED_ALL
                                           : SLATE_ERASED_PLACES);
            assert_int_equal(count_left(), 0);
            assert_false(is_guarded(SLATE_GUARD_ERASING));
            assert_false(is_guarded(SLATE_GUARD_DISK_PASSWORD));
            plug_again("buoy"); /* nothing locks it when the power comes */
            assert_false(is_guarded(SLATE_GUARD_DISK_PASSWORD));
            write_content();
            close_device();
        }
    }
}

static void what_is_only_said_to_be_done_is_found(void **state)
{
    static const char *const lies[] = {", \"does\": \"nothing\"",
                                       ", \"does\": \"half\""};

    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (int lie = 0; lie < 2 && kinds[i].set != SD; lie++) {
            lay_kind(&kinds[i], lies[lie]);
            assert_ok(erase_by(kinds[i].kind, false));
            assert_verdict(SLATE_ERASED_KEPT);
            assert_true(slate_erased_is_bad(slate_erase_verdict(&erase)));
            assert_int_equal(count_left() == BLOCKS / 8, lie == 0);
            assert_true(lie == 1 || erase.kept == erase.held);
            close_device();
        }
    }
}

/* It refuses, and nothing is lost; it fails half-way, and is not taken for
 * done, until another one succeeds. */
static void refusals_and_failures_are_told(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        bool said = kinds[i].waits;

        if (kinds[i].set == SD)
            continue;
        lay_kind(&kinds[i], ", \"does\": \"refuses\"");
        assert_status(erase_by(kinds[i].kind, false), SLATE_ERR_COMMAND);
        assert_int_equal(count_left(), BLOCKS / 8);
        assert_false(is_guarded(SLATE_GUARD_DISK_PASSWORD));
        plug_again("buoy");
        assert_false(is_guarded(SLATE_GUARD_DISK_PASSWORD));
        close_device();

        lay_kind(&kinds[i], ", \"does\": \"fails\"");
        assert_status(erase_by(kinds[i].kind, false),
                      said ? SLATE_ERR_UNERASED : SLATE_ERR_COMMAND);
        assert_true(erase.begun);
        assert_verdict(SLATE_ERASED_UNKNOWN);
        assert_int_equal(is_guarded(SLATE_GUARD_UNERASED), said);
        if (said)
            assert_status(slate_media_read(&media, 0, 1, block),
                          SLATE_ERR_READ);
        close_device();
    }
}

static void cut(const struct kind *kind, uint32_t step)
{
    char more[60];
    bool formats = kind->kind == SLATE_ERASE_SCSI_FORMAT;

    snprintf(more, sizeof more, ", \"power_cut_at_step\": %u", step);
    lay_kind(kind, more);
    assert_status(erase_by(kind->kind, false), SLATE_ERR_NO_DEVICE);
    assert_true(erase.begun);
    plug_again("buoy");
    if (kind->password)
        assert_true(is_guarded(SLATE_GUARD_DISK_PASSWORD));
    if (formats) {
        assert_true(is_guarded(SLATE_GUARD_UNERASED));
        assert_status(slate_media_read(&media, 0, 1, block), SLATE_ERR_READ);
    }
    if (kind->waits && !formats) {
        join(); /* it goes on by itself */
        assert_verdict(kind->crypto ? SLATE_ERASED_UNKNOWN : SLATE_ERASED_ALL);
    } else {
        assert_ok(erase_by(kind->kind, true)); /* the same way again */
        assert_false(slate_erased_is_bad(slate_erase_verdict(&erase)));
    }
    assert_false(is_guarded(SLATE_GUARD_DISK_PASSWORD));
    assert_false(is_guarded(SLATE_GUARD_UNERASED));
    assert_int_equal(count_left(), 0);
    close_device();
}

static void a_power_cut_at_any_step_is_got_over(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (uint32_t step = 1; step <= STEPS && kinds[i].set != SD; step++)
            cut(&kinds[i], step);
    }
}

static void a_reset_at_any_step_is_got_over(void **state)
{
    (void)state;
    for (size_t i = 0; i < KINDS; i++) {
        for (uint32_t step = 1; step <= STEPS && kinds[i].set != SD; step++) {
            char more[60];

            snprintf(more, sizeof more, ", \"reset_at_step\": %u", step);
            lay_kind(&kinds[i], more);
            assert_ok(erase_by(kinds[i].kind, true));
            assert_false(media.swapped);
            assert_int_equal(count_left(), 0);
            close_device();
        }
    }
}

static const uint64_t far_apart[] = {100, 140000, 299000};

static uint32_t count_far(void)
{
    uint32_t left = 0;

    for (int i = 0; i < 3; i++) {
        assert_ok(slate_media_read(&media, far_apart[i], 1, block));
        left += block[0] == 0x77 && block[511] == 0x78 ? 1u : 0u;
    }
    return left;
}

static void lay_card(uint32_t cut_at)
{
    char members[200];

    snprintf(members, sizeof members,
             "\"attached\": \"sd\", \"serial\": \"12345678\", \"blocks\": "
             "300000, \"block_bytes\": 512, \"power_cut_at_command\": %u",
             cut_at);
    lay(members);
    open_unit("buoy");
}

/* A card is erased a run of blocks at a time. Its power goes at each command:
 * what was not reached is as it was, and the same again finishes it. */
static void a_card_that_is_pulled_out_is_erased_again(void **state)
{
    uint32_t opening, all, left = 3;

    (void)state;
    lay_card(0);
    opening = count_sent();
    assert_ok(erase_by(SLATE_ERASE_SD, false));
    all = count_sent();
    close_device();
    for (uint32_t n = opening + 1; n <= all; n += n < all - 90 ? 40 : 1) {
        enum slate_status status;

        if (!turn_of(n, 6) && n != all)
            continue;
        lay_card(0); /* content first, or that would be cut */
        memset(block, 0, sizeof block);
        block[0] = 0x77;
        block[511] = 0x78;
        for (int i = 0; i < 3; i++)
            assert_ok(slate_media_write(&media, far_apart[i], 1, block));
        close_device();
        cut_at_command("buoy", n);
        open_unit("buoy");
        status = erase_by(SLATE_ERASE_SD, false);
        assert_status(status, SLATE_ERR_NO_DEVICE);
        plug_again("buoy");
        assert_true(count_far() <= left); /* it only becomes less */
        left = count_far();
        assert_ok(erase_by(SLATE_ERASE_SD, false));
        assert_false(slate_erased_is_bad(slate_erase_verdict(&erase)));
        assert_int_equal(count_far(), 0);
        close_device();
    }
    assert_int_equal(left, 0);
}

static const char two_units[] =
    "\"attached\": \"nvme\", \"serial\": \"B-2\", \"units\": [{\"blocks\": "
    "4096, \"block_bytes\": 512}, {\"blocks\": 4096, \"block_bytes\": 512}], "
    "\"erases\": {\"ways\": [\"sanitize-block\", \"format\"]%s}";

/* Sanitizing reaches every namespace of the drive, and says so; a format
 * reaches its own, unless the drive says otherwise. */
static void erase_one_of_two(enum slate_erase_kind kind, const char *more,
                             bool reaches)
{
    char members[400];

    snprintf(members, sizeof members, two_units, more);
    lay(members);
    for (int i = 0; i < 2; i++) {
        open_unit(i == 0 ? "buoy" : "buoy/1");
        write_content();
        close_device();
    }
    open_unit("buoy");
    assert_int_equal(way_of(kind)->reaches_units, reaches);
    assert_ok(erase_by(kind, true));
    assert_verdict(SLATE_ERASED_ALL);
    close_device();
    open_unit("buoy/1");
    assert_int_equal(count_left(), reaches && kind == SLATE_ERASE_NVME_BLOCK ? 0
                                   : reaches                                 ? 0
                                             : BLOCKS / 8);
    close_device();
}

static void what_else_goes_is_told(void **state)
{
    (void)state;
    erase_one_of_two(SLATE_ERASE_NVME_BLOCK, "", true);
    erase_one_of_two(SLATE_ERASE_NVME_FORMAT, "", false);
    erase_one_of_two(SLATE_ERASE_NVME_FORMAT, ", \"formats_all\": true", true);
}

static void expect_kept(const char *members, enum slate_erase_kind kind,
                        enum slate_status status)
{
    char all[600];

    snprintf(all, sizeof all,
             "\"serial\": \"B-3\", \"blocks\": %u, \"block_bytes\": 512, %s",
             BLOCKS, members);
    lay(all);
    open_unit("buoy");
    way_of(kind);
    if (slate_erase_start(&erase, &media, way_of(kind), place, PLACES, work,
                          sizeof work) != SLATE_OK) {
        assert_int_equal(status, SLATE_ERR_PROTECTED);
        close_device();
        return;
    }
    assert_status(run_steps(), status);
    assert_false(erase.begun);
    close_device();
}

/* A password of somebody else, settings that are frozen, write protection. */
static void what_protects_a_device_is_not_gone_around(void **state)
{
    (void)state;
    expect_kept(
        "\"attached\": \"sata\", \"guards\": [\"locked\"], "
        "\"password\": \"gull\", \"erases\": {\"ways\": [\"security\"]}",
        SLATE_ERASE_ATA_SECURITY, SLATE_ERR_GUARD);
    expect_kept("\"attached\": \"sata\", \"guards\": [\"frozen\"], "
                "\"erases\": {\"ways\": [\"security\"]}",
                SLATE_ERASE_ATA_SECURITY, SLATE_ERR_GUARD);
    expect_kept("\"attached\": \"sata\", \"guards\": [\"locked\"], "
                "\"password\": \"gull\", \"erases\": {\"ways\": "
                "[\"sanitize-block\"]}",
                SLATE_ERASE_ATA_BLOCK, SLATE_ERR_COMMAND);
    expect_kept("\"attached\": \"usb\", \"write_protected\": true, "
                "\"erases\": {\"ways\": [\"sanitize-block\"]}",
                SLATE_ERASE_SCSI_BLOCK, SLATE_ERR_PROTECTED);
    expect_kept("\"attached\": \"nvme\", \"guards\": [\"protected\"], "
                "\"erases\": {\"ways\": [\"format\"]}",
                SLATE_ERASE_NVME_FORMAT, SLATE_ERR_PROTECTED);
}

/* Devices that name none have none, and a stick that knows the simplest
 * commands alone is not brought down by the question. */
static void who_has_no_way_is_told_so(void **state)
{
    static const char *const members[] = {
        "\"attached\": \"usb\", \"few_commands\": true",
        "\"attached\": \"scsi\"", "\"attached\": \"sata\"",
        "\"attached\": \"nvme\"", "\"attached\": \"usb\", \"dock\": true"};

    (void)state;
    for (size_t i = 0; i < sizeof members / sizeof members[0]; i++) {
        char all[200];
        const char *why = NULL;

        snprintf(all, sizeof all, "\"blocks\": 2048, \"block_bytes\": 512, %s",
                 members[i]);
        lay(all);
        open_unit("buoy");
        assert_ok(slate_erase_find(&media, way, &ways));
        assert_int_equal(ways, 0);
        assert_int_equal(
            slate_erase_advise(&media, way, 0, SLATE_ERASE_LEAVES_HOUSE, &why),
            0);
        assert_non_null(strstr(why, "overwrite"));
        close_device();
    }
}

/* Blank before: nothing to compare with, and that is what is said; some blocks
 * that cannot be read afterwards are no proof either. */
static void nothing_is_claimed_without_grounds(void **state)
{
    (void)state;
    lay("\"attached\": \"nvme\", \"blocks\": 4096, \"block_bytes\": 512, "
        "\"erases\": {\"ways\": [\"format\"], \"does\": \"nothing\"}");
    open_unit("buoy");
    assert_ok(erase_by(SLATE_ERASE_NVME_FORMAT, false));
    assert_verdict(SLATE_ERASED_BLANK);
    close_device();
    open_unit("buoy"); /* one byte all over is content where it is no blank */
    memset(block, 0xAA, sizeof block);
    assert_ok(slate_media_write(&media, 9, 1, block));
    assert_ok(slate_media_flush(&media));
    assert_ok(erase_by(SLATE_ERASE_NVME_FORMAT, false));
    assert_verdict(SLATE_ERASED_KEPT);
    close_device();
    lay("\"attached\": \"nvme\", \"blocks\": 4096, \"block_bytes\": 512, "
        "\"faults\": [{\"kind\": \"read\", \"first\": 3000, \"blocks\": 2}], "
        "\"erases\": {\"ways\": [\"format\"]}");
    open_unit("buoy");
    assert_ok(erase_by(SLATE_ERASE_NVME_FORMAT, true));
    assert_verdict(SLATE_ERASED_UNREAD);
    assert_int_equal(erase.unread_blocks, 2);
    close_device();
}

static bool has(enum slate_erase_kind kind)
{
    for (uint32_t i = 0; i < ways; i++) {
        if (way[i].kind == kind)
            return true;
    }
    return false;
}

/* A dock that keeps the registers to itself could not be waited for: what
 * cannot be followed is not offered, what answers when it is done is. */
static void what_cannot_be_followed_is_not_begun(void **state)
{
    static const struct kind both = {
        SLATE_ERASE_ATA_SECURITY,
        DOCK,
        "sanitize-block\", \"sanitize-overwrite\", \"security",
        false,
        false,
        true};

    (void)state;
    lay_kind(&both, ", \"mute\": true");
    assert_ok(slate_erase_find(&media, way, &ways));
    assert_false(has(SLATE_ERASE_ATA_BLOCK) || has(SLATE_ERASE_ATA_OVERWRITE));
    assert_true(has(SLATE_ERASE_ATA_SECURITY));
    assert_ok(erase_by(SLATE_ERASE_ATA_SECURITY, true));
    assert_verdict(SLATE_ERASED_ALL);
    close_device();
    lay_kind(&both, "");
    assert_ok(slate_erase_find(&media, way, &ways));
    assert_true(has(SLATE_ERASE_ATA_BLOCK) && has(SLATE_ERASE_ATA_OVERWRITE));
    close_device();
}

/* A device that does not tell how far it is ends all the same. */
static void a_mute_device_is_waited_for(void **state)
{
    uint64_t total = 1;

    (void)state;
    lay_kind(&kinds[0], ", \"mute\": true");
    assert_ok(slate_erase_start(&erase, &media, way_of(kinds[0].kind), place,
                                PLACES, work, sizeof work));
    while (erase.phase != SLATE_ERASE_WAITING)
        assert_ok(slate_erase_step(&erase));
    assert_ok(slate_erase_step(&erase));
    (void)slate_erase_done(&erase, &total);
    assert_int_equal(total, 0);
    assert_ok(run_steps());
    assert_verdict(SLATE_ERASED_PLACES);
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
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_way_erases_all),
        cmocka_unit_test(what_is_only_said_to_be_done_is_found),
        cmocka_unit_test(refusals_and_failures_are_told),
        cmocka_unit_test(a_power_cut_at_any_step_is_got_over),
        cmocka_unit_test(a_reset_at_any_step_is_got_over),
        cmocka_unit_test(a_card_that_is_pulled_out_is_erased_again),
        cmocka_unit_test(what_else_goes_is_told),
        cmocka_unit_test(what_protects_a_device_is_not_gone_around),
        cmocka_unit_test(who_has_no_way_is_told_so),
        cmocka_unit_test(nothing_is_claimed_without_grounds),
        cmocka_unit_test(what_cannot_be_followed_is_not_begun),
        cmocka_unit_test(a_mute_device_is_waited_for),
    };

    return cmocka_run_group_tests_name("erase", tests, NULL, tear_down);
}
