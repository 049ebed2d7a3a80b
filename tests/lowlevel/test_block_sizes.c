/* SPDX-License-Identifier: MIT */
/* Other sizes of blocks by a low-level format, against simulated devices of
 * each command set: what is sent, what comes of it, what is refused. */
#include <stdio.h>

#include "eraser.h"
#include "program.h"

static struct slate_lowlevel lowlevel;
static struct slate_lowlevel_wish wish;

static enum slate_status is_usable(uint32_t block_bytes)
{
    return (block_bytes & (block_bytes - 1)) == 0 ? SLATE_OK
                                                  : SLATE_ERR_GEOMETRY;
}

/* From the sectors of arrays to those of other hosts, and what a drive refuses;
 * protection information goes with it. */
static void blocks_get_another_size(void **state)
{
    static const struct {
        const char *members;
        uint32_t bytes, wanted;
        enum slate_status status;
        uint64_t blocks;
    } rows[] = {
        {"\"attached\": \"scsi\", \"blocks\": 8000, \"block_bytes\": 520, "
         "\"formats\": [520, 512, 4096]",
         520, 512, SLATE_OK, 8125},
        {"\"attached\": \"scsi\", \"blocks\": 8000, \"block_bytes\": 528, "
         "\"formats\": [528, 4096]",
         528, 4096, SLATE_OK, 1031},
        {"\"attached\": \"scsi\", \"blocks\": 8000, \"block_bytes\": 520, "
         "\"formats\": [520, 512]",
         520, 4096, SLATE_ERR_COMMAND, 8000},
        {"\"attached\": \"scsi\", \"blocks\": 8000, \"block_bytes\": 512, "
         "\"protection_information\": true",
         512, 512, SLATE_OK, 8000},
        {"\"attached\": \"nvme\", \"blocks\": 8000, \"block_bytes\": 512, "
         "\"formats\": [520, 512, 4104, 4096]",
         512, 4096, SLATE_OK, 1000},
        {"\"attached\": \"nvme\", \"blocks\": 8000, \"block_bytes\": 512, "
         "\"formats\": [512, 520]",
         512, 4096, SLATE_ERR_ARGUMENT, 8000},
        {"\"attached\": \"nvme\", \"blocks\": 1000, \"block_bytes\": 4096, "
         "\"protection_information\": true, \"formats\": [512, 4096]",
         4096, 4096, SLATE_OK, 1000},
        {"\"attached\": \"sata\", \"blocks\": 8000, \"block_bytes\": 512, "
         "\"formats\": [512, 4096]",
         512, 4096, SLATE_OK, 1000},
        {"\"attached\": \"sata\", \"blocks\": 8000, \"block_bytes\": 512", 512,
         4096, SLATE_ERR_COMMAND, 8000},
        {"\"attached\": \"sd\", \"blocks\": 4096, \"block_bytes\": 512, "
         "\"serial\": \"12345678\"",
         512, 4096, SLATE_ERR_COMMAND, 4096}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        char members[500];

        snprintf(members, sizeof members,
                 "%s, \"erases\": {\"ways\": [\"format\"]}", rows[i].members);
        lay(members);
        assert_status(open_any("buoy"), is_usable(rows[i].bytes));
        assert_int_equal(media.geometry.block_bytes, rows[i].bytes);
        memset(&wish, 0, sizeof wish);
        wish.block_bytes = rows[i].wanted;
        if (format_as(&lowlevel, &wish) != rows[i].status)
            fail_msg("%s", members);
        close_device();
        (void)open_any("buoy");
        assert_int_equal(media.geometry.block_count, rows[i].blocks);
        assert_int_equal(media.geometry.block_bytes, rows[i].status == SLATE_OK
                                                         ? rows[i].wanted
                                                         : rows[i].bytes);
        assert_false(rows[i].status == SLATE_OK && media.abilities.protection);
        if (rows[i].status == SLATE_OK)
            assert_ok(slate_media_read(&media, rows[i].blocks - 1, 1, block));
        close_device();
    }
}

/* NVMe 1.4, 5.23; ACS-4, B2h: what is sent for each. */
static void other_command_sets_are_told_as_they_want_it(void **state)
{
    char entry[129];

    (void)state;
    lay("\"attached\": \"nvme\", \"blocks\": 8000, \"block_bytes\": 512, "
        "\"formats\": [520, 512, 4104, 4096], "
        "\"erases\": {\"ways\": [\"format\"]}");
    open_unit("buoy");
    memset(&wish, 0, sizeof wish);
    wish.block_bytes = 4096;
    assert_ok(format_as(&lowlevel, &wish));
    assert_int_equal(lowlevel.facts.formats, 4);
    memset(entry, '0', sizeof entry);
    memcpy(entry, "80", 2);
    memcpy(entry + 8, "01", 2);
    memcpy(entry + 80, "03", 2);
    entry[128] = '\0';
    assert_true(was_sent(entry));
    close_device();
    lay("\"attached\": \"sata\", \"blocks\": 8000, \"block_bytes\": 512, "
        "\"formats\": [512, 4096]");
    open_unit("buoy");
    assert_ok(format_as(&lowlevel, &wish));
    assert_true(was_sent("00000100"
                         "2f0000000000"
                         "00"
                         "2f"));
    assert_true(was_sent("b6c10100"
                         "000000000000"
                         "00"
                         "b2"));
    close_device();
}

/* Nothing is sent to a drive that would format its other namespaces with it,
 * unless that is meant; one that does not is none of these. */
static void other_namespaces_are_not_touched(void **state)
{
    static const char members[] =
        "\"attached\": \"nvme\", \"formats\": [512, 4096], \"erases\": "
        "{\"ways\": [\"format\"], \"formats_all\": %s}, \"units\": ["
        "{\"blocks\": 8000, \"block_bytes\": 512}%s]";
    static const char second[] = ", {\"blocks\": 8000, \"block_bytes\": 512}";

    (void)state;
    for (int i = 0; i < 4; i++) {
        bool all = i % 2 == 1, two = i > 1;
        char lines[500];

        snprintf(lines, sizeof lines, members, all ? "true" : "false",
                 two ? second : "");
        lay(lines);
        open_unit("buoy");
        memset(&wish, 0, sizeof wish);
        wish.block_bytes = 4096;
        assert_status(format_as(&lowlevel, &wish),
                      all && two ? SLATE_ERR_PARTS : SLATE_OK);
        assert_int_equal(lowlevel.facts.reaches_units, all && two);
        wish.all_units = true;
        assert_ok(format_as(&lowlevel, &wish));
        close_device();
    }
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
        cmocka_unit_test(blocks_get_another_size),
        cmocka_unit_test(other_command_sets_are_told_as_they_want_it),
        cmocka_unit_test(other_namespaces_are_not_touched),
    };

    return cmocka_run_group_tests_name("block_sizes", tests, NULL, tear_down);
}
