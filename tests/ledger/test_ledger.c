/* SPDX-License-Identifier: MIT */
/* What promises to keep data keeps its hands off what lives, whatever names it;
 * and says "nothing" where there is nothing. Bytes of other makers' formats are
 * written here as published. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "tool_case.h"

#define MIB 1048576LL
#define SIZE (256 * MIB)

static FILE *image;

static void put(long long at, const char *bytes, size_t length)
{
    assert_int_equal(fseek(image, (long)at, SEEK_SET), 0);
    assert_int_equal(fwrite(bytes, 1, length, image), length);
}

static void put_number(long long at, uint64_t number, int length)
{
    char bytes[8];

    for (int i = 0; i < length; i++)
        bytes[i] = (char)(number >> 8 * i);
    put(at, bytes, (size_t)length);
}

/* Linux RAID: version 1 has its record at 8 KiB or more ahead of the end (1.0),
 * at the start (1.1), or 4 KiB behind it (1.2); version 0.90 in the last whole
 * 64 KiB. */
static void raid_1_0(long long first, long long size)
{
    put(first + ((size - 8192) & ~4095LL), "\xFC\x4E\x2B\xA9\1", 5);
}

static void raid_0_9(long long first, long long size)
{
    put(first + (size & ~65535LL) - 65536, "\xFC\x4E\x2B\xA9", 4);
}

static void raid_1_2(long long first, long long size)
{
    (void)size;
    put(first + 4096, "\xFC\x4E\x2B\xA9\1", 5);
}

static void raid_1_1(long long first, long long size)
{
    (void)size;
    put(first, "\xFC\x4E\x2B\xA9\1", 5);
}

/* ZFS: four labels of 256 KiB, two at each end; a list of names begins 16 KiB
 * into each, the first one is "version". One of the last two is left. */
static void zfs_last(long long first, long long size)
{
    put(first + size / 262144 * 262144 - 262144 + 16384,
        "\1\1\0\0\0\0\0\0\0\0\0\1\0\0\0\44\0\0\0\40\0\0\0\7version\0", 32);
}

static void zfs_third(long long first, long long size)
{
    zfs_last(first, size - 262144);
}

/* LUKS2: the second header, behind the first one and its list of 16 KiB. */
static void luks_second(long long first, long long size)
{
    (void)size;
    put(first + 16384, "SKUL\xBA\xBE\0\2", 8);
}

/* Near misses: a block too early. */
static void luks_elsewhere(long long first, long long size)
{
    luks_second(first - 512, size);
}

static void zfs_elsewhere(long long first, long long size)
{
    zfs_last(first - 512, size);
}

/* LVM: a label in one of the first four sectors. */
static void lvm(long long first, long long size)
{
    (void)size;
    put(first + 512, "LABELONE\1\0\0\0\0\0\0\0", 16);
    put(first + 536, "LVM2 001", 8);
}

/* ext4: the superblock at byte 1024. */
static void ext4(long long first, long long size)
{
    put_number(first + 1024, 4096, 4);
    put_number(first + 1028, (uint64_t)size / 4096, 4);
    put_number(first + 1048, 2, 4);
    put_number(first + 1056, 32768, 4);
    put_number(first + 1064, 2048, 4);
    put(first + 1080, "\x53\xEF", 2);
    put_number(first + 1100, 1, 4);
    put_number(first + 1120, 0x40, 4);
    put(first + 1144, "HARBOUR", 7);
}

/* ISO 9660: a primary descriptor in sector 16. */
static void disc(long long first, long long size)
{
    put(first + 32768, "\1CD001\1", 7);
    put(first + 32768 + 40, "BUOYSETUP                       ", 32);
    put_number(first + 32768 + 80, (uint64_t)size / 2 / 2048, 4);
    put(first + 32768 + 2048,
        "\xFF"
        "CD001\1",
        7);
}

static void code(long long first, long long size)
{
    (void)size;
    put(first + 5 * 512, "\xEB\x10start-up code of a loader", 27);
}

static const char zeros[512];

static void erase_copy(void)
{
    put(SIZE - 512, zeros, 512);
}

static void erase_first(void)
{
    put(512, zeros, 512);
}

static void damage_copy(void)
{
    put(SIZE - 512, "no header stands here", 21);
}

static void damage_first(void)
{
    put(512, "no header stands here", 21);
}

