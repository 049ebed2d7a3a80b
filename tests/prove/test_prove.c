/* SPDX-License-Identifier: MIT */
/* What a proof has beside the blocks that were written: the ends of the device
 * and of new volumes, in turns with their starts. */
#include "check.h"

static struct session s;
static struct slate_prove prove;

static enum slate_status run(struct ram *ram)
{
    assert_ok(slate_media_open(&s.media, &ram->port));
    return slate_prove_run(&prove, &s.draft, &s.media, s.work, 65536, NULL,
                           NULL);
}

/* A volume of its own size, which nothing else is written behind. */
static const struct slate_range *lay(struct ram *ram,
                                     enum slate_volume_kind volume)
{
    struct slate_ask ask = {
        .size_kind = SLATE_SIZE_BYTES, .size = 40000000, .volume = volume};

    if (volume == SLATE_VOLUME_FAT12)
        ask.cluster_bytes = 32768;
    ram_open(ram, 512, 200000, true);
    session_want(
        &s, &(struct wanted){.table_given = true, .table = SLATE_TABLE_MBR});
    s.draft.part[0].ask = ask;
    assert_ok(session_look(&s, ram));
    assert_ok(slate_draft_base(&s.draft, &s.facts));
    assert_ok(slate_draft_make(&s.draft));
    assert_ok(session_enact(&s, 65536));
    return &s.draft.part[0].range;
}

/* The last block of the volume shows its first one, as far as nobody writes
 * both: a device that starts over at its beginning, or a copy that a format has
 * there. */
static void starting_over_shows(void **state)
{
    static const uint8_t zeros[512];
    const struct slate_format *format;
    uint32_t shown = 0, copies = 0, empty = 0;

    (void)state;
    for (uint32_t i = 0; (format = slate_format_at(i)) != NULL; i++) {
        struct ram ram;
        const struct slate_range *range = lay(&ram, format->kind);
        uint64_t last = range->first + range->count - 1;
        uint8_t first[512], end[512];

        assert_ok(run(&ram));
        ram_get(&ram, range->first * 512, first, sizeof first);
        ram_get(&ram, last * 512, end, sizeof end);
        ram_put(&ram, last * 512, first, sizeof first);
        if (memcmp(first, zeros, sizeof zeros) == 0) {
            empty++; /* ext4 begins with nothing, which tells nothing */
        } else if (memcmp(first, end, sizeof end) == 0) {
            copies++; /* NTFS has its copy there */
        } else {
            assert_status(run(&ram), SLATE_ERR_ALIAS);
            assert_int_equal(prove.alias, last);
            assert_int_equal(prove.alias_of, range->first);
            assert_int_equal(prove.different, 0);
            shown++;
        }
        ram_close(&ram);
    }
    assert_true(shown == 4 && copies == 1 && empty == 1);
}

/* What cannot be read at the end of a volume was not written either. */
static void an_end_that_cannot_be_read_is_no_alias(void **state)
{
    struct ram ram;
    const struct slate_range *range = lay(&ram, SLATE_VOLUME_FAT16);

    (void)state;
    ram.fail_read = range->first + range->count - 1;
    assert_ok(run(&ram));
    ram_close(&ram);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(starting_over_shows),
        cmocka_unit_test(an_end_that_cannot_be_read_is_no_alias),
    };

    return cmocka_run_group_tests_name("prove", tests, NULL, NULL);
}
