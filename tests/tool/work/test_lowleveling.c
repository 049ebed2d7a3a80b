/* SPDX-License-Identifier: MIT */
/* Low-level format by the tool: the story of an old winch disk, that of a disk
 * out of an array, and what is refused. */
#include "tool_case.h"

static const char sticker[] = "31/2/1870,77/0/9020,118/3/402,204/1/5511,"
                              "204/1/8804,266/0/77,311/2/6140,390/3/3300,"
                              "455/1/9950,502/0/2710,588/2/4410";

static void lowlevel(const char *name, const char *options, int code,
                     const char *words)
{
    char line[600];

    snprintf(line, sizeof line, "lowlevel sim:%s %s --bench $/bench", name,
             options);
    expect(line, code, words);
}

static const char *tag_of(const char *name)
{
    char line[100];
    json_t *value;

    snprintf(line, sizeof line, "lowlevel sim:%s --json --bench $/bench", name);
    assert_int_equal(tool_run(&p, line), 0);
    check_schema("lowlevel");
    value = printed("device.tag");
    snprintf(tag, sizeof tag, "%s", json_string_value(value));
    json_decref(value);
    return tag;
}

static void agreed(const char *name, const char *options, int code,
                   const char *words)
{
    char all[500];

    snprintf(all, sizeof all, "%s --consent %s", options, tag_of(name));
    lowlevel(name, all, code, words);
}

/* The bench's time is short: nobody waits for revolutions. */
static void lay_winch(const char *more)
{
    char line[700];

    snprintf(line, sizeof line,
             "/usr/bin/python3 - <<'X'\n"
             "import json\n"
             "d = json.load(open('%s/share/bench/winch-disk-2.json'))\n"
             "d['tracks']['clock'] = 1000000\n"
             "d.update(json.loads('%s'))\n"
             "import os\n"
             "os.makedirs('%s/one', exist_ok=True)\n"
             "json.dump(d, open('%s/one/winch-disk-2.json', 'w'))\nX",
             getenv("SOURCE"), more, in_folder(""), in_folder(""));
    sh(line, 0);
    expect("bench $/one --bench $/bench", 0, "");
}

static void what_is_below_is_shown(void **state)
{
    (void)state;
    lowlevel("winch-disk-2", "", 0, "615 cylinders x 4 heads x 17 sectors");
    lowlevel("winch-disk-2", "", 0, "20.4 MiB in binary");
    lowlevel("array-disk-520", "", 0, "512 bytes, if the device takes it");
    lowlevel("array-disk-pi", "", 0, "protection information; a low-level");
    lowlevel("station-nvme-1", "", 0, "4096 bytes and 64 beside them");
    lowlevel("logger-card-3", "", 0, "cards have no");
    lowlevel("shore-disk-3", "", 0, "nothing below its blocks");
    lowlevel("tide-gauge-8", "", 0, "nothing below its blocks");
    lowlevel("winch-disk-2", "--drive drum-20", 3, "To agree, add");
    lowlevel("winch-disk-2", "--drive drum-20 --consent TARUK-47", 3,
             "nothing was written");
}

