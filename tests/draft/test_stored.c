/* SPDX-License-Identifier: MIT */
/* Drafts stored and restored: nothing is lost, and nothing that was changed is
 * taken. */
#include "check.h"

static struct session s, back;
static uint8_t stored[65536];
static size_t length;

/* A draft with something in every field. */
static void make_one(void)
{
    struct wanted goal = {.use = SLATE_USE_LOGGER,
                          .table_given = true,
                          .table = SLATE_TABLE_MBR,
                          .volume = SLATE_VOLUME_FAT16,
                          .cluster_bytes = 4096,
                          .label = "buoy 12",
                          .lasting = true};
    struct slate_ask second = {.size_kind = SLATE_SIZE_BYTES,
                               .size = 50000000,
                               .bare = true,
                               .active = true};
    struct ram ram;

    ram_open(&ram, 512, 200000, true);
    ram_put_entry(&ram, 0, 0x0C, true, 2048, 60000);
    ram_put_entry(&ram, 1, 0x83, false, 100000, 60000);
    assert_ok(session_draft(&s, &ram, &goal));
    assert_ok(slate_draft_ask(&s.draft, &second));
    assert_ok(slate_draft_make(&s.draft));
    ram_close(&ram);
    assert_ok(slate_draft_store(&s.draft, stored, sizeof stored, &length));
    session_want(&back, &(struct wanted){.label = "another"});
}

static void what_is_stored_comes_back(void **state)
{
    struct slate_walk one = {0}, other = {0};
    struct slate_extent a, b;
    static uint8_t again[65536];
    size_t used;

    (void)state;
    make_one();
    assert_ok(slate_draft_restore(&back.draft, stored, length));
    assert_memory_equal(back.draft.seal, s.draft.seal, SLATE_DIGEST_BYTES);
    assert_int_equal(back.draft.parts, 2);
    assert_string_equal(back.draft.part[0].ask.label, "buoy 12");
    assert_true(back.draft.part[1].ask.active);
    assert_true(back.draft.goal.lasting);
    assert_ok(slate_draft_store(&back.draft, again, sizeof again, &used));
    assert_int_equal(used, length);
    assert_memory_equal(again, stored, length);
    while (slate_draft_next(&s.draft, &one, &a)) {
        assert_true(slate_draft_next(&back.draft, &other, &b));
        assert_int_equal(a.first, b.first);
        assert_int_equal(a.count, b.count);
        assert_int_equal(a.moment, b.moment);
    }
    assert_false(slate_draft_next(&back.draft, &other, &b));
}

/* A reader of its own, by RFC 8949: the bytes of one value, which has to be in
 * its shortest form. */
// NOLINTNEXTLINE(misc-no-recursion): values nest, to a depth that is checked
static size_t cbor_skip(const uint8_t *at, const uint8_t *end, int depth)
{
    uint8_t type = at[0] >> 5, info = at[0] & 31;
    uint64_t value = info;
    size_t used = 1, each;

    assert_true(at < end && depth < 9);
    if (info >= 24 && info <= 27) {
        value = 0;
        for (size_t width = (size_t)1 << (info - 24); width > 0; width--)
            value = value << 8 | at[used++];
        assert_true(info == 24 ? value >= 24
                               : value >> (4u << (info - 24)) > 0);
    }
    if (type == 0 || (type == 7 && info != 31))
        return used;
    if (type == 2 || type == 3)
        return used + (size_t)value;
    if (type == 5) {
        assert_int_equal(info, 31);
        while (at[used] != 0xFF) {
            assert_int_equal(at[used] >> 5, 3); /* a name */
            used += cbor_skip(at + used, end, depth + 1);
            used += cbor_skip(at + used, end, depth + 1);
        }
        return used + 1;
    }
    assert_int_equal(type, 4);
    for (; value > 0; value--, used += each)
        each = cbor_skip(at + used, end, depth + 1);
    return used;
}

