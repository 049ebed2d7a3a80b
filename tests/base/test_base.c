/* SPDX-License-Identifier: MIT */
/* Known answers for checksums, digests, GUIDs, size words and result codes. */
#include <stdio.h>

#include "check.h"

static void crc_matches_the_published_check_value(void **state)
{
    (void)state;
    assert_int_equal(slate_crc32(0, "123456789", 9), 0xCBF43926);
    assert_int_equal(slate_crc32(slate_crc32(0, "1234", 4), "56789", 5),
                     0xCBF43926);
    assert_int_equal(slate_crc32(0, NULL, 0), 0);
}

static void digest_of(const char *text, size_t times, char hex[65])
{
    struct slate_sha256 sha;
    uint8_t digest[SLATE_DIGEST_BYTES];
    struct slate_text out;

    slate_sha256_start(&sha);
    while (times-- > 0)
        slate_sha256_add(&sha, text, strlen(text));
    slate_sha256_end(&sha, digest);
    slate_text_start(&out, hex, 65);
    slate_text_bytes(&out, digest, sizeof digest);
}

static void sha256_matches_fips_180_4(void **state)
{
    char hex[65];

    (void)state;
    digest_of("abc", 1, hex);
    assert_string_equal(hex, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9c"
                             "b410ff61f20015ad");
    digest_of("", 0, hex);
    assert_string_equal(hex, "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934c"
                             "a495991b7852b855");
    digest_of("a", 1000000, hex);
    assert_string_equal(hex, "cdc76e5c9914fb9281a1c7e284d73e67f1809a48a497200e"
                             "046d39ccc7112cd0");
}

static void guid_text_has_mixed_byte_order(void **state)
{
    static const uint8_t disk[16] = {0x28, 0x73, 0x2A, 0xC1, 0x1F, 0xF8,
                                     0xD2, 0x11, 0xBA, 0x4B, 0x00, 0xA0,
                                     0xC9, 0x3E, 0xC9, 0x3B};
    const char *words = "C12A7328-F81F-11D2-BA4B-00A0C93EC93B";
    char text[SLATE_GUID_TEXT];
    struct slate_guid guid;

    (void)state;
    assert_ok(slate_guid_parse("c12a7328-F81F-11d2-ba4b-00a0c93ec93b", &guid));
    assert_memory_equal(guid.bytes, disk, 16);
    slate_guid_text(&guid, text);
    assert_string_equal(text, words);
    slate_guid_random(disk, &guid);
    slate_guid_text(&guid, text);
    assert_int_equal(text[14], '4');
    assert_non_null(strchr("89AB", text[19]));
}

static void guid_parse_refuses_what_is_no_guid(void **state)
{
    static const char *const bad[] = {"",
                                      "C12A7328",
                                      "C12A7328-F81F-11D2-BA4B-00A0C93EC93",
                                      "C12A7328-F81F-11D2-BA4B-00A0C93EC93BA",
                                      "G12A7328-F81F-11D2-BA4B-00A0C93EC93B",
                                      "C12A7328+F81F-11D2-BA4B-00A0C93EC93B"};
    struct slate_guid guid;

    (void)state;
    for (size_t i = 0; i < sizeof bad / sizeof bad[0]; i++)
        assert_status(slate_guid_parse(bad[i], &guid), SLATE_ERR_ARGUMENT);
}

static void sizes_read_as_on_the_case_and_on_the_screen(void **state)
{
    static const struct {
        uint64_t bytes;
        const char *both;
        uint64_t nominal;
    } rows[] = {
        {0, "0 bytes", 0},
        {512, "512 bytes", 0},
        {999, "999 bytes", 0},
        {1000, "1 kB (1000 bytes)", 0},
        {1023999, "1.02 MB (1000 KiB)", 1000000},
        {999600000, "1 GB (953 MiB)", 1000000000},
        {48000000, "48 MB (45.8 MiB)", 0},
        {4026531840, "4.03 GB (3.75 GiB)", 4000000000},
        {15640035328, "15.6 GB (14.6 GiB)", 16000000000},
        {30980000000, "31 GB (28.9 GiB)", 32000000000},
        {62000000000, "62 GB (57.7 GiB)", 64000000000},
        {480103981056, "480 GB (447 GiB)", 480000000000},
        {500107862016, "500 GB (466 GiB)", 500000000000},
        {21411840, "21.4 MB (20.4 MiB)", 20000000},
        {2000398934016, "2 TB (1.82 TiB)", 2000000000000},
        {18446744073709551104u, "18.4 EB (16 EiB)", 0},
    };

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        char text[SLATE_SIZE_TEXT];

        slate_size_both(rows[i].bytes, text);
        assert_string_equal(text, rows[i].both);
        assert_int_equal(slate_size_nominal(rows[i].bytes), rows[i].nominal);
    }
}

static void text_is_cut_and_never_overruns(void **state)
{
    char room[8] = "xxxxxxx";
    struct slate_text text;

    (void)state;
    slate_text_start(&text, room, 6);
    slate_text_add(&text, "buoy ");
    slate_text_number(&text, 18446744073709551615u);
    assert_string_equal(room, "buoy ");
    assert_int_equal(room[6], 'x');
    slate_text_start(&text, room, sizeof room);
    slate_text_hex(&text, 0xAB3F, 4);
    assert_string_equal(room, "AB3F");
}

static void every_result_has_name_sentence_and_class(void **state)
{
    (void)state;
#define CHECK(name, class, cause, sentence)                                    \
    assert_string_equal(slate_status_name(name), #name);                       \
    assert_string_equal(slate_status_sentence(name), sentence);                \
    assert_int_equal(slate_status_class(name), class);                         \
    assert_true((int)(name) < 0);
    SLATE_STATUS_LIST(CHECK)
#undef CHECK
    assert_string_equal(slate_status_name((enum slate_status)1),
                        "SLATE_UNKNOWN");
    assert_string_equal(slate_status_sentence(SLATE_OK), "done");
    assert_int_equal(slate_status_class((enum slate_status)1),
                     SLATE_CLASS_INTERNAL);
}

/* Header, library and the numbers one by one. */
static void the_version_is_one(void **state)
{
    char text[40];

    (void)state;
    snprintf(text, sizeof text, "%d.%d.%d", SLATE_VERSION_MAJOR,
             SLATE_VERSION_MINOR, SLATE_VERSION_PATCH);
    assert_string_equal(text, SLATE_VERSION);
    assert_string_equal(text, slate_version());
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(crc_matches_the_published_check_value),
        cmocka_unit_test(sha256_matches_fips_180_4),
        cmocka_unit_test(guid_text_has_mixed_byte_order),
        cmocka_unit_test(guid_parse_refuses_what_is_no_guid),
        cmocka_unit_test(sizes_read_as_on_the_case_and_on_the_screen),
        cmocka_unit_test(text_is_cut_and_never_overruns),
        cmocka_unit_test(every_result_has_name_sentence_and_class),
        cmocka_unit_test(the_version_is_one),
    };

    return cmocka_run_group_tests_name("base", tests, NULL, NULL);
}