static void bad_words_are_told_what_was_expected(void **state)
{
    static const struct {
        const char *options, *words;
    } rows[] = {
        {"--drive drum-21", "615x4x17"},
        {"--drive 615x4", "615x4x17"},
        {"--drive 0x4x17", "1 to 16777215 cylinders"},
        {"--drive 615x256x17", "1 to 255 heads"},
        {"--drive drum-20 --interleave 17", "one less than the sectors"},
        {"--drive drum-20 --interleave fast", "a number, or measure"},
        {"--drive drum-20 --spares 17", "fewer spare sectors"},
        {"--drive drum-20 --split 615", "a cylinder from 1 to 614"},
        {"--drive drum-20 --split 0", "a cylinder from 1 to 614"},
        {"--drive drum-20 --precompensation 616", "of the drive on"},
        {"--drive drum-20 --burst 300", "0 to 255 bits"},
        {"--drive drum-20 --sticker 31", "cylinder/head/byte"},
        {"--drive drum-20 --sticker 1/2/3/4", "cylinder/head/byte"},
        {"--drive drum-20 --sticker 615/0/0", "is not on this drive"},
        {"--drive drum-20 --sticker 1/4/0", "is not on this drive"},
        {"--drive drum-20 --sticker 1/3/10416", "is not on this drive"},
        {"--drive drum-20 --blocks 100", "128 to 8192"}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++)
        lowlevel("winch-disk-2", rows[i].options, 2, rows[i].words);
    sh("printf '1/2/3\\nabc\\n' > $FOLDER/list", 0);
    lowlevel("winch-disk-2", "--drive drum-20 --sticker $/list", 2,
             "line 2: expected cylinder/head/byte");
    lowlevel("winch-disk-2", "--drive drum-20 --sticker $/none", 4,
             "expected a file, or");
    lowlevel("array-disk-520", "--drive drum-20", 2, "expected --blocks");
    lowlevel("station-nvme-1", "--blocks 1024", 2, "512, 4096");
    lowlevel("logger-card-3", "--same", 4, "trueslate erase");
    lowlevel("shore-disk-3", "--blocks 4096", 4, "attached directly");
}

/* From a drawer to a disk that starts: sectors, interleave, sticker, partition,
 * volume, start-up files. */
static void an_old_winch_disk_is_made_to_work(void **state)
{
    char line[500];

    (void)state;
    lay_winch("{}");
    expect("assess sim:winch-disk-2 --bench $/bench", 0,
           "made by another controller");
    expect("assess sim:winch-disk-2 --bench $/bench", 0, "trueslate lowlevel");
    snprintf(line, sizeof line,
             "--drive drum-20 --interleave measure --sticker "
             "%s/share/winch/sticker.txt --failed $/bad --evidence $/ticket "
             "--json",
             getenv("SOURCE"));
    agreed("winch-disk-2", line, 0, "\"watch\"");
    check_schema("lowlevel");
    assert_int_equal(number("becomes.interleave"), 3);
    assert_int_equal(number("seen.known"), 11);
    assert_int_equal(number("seen.new"), 3);
    expect("evidence $/ticket.html", 0, "as it was written");
    snprintf(line, sizeof line, "--drive drum-20 --interleave 3 --sticker %s",
             sticker);
    agreed("winch-disk-2", line, 5,
           "3 of 14 bad sectors are new and came back");
    snprintf(line, sizeof line,
             "renew sim:winch-disk-2 --for vintage --cylinders 4x17 --bad-list "
             "$/bad --files %s/share/winch/start --files-first "
             "WINCHIO.SYS,WINCHOS.SYS --active --consent %s --bench $/bench",
             getenv("SOURCE"), tag);
    expect(line, 0, "28672 bytes in bad sectors");
    expect(line, 0, "in 2 system files");
    strcat(line, " --json");
    expect(line, 0, "\"totals\"");
    check_schema("renew");
    assert_int_equal(number("totals.bytes"),
                     number("totals.bad") + number("totals.system") +
                         number("totals.files") + number("totals.free"));
    expect("assess sim:winch-disk-2 --bench $/bench", 0, "FAT16");
}

/* Its power fails at a cylinder: assess says what it needs, and it is done. */
static void a_cut_format_is_told_and_done_again(void **state)
{
    (void)state;
    lay_winch("{\"erases\": {\"ways\": [\"format\"], "
              "\"power_cut_at_step\": 300}}");
    agreed("winch-disk-2", "--drive drum-20 --interleave 3", 4,
           "It needs a low-level format again");
    sh("true", 0);
    expect("unplug winch-disk-2 --bench $/bench", 0, "");
    expect("plug winch-disk-2 --bench $/bench", 0, "");
    expect("assess sim:winch-disk-2 --bench $/bench", 0,
           "low-level format again");
    agreed("winch-disk-2", "--drive drum-20 --interleave 3", 0, "Formatted");
    agreed("winch-disk-2", "--same --no-look", 0, "is not known");
}