static bool stored_has(const char *text)
{
    return memmem(stored, length, text, strlen(text)) != NULL;
}

/* The form is what the standard says, and has no more than it has to. */
static void it_is_a_map_of_names(void **state)
{
    (void)state;
    make_one();
    assert_memory_equal(stored, "TRUE SLATE DRAFT\016\0\0\0", 20);
    assert_int_equal(cbor_skip(stored + 20, stored + length, 0),
                     length - 20 - SLATE_DIGEST_BYTES);
    assert_true(stored_has("factive\365")); /* a text of 6, true */
    assert_true(stored_has("elabelgbuoy 12"));
    assert_true(stored_has("fvolumeefat16"));
    assert_true(stored_has("mcluster_bytes\031\020\0"));
    assert_false(stored_has("revisions")); /* all are 0 */
    assert_false(stored_has("mbr_type"));
    assert_false(stored_has("files"));
}

/* Fields of a later version: known by their names as such, wherever they stand.
 */
static void later_fields_are_told(void **state)
{
    static uint8_t later[65536];
    uint32_t refused = 0;

    (void)state;
    make_one();
    for (size_t at = 21; at < length - SLATE_DIGEST_BYTES; at++) {
        enum slate_status status;

        memcpy(later, stored, at);
        memcpy(later + at, "gmirrors\001", 9);
        memcpy(later + at + 9, stored + at, length - at);
        status = slate_draft_restore(&back.draft, later, length + 9);
        assert_true(status == SLATE_ERR_DRAFT_VERSION ||
                    status == SLATE_ERR_DRAFT_DAMAGED);
        refused += status == SLATE_ERR_DRAFT_VERSION;
    }
    assert_true(refused > 20); /* where a name may stand */
}

static void every_cut_and_every_changed_byte_is_refused(void **state)
{
    (void)state;
    make_one();
    for (size_t cut = 0; cut < length; cut++)
        assert_true(slate_draft_restore(&back.draft, stored, cut) != SLATE_OK);
    assert_true(slate_draft_restore(&back.draft, stored, length + 1) !=
                SLATE_OK);
    for (size_t at = 0; at < length; at++) {
        for (int bit = 0; bit < 8; bit++) {
            stored[at] ^= (uint8_t)(1 << bit);
            assert_true(slate_draft_restore(&back.draft, stored, length) !=
                        SLATE_OK);
            stored[at] ^= (uint8_t)(1 << bit);
        }
    }
    assert_ok(slate_draft_restore(&back.draft, stored, length));
    stored[16] ^= 1; /* the version */
    assert_status(slate_draft_restore(&back.draft, stored, length),
                  SLATE_ERR_DRAFT_VERSION);
}

static void too_little_room_is_told(void **state)
{
    static uint8_t room[100000];
    size_t used;

    (void)state;
    make_one();
    assert_status(slate_draft_store(&s.draft, stored, length - 1, &used),
                  SLATE_ERR_BUFFER);
    assert_int_equal(used, length);
    assert_status(slate_draft_store(&s.draft, NULL, 0, &used),
                  SLATE_ERR_BUFFER);
    assert_ok(slate_draft_store(&s.draft, stored, length, &used));
    for (size_t bytes = 0;; bytes += 16) {
        enum slate_status status;

        assert_true(bytes < sizeof room);
        slate_draft_place(&back.draft, room, bytes);
        status = slate_draft_restore(&back.draft, stored, length);
        if (status == SLATE_OK)
            break;
        assert_int_equal(status, SLATE_ERR_ROOM);
        assert_true(back.draft.shortage.needed > bytes);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_stored_comes_back),
        cmocka_unit_test(it_is_a_map_of_names),
        cmocka_unit_test(later_fields_are_told),
        cmocka_unit_test(every_cut_and_every_changed_byte_is_refused),
        cmocka_unit_test(too_little_room_is_told),
    };

    return cmocka_run_group_tests_name("stored", tests, NULL, NULL);
}