static void nothing(void)
{
}

/* On a device renewed as it says, something else, and then a change: what
 * refuses it, or what is lost by it; NULL: nothing. */
struct row {
    const char *renewed;
    void (*damage)(void);
    void (*living)(long long first, long long size); /* of the whole */
    const char *change, *refused, *lost;
};

#define GPT "--table gpt --part 100MB --label WAVES"
#define MBR "--table mbr --part 100MB --label WAVES"
#define BARE "--table mbr --part 100MB --bare"
#define TO_GPT "convert file:$/a.img --table gpt"

static const struct row rows[] = {
    {GPT, erase_copy, NULL, "mend file:$/a.img", NULL, NULL},
    {GPT, erase_first, NULL, "mend file:$/a.img", NULL, NULL},
    {GPT, damage_copy, NULL, "mend file:$/a.img", NULL,
     "1 block of unknown content, the first is block 524287"},
    {GPT, damage_first, NULL, "mend file:$/a.img", NULL,
     "1 block of unknown content, the first is block 1"},
    {GPT, damage_copy, raid_1_0, "mend file:$/a.img", "RAID member", NULL},
    {GPT, damage_copy, raid_0_9, "mend file:$/a.img", "RAID member", NULL},
    {GPT, damage_first, raid_1_2, "mend file:$/a.img", "RAID member", NULL},
    {GPT, damage_first, lvm, "mend file:$/a.img", "LVM member", NULL},
    {GPT, damage_copy, zfs_last, "mend file:$/a.img", "ZFS member", NULL},
    {GPT, damage_copy, zfs_third, "mend file:$/a.img", "ZFS member", NULL},
    {GPT, damage_copy, zfs_elsewhere, "mend file:$/a.img", NULL,
     "1 block of unknown content"},
    {GPT, damage_first, luks_second, "mend file:$/a.img", "LUKS, encrypted",
     NULL},
    {GPT, damage_first, luks_elsewhere, "mend file:$/a.img", NULL,
     "2 blocks of unknown content"},
    {GPT, damage_copy, raid_1_0, "mend file:$/a.img --anyway", NULL,
     "RAID member"},
    {GPT, nothing, NULL, "convert file:$/a.img --table mbr", NULL,
     "the names of 1 partition, for which"},
    {GPT " --attributes gpt-hidden", nothing, NULL,
     "convert file:$/a.img --table mbr", NULL, "the attributes of 1 partition"},
    {MBR, nothing, zfs_last, TO_GPT, "ZFS member", NULL},
    {MBR, nothing, NULL, TO_GPT, NULL, NULL},
    {MBR, nothing, raid_1_0, TO_GPT, "RAID member", NULL},
    {MBR, nothing, lvm, TO_GPT, "LVM member", NULL},
    {MBR, nothing, code, TO_GPT, "start-up code", NULL},
    {MBR, nothing, code, TO_GPT " --anyway", NULL, "start-up code"},
    {BARE, nothing, ext4, TO_GPT, "ext4 \"HARBOUR\"", NULL},
    {BARE, nothing, disc, "draft file:$/a.img --keep all --part rest",
     "\"BUOYSETUP\"", NULL},
    {MBR, nothing, raid_1_0, "relabel file:$/a.img --label NEXT", "RAID member",
     NULL},
    {MBR, nothing, NULL, "relabel file:$/a.img --label NEXT", NULL, NULL},
    {MBR, nothing, NULL, "draft file:$/a.img --keep all --part rest", NULL,
     NULL},
    {"--table none --volume ext4", nothing, NULL,
     "draft file:$/a.img --keep all --part rest", "nothing would stay", NULL},
    {"--table none --volume fat32", nothing, NULL,
     "relabel file:$/a.img --label NEXT", NULL, NULL},
};

static void lay(const struct row *row)
{
    char line[300];

    sh("cd $FOLDER && rm -rf a.img state && truncate -s 256M a.img", 0);
    expect("assess file:$/a.img --json", 0, "tag");
    take_tag();
    snprintf(line, sizeof line,
             "renew file:$/a.img %s --no-rewind --consent %s", row->renewed,
             tag);
    expect(line, 0, "Proved");
    image = fopen(in_folder("a.img"), "r+b");
    assert_non_null(image);
    row->damage();
    if (row->living != NULL)
        row->living(0, SIZE);
    fclose(image);
    sh("cd $FOLDER && cp --sparse=always a.img before.img", 0);
}