/* Two logical drives, with a spare sector on each track. */
static void a_drive_is_split(void **state)
{
    char line[500];

    (void)state;
    lay_winch("{}");
    snprintf(line, sizeof line,
             "--drive drum-20 --interleave 3 --spares 1 --split 300 --sticker "
             "%s",
             sticker);
    agreed("winch-disk-2", line, 0, "its size is another one");
    lowlevel("winch-disk-2/1", "", 0, "20160 blocks of 512 bytes");
    lowlevel("winch-disk-2", "", 0, "11 noted since");
    lowlevel("winch-disk-2", "", 0, "31/2/1839"); /* where its sector begins */
    lowlevel("winch-disk-2", "--reassign 100", 3, "What these blocks hold");
    lowlevel("winch-disk-2", "--reassign 19200", 2, "expected");
    lowlevel("winch-disk-2", "--reassign 1 --drive drum-20", 2,
             "without --drive");
    agreed("winch-disk-2", "--reassign 100,7000", 0,
           "2 blocks were put elsewhere");
    agreed("winch-disk-2", "--json", 0, "\"listed_since\"");
    check_schema("lowlevel");
    assert_int_equal(number("listed_since.count"), 13);
    lowlevel("array-disk-pi", "--reassign 5 --consent JALUF-53", 4,
             "knows no such command");
}

/* 520 to 512, protection information off, and other command sets. */
static void blocks_of_newer_disks_get_another_size(void **state)
{
    (void)state;
    assert_int_equal(fresh_bench(NULL), 0);
    expect("assess sim:array-disk-520 --bench $/bench", 0, "--blocks 512");
    agreed("array-disk-520", "--blocks 4097", 4, "nothing was formatted");
    agreed("array-disk-520", "--blocks 512 --json", 0, "\"formatted\": true");
    check_schema("lowlevel");
    expect("assess sim:array-disk-520 --bench $/bench", 0,
           "595092773 blocks of 512 bytes");
    expect("assess sim:array-disk-pi --json --bench $/bench", 0,
           "\"low-level\"");
    agreed("array-disk-pi", "--same", 0, "Formatted");
    expect("assess sim:array-disk-pi --json --bench $/bench", 0,
           "\"offers\": []");
    agreed("station-nvme-1", "--blocks 512", 0, "1000215216 blocks");
    lay_device("station-nvme-1",
               "{\"erases\": {\"ways\": [\"format\"], \"formats_all\": true}, "
               "\"units\": [{\"blocks\": 8000, \"block_bytes\": 4096}, "
               "{\"blocks\": 8000, \"block_bytes\": 4096}]}");
    agreed("station-nvme-1", "--blocks 512", 2, "all 2 namespaces");
    agreed("station-nvme-1", "--blocks 512 --whole-drive", 0,
           "every namespace of this drive");
    agreed("shore-disk-8", "--blocks 4096", 0, "blocks of 4096 bytes");
    expect("assess sim:shore-disk-8 --bench $/bench", 0,
           "blocks of 4096 bytes");
}

/* What is advised names the drive that is there, and is taken. */
static void the_printed_format_is_of_this_drive(void **state)
{
    (void)state;
    assert_int_equal(fresh_bench(state), 0);
    lay_device("winch-disk-2",
               "{\"blocks\": 83640, \"tracks\": {\"cylinders\": 820, "
               "\"heads\": 6, \"sectors\": 17, \"revolutions\": 3600, "
               "\"track_bytes\": 10416, \"minutes\": 0, \"clock\": 240}}");
    expect("lowlevel sim:winch-disk-2", 0, "--drive 820x6x17");
    sh_answers("cd $FOLDER && : >list && command=$($TOOL lowlevel "
               "sim:winch-disk-2 | grep -- --drive | sed \"s|trueslate|$TOOL|; "
               "s|FILE|list|\") && eval \"$command\"",
               3, "To agree");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_is_below_is_shown),
        cmocka_unit_test(bad_words_are_told_what_was_expected),
        cmocka_unit_test(an_old_winch_disk_is_made_to_work),
        cmocka_unit_test(a_cut_format_is_told_and_done_again),
        cmocka_unit_test(a_drive_is_split),
        cmocka_unit_test(blocks_of_newer_disks_get_another_size),
        cmocka_unit_test(the_printed_format_is_of_this_drive),
    };

    return cmocka_run_group_tests_name("lowleveling", tests, fresh_bench,
                                       clean);
}
