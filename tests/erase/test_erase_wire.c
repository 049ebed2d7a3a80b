/* SPDX-License-Identifier: MIT */
/* Devices that erase themselves: the bytes that go out against the standards,
 * and which way is advised. */
#include "eraser.h"
#include "program.h"

/* Worked out from the standards by hand: SBC-3 5.3, 5.27; SPC-4 6.34; ACS-3
 * 7.33, 7.42, 7.43, 7.46; SAT-3 12.2; NVMe 1.4 5.14.1.16.2, 5.23, 5.24. */
static const struct {
    size_t kind;
    const char *bytes;
} wires[] = {
    {0, "a30c02480001000000200000"},
    {0, "48810000000000000800 0100000400000000"},
    {1, "48820000000000000000"},
    {2, "48830000000000000000"},
    {3, "a30c01040000000000200000"},
    {3, "041000000000 00020000"},
    /* features, count, LBA, device, command */
    {4, "140001000000"
        "0000"
        "574f"
        "00"
        "b4"},
    {5, "1200000072456b42"
        "0000"
        "00"
        "b4"},
    {6, "1100000070797243"
        "0000"
        "00"
        "b4"},
    {5, "00000000"
        "000000000000"
        "00"
        "b4"},
    {7, "00000100"
        "000000000000"
        "00"
        "f1 0000"
        "5452554520534c415445"
        "00000000"},
    {7, "00000000"
        "000000000000"
        "00"
        "f3"},
    {7, "00000100"
        "000000000000"
        "00"
        "f4 0000"
        "5452554520534c415445"},
    {8, "00000100"
        "000000000000"
        "00"
        "f4 0200"
        "5452554520534c415445"},
    {15, "85070000140001000057004f0000b400"},
};

static void what_goes_out_is_as_the_standards_have_it(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof wires / sizeof wires[0]; i++) {
        const struct kind *kind = &kinds[wires[i].kind];

        lay_kind(kind, "");
        forget_sent();
        assert_ok(slate_erase_start(&erase, &media, way_of(kind->kind), place,
                                    2, work, sizeof work));
        erase.phase = SLATE_ERASE_ORDERING; /* nothing but commands */
        while (erase.phase != SLATE_ERASE_PROVING)
            assert_ok(slate_erase_step(&erase));
        if (!was_sent(wires[i].bytes))
            fail_msg("%s was not sent", wires[i].bytes);
        close_device();
    }
}

/* Opcode, namespace, words 10 and 11 of the entry. */
static void assert_entry(size_t i, const char *opcode, const char *name_space,
                         const char *words)
{
    char entry[64 * 2 + 1];

    lay_kind(&kinds[i], "");
    forget_sent();
    assert_ok(slate_erase_start(&erase, &media, way_of(kinds[i].kind), place, 2,
                                work, sizeof work));
    erase.phase = SLATE_ERASE_ORDERING;
    assert_ok(slate_erase_step(&erase));
    memset(entry, '0', sizeof entry);
    memcpy(entry, opcode, 2);
    memcpy(entry + 8, name_space, 8);
    memcpy(entry + 80, words, 16);
    entry[128] = '\0';
    assert_true(was_sent(entry));
    close_device();
}

static void entries_of_nvme_are_as_the_standard_has_them(void **state)
{
    (void)state;
    assert_entry(9, "84", "00000000", "1300000000000000");
    assert_entry(10, "84", "00000000", "0200000000000000");
    assert_entry(11, "84", "00000000", "0400000000000000");
    assert_entry(12, "80", "01000000", "0002000000000000");
    assert_entry(13, "80", "01000000", "0004000000000000");
}

static uint32_t advised(bool rotating, enum slate_erase_aim aim, uint32_t count)
{
    const char *why = NULL;
    uint32_t best;

    media.abilities.rotating = rotating;
    best = slate_erase_advise(&media, way, count, aim, &why);
    assert_non_null(why);
    return best;
}

/* Flash and platters, staying and leaving; never what reaches other
 * namespaces; never the card's or the disk's weakest for strangers. */
static void advice_goes_by_what_each_way_reaches(void **state)
{
    (void)state;
    way[0] = (struct slate_erase_way){.kind = SLATE_ERASE_ATA_SECURITY};
    way[1] = (struct slate_erase_way){.kind = SLATE_ERASE_ATA_CRYPTO};
    way[2] = (struct slate_erase_way){.kind = SLATE_ERASE_ATA_BLOCK};
    assert_int_equal(advised(false, SLATE_ERASE_LEAVES_HOUSE, 3), 2);
    assert_int_equal(advised(false, SLATE_ERASE_LEAVES_HOUSE, 1), 1);
    assert_int_equal(advised(true, SLATE_ERASE_LEAVES_HOUSE, 3), 1);
    assert_int_equal(advised(false, SLATE_ERASE_STAYS, 3), 2);
    way[0] = (struct slate_erase_way){SLATE_ERASE_NVME_BLOCK, 0, true};
    way[1] = (struct slate_erase_way){.kind = SLATE_ERASE_NVME_FORMAT};
    assert_int_equal(advised(false, SLATE_ERASE_LEAVES_HOUSE, 2), 1);
    assert_int_equal(advised(false, SLATE_ERASE_STAYS, 1), 1);
    way[0] = (struct slate_erase_way){.kind = SLATE_ERASE_SD};
    assert_int_equal(advised(false, SLATE_ERASE_LEAVES_HOUSE, 1), 1);
    assert_int_equal(advised(false, SLATE_ERASE_STAYS, 1), 0);
    way[0] = (struct slate_erase_way){.kind = SLATE_ERASE_SCSI_FORMAT};
    assert_int_equal(advised(true, SLATE_ERASE_LEAVES_HOUSE, 1), 1);
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
        cmocka_unit_test(what_goes_out_is_as_the_standards_have_it),
        cmocka_unit_test(entries_of_nvme_are_as_the_standard_has_them),
        cmocka_unit_test(advice_goes_by_what_each_way_reaches),
    };

    return cmocka_run_group_tests_name("erase_wire", tests, NULL, tear_down);
}