/* assess says "nothing is lost" of a mend where the ledger is empty, and offers
 * none that would be refused. */
static bool is_offered_as_it_is(const struct row *row)
{
    bool empty = row->refused == NULL && row->lost == NULL, offered;

    if (strncmp(row->change, "mend", 4) != 0)
        return true;
    expect("assess file:$/a.img --json", 0, "\"mend\": \"gpt\"");
    if ((strstr(p.out, "Nothing is lost") != NULL) != empty ||
        (strstr(p.out, "refused as it stands") != NULL) !=
            (row->refused != NULL || strstr(row->change, "--anyway") != NULL))
        return false;
    expect("assess file:$/a.img", 0, "");
    offered = strstr(p.out, "trueslate mend") != NULL;
    return row->refused == NULL || !offered;
}

/* Refused, with nothing changed; or shown, and done when there is consent. */
static bool is_as_it_should(const struct row *row)
{
    char line[300];

    (void)tool_run(&p, row->change);
    if (row->refused != NULL)
        return p.code == 3 && strstr(p.err, row->refused) != NULL &&
               shell_run(&shell, "cmp $FOLDER/a.img $FOLDER/before.img") == 0;
    if (row->lost != NULL && strstr(p.out, row->lost) == NULL)
        return false;
    if (row->lost == NULL && strstr(p.out, "Is lost    nothing") == NULL)
        return false;
    if (strncmp(row->change, "draft", 5) == 0)
        return p.code == 0;
    snprintf(line, sizeof line, "%s --consent %s", row->change, tag);
    return p.code == 3 && tool_run(&p, line) == 0;
}

static void what_lives_is_not_written_over(void **state)
{
    int wrong = 0;

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        lay(&rows[i]);
        if (is_offered_as_it_is(&rows[i]) && is_as_it_should(&rows[i]))
            continue;
        print_message("row %zu: %s\ncode %d %s%s\n", i, rows[i].change, p.code,
                      p.err, p.out);
        wrong++;
    }
    assert_int_equal(wrong, 0);
}

/* Members and containers, each over the whole device, before every kind of
 * change. */
static void members_are_left_to_their_own_system(void **state)
{
    static void (*const members[])(long long, long long) = {
        raid_1_0, raid_0_9, raid_1_1, raid_1_2, lvm, zfs_last, luks_second};
    static const char *const changes[] = {
        TO_GPT, "relabel file:$/a.img --label NEXT",
        "draft file:$/a.img --keep all --part rest"};

    (void)state;
    for (size_t i = 0; i < sizeof members / sizeof members[0]; i++) {
        for (size_t j = 0; j < 3; j++) {
            const struct row row = {MBR,        nothing,  members[i],
                                    changes[j], "member", NULL};

            lay(&row);
            if (!is_as_it_should(&row))
                print_message("%zu, %s\ncode %d %s\n", i, changes[j], p.code,
                              p.err);
            assert_true(is_as_it_should(&row));
        }
    }
}

/* What an entry names no more is told before it goes. */
static void a_deleted_volume_is_told(void **state)
{
    const struct row row = {"--table mbr --part 100MB --part rest --label LOG",
                            nothing,
                            NULL,
                            NULL,
                            NULL,
                            NULL};

    (void)state;
    lay(&row);
    image = fopen(in_folder("a.img"), "r+b");
    put(462, "\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0", 16);
    fclose(image);
    expect("draft file:$/a.img --keep all --part rest", 0,
           "FAT32 \"LOG\", 167 MB at block 198656, which no entry names");
    expect("draft file:$/a.img", 0, "which no entry names");
    expect("draft file:$/a.img --json", 0, "unlisted-volume");
    check_schema("draft");
    assert_int_equal(number("result.lost.unlisted.0.first"), 198656);
    assert_int_equal(number("result.lost.unknown_blocks"), 0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_lives_is_not_written_over),
        cmocka_unit_test(members_are_left_to_their_own_system),
        cmocka_unit_test(a_deleted_volume_is_told),
    };

    setenv("XDG_STATE_HOME", in_folder("state"), 1);
    setenv("NO_COLOR", "1", 1);
    return cmocka_run_group_tests_name("ledger", tests, NULL, clean);
}
