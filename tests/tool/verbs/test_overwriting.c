/* SPDX-License-Identifier: MIT */
/* Overwriting by the tool: what it says ahead and afterwards, on devices of
 * every kind that fail in every way, and gone on with when it was cut. */
#include <signal.h>

#include "tool_case.h"
#include "turns.h"

#define BLOCKS 24576u

/* The devices by which they are attached. */
static const char *const devices[] = {"tide-gauge-7", "disk-sleepy",
                                      "shore-disk-1", "logger-card-3",
                                      "station-nvme-1"};

#define DEVICES (sizeof devices / sizeof devices[0])

/* A small one of them, with these members besides. */
static void lay_members(size_t device, const char *members)
{
    char all[700];

    snprintf(all, sizeof all,
             "{\"blocks\": %u, \"native_blocks\": 0, \"factory_blocks\": 0, "
             "\"bytes_per_second\": 0, \"unit_attentions\": 0, "
             "\"busy_commands\": 0, \"becoming_ready\": 0%s%s}",
             BLOCKS, members[0] == '\0' ? "" : ", ", members);
    lay_device(devices[device], all);
}

/* The same; its tag is taken. */
static void lay(size_t device, const char *members)
{
    char line[200];

    lay_members(device, members);
    snprintf(line, sizeof line, "assess sim:%s --json", devices[device]);
    expect(line, 0, "\"tag\"");
    take_tag();
}

static void overwrite(const char *more, int code, const char *words)
{
    char line[400];

    snprintf(line, sizeof line, "overwrite %s --consent %s %s", tag, tag, more);
    expect(line, code, words);
}

/* Does every block of the device hold this byte? */
static void expect_all(size_t device, const char *byte)
{
    char line[400];

    snprintf(line, sizeof line,
             "head -c %u $FOLDER/bench/%s.blocks | tr -d '\\%s' | wc -c | grep "
             "-qx 0",
             BLOCKS * 512, devices[device], byte);
    sh(line, 0);
}

static void every_kind_of_device_is_overwritten(void **state)
{
    (void)state;
    for (size_t i = 0; i < DEVICES; i++) {
        lay(i, "\"content\": [{\"at\": 5000000, \"text\": \"TIDE LOG\"}]");
        overwrite("--with random,AA", 0, "no block failed in 2 rounds");
        assert_non_null(strstr(p.out, "holds neither table nor volume"));
        expect_all(i, "252");
        overwrite("--json", 0, "trueslate.overwrite/1");
        check_schema("overwrite");
        assert_int_equal(number("overwritten.rounds"), 1);
        assert_int_equal(number("overwritten.failed_blocks"), 0);
        expect_all(i, "000");
    }
}

/* The list is exact, the verdict plain, the exit code its own; a later draft
 * takes the list. */
static void what_fails_is_listed(void **state)
{
    static const char *const kinds[] = {"read", "write"};
    char members[400], line[300];

    (void)state;
    for (size_t i = 0; i < DEVICES * 2; i++) {
        snprintf(members, sizeof members,
                 "\"content\": [], \"faults\": [{\"kind\": \"%s\", \"first\": "
                 "9000, \"blocks\": 5}, {\"kind\": \"%s\", \"first\": 20480, "
                 "\"blocks\": 1}]",
                 kinds[i % 2], kinds[i % 2]);
        lay(i / 2, members);
        overwrite("--failed $/failed", 5, "do not trust this device");
        assert_non_null(strstr(p.out, "6 blocks failed"));
        assert_non_null(strstr(p.out, "but for 6 blocks"));
        assert_null(strstr(p.out, "every one is as drafted"));
        assert_non_null(strstr(p.out, "9000-9004, 20480"));
        sh("grep -v '^#' $FOLDER/failed | tr '\\n' ' ' | grep -qx "
           "'9000-9004 20480 '",
           0);
        sh("echo mine > $FOLDER/mine", 0);
        overwrite("--failed $/mine", 2, "mine");
        overwrite("--json", 5, "");
        assert_int_equal(number("overwritten.failed_blocks"), 6);
        assert_int_equal(number(i % 2 == 0 ? "overwritten.unreadable"
                                           : "overwritten.unwritable"),
                         6);
        snprintf(line, sizeof line,
                 "overwrite %s --bad-list $/failed --consent %s", tag, tag);
        expect(line, 0, "6 blocks that are bad are left");
    }
}

/* A volume comes around what failed, in the same command. */
static void a_renewal_goes_around_what_fails(void **state)
{
    char line[200];

    (void)state;
    lay(0, "\"content\": [], \"faults\": [{\"kind\": \"write\", \"first\": "
           "9000, \"blocks\": 5}]");
    snprintf(line, sizeof line, "renew %s --overwrite random --consent %s", tag,
             tag);
    expect(line, 5, "5 blocks could not be overwritten");
    assert_non_null(strstr(p.out, "has one"));
    assert_non_null(strstr(p.out, "5 blocks failed"));
    snprintf(line, sizeof line, "assess %s", tag);
    expect(line, 0, "FAT");
}

/* Devices that lie about their size, in four ways: what was lost is found. */
static void liars_are_found_out(void **state)
{
    static const char *const ways[] = {"wrap", "drop", "zeros", "noise"};

    (void)state;
    for (size_t i = 0; i < 4; i++) {
        char members[200];

        snprintf(members, sizeof members,
                 "\"content\": [], \"true_blocks\": 16000, \"beyond\": \"%s\"",
                 ways[i]);
        lay(0, members);
        overwrite("--with random", 5, "do not trust this device");
        if (i == 0)
            assert_non_null(strstr(p.err, "block 16000 shows in block 0"));
    }
    lay(0, "\"content\": [], \"true_blocks\": 16000, \"beyond\": \"wrap\"");
    overwrite("--with AA", 5, "up to block 16");
    /* near miss: what is slow is no liar */
    lay(0,
        "\"content\": [], \"faults\": [{\"kind\": \"slow\", \"first\": 9000, "
        "\"blocks\": 64, \"bytes_per_second\": 200000}]");
    overwrite("--with random", 0, "no block failed");
}

/* The power goes, or the plug, at any place: it goes on from there by the same
 * command, or by the draft that is kept. */
static void what_is_cut_goes_on(void **state)
{
    char members[300], line[300];
    uint32_t cut = 0;

    (void)state;
    sh("rm -rf $FOLDER/state", 0);
    for (unsigned n = 1; n < 60; n += 3) {
        size_t device = n % DEVICES;

        if (!turn_of(n / 3, 4))
            continue;
        snprintf(members, sizeof members,
                 "\"content\": [], \"%s\": %u, \"torn_write\": true",
                 n % 2 == 0 ? "power_cut_in_write" : "drop_after_commands",
                 n % 2 == 0 ? n : 300 + 3 * n);
        lay(device, "\"content\": []");
        lay_members(device, members);
        snprintf(line, sizeof line,
                 "overwrite %s --with random,55 --consent "
                 "%s",
                 tag, tag);
        tool_run(&p, line);
        if (p.code != 0) {
            assert_int_equal(p.code, 4);
            cut++;
            snprintf(line, sizeof line, "plug %s", devices[device]);
            tool_run(&p, line);
            snprintf(line, sizeof line,
                     "sed -i 's/\"power_cut_in_write\": "
                     "*[0-9]*/\"power_cut_in_write\": 0/; "
                     "s/\"drop_after_commands\": "
                     "*[0-9]*/\"drop_after_commands\": 0/' "
                     "$FOLDER/bench/%s.json",
                     devices[device]);
            sh(line, 0);
            overwrite("--with random,55", 0, "no block failed");
        }
        expect_all(device, "125");
        sh("! ls $FOLDER/state/trueslate/*.resume.json 2>/dev/null", 0);
    }
    assert_true(cut > 10 / (turns_are_all() ? 1u : 4u));
}

static bool has_begun(void)
{
    return stick_is_marked();
}

/* Ctrl-C: what is done is not done again. */
static void an_interrupted_one_goes_on(void **state)
{
    char line[200];

    (void)state;
    sh("rm -rf $FOLDER/state", 0);
    lay(0, "\"content\": [], \"bytes_per_second\": 6000000");
    snprintf(line, sizeof line, "overwrite %s --with random,55 --consent %s",
             tag, tag);
    p.interrupt_when = has_begun;
    p.signal = SIGTERM;
    tool_run(&p, line);
    p.interrupt_when = NULL;
    p.signal = 0;
    assert_int_equal(p.code, 6);
    assert_non_null(strstr(p.err, "interrupted after"));
    snprintf(line, sizeof line, "assess %s", tag);
    expect(line, 0, "unfinished");
    overwrite("--with 55", 3, "with another goal is unfinished");
    overwrite("--with random,55", 0, "no block failed in 2 rounds");
    expect_all(0, "125");
    sh("! ls $FOLDER/state/trueslate/*.resume.json 2>/dev/null", 0);
}

static bool partition_is_marked(void)
{
    return system("tail -c +1048577 \"$FOLDER/bench/tide-gauge-7.blocks\" | "
                  "head -c 16 | grep -q 'TRUE SLATE MARK2'") == 0;
}

/* Of a partition, which bears the mark meanwhile, as well. */
static void an_interrupted_partition_goes_on(void **state)
{
    char line[200];

    (void)state;
    sh("rm -rf $FOLDER/state", 0);
    lay(0,
        "\"bytes_per_second\": 6000000, \"content\": [{\"at\": 446, \"hex\": "
        "\"002021000cfeffff00080000204e0000\"}, {\"at\": 510, \"hex\": "
        "\"55aa\"}]");
    sh("cp $FOLDER/bench/tide-gauge-7.blocks $FOLDER/was", 0);
    snprintf(line, sizeof line,
             "overwrite %s --partition 1 --with random,55 --consent %s", tag,
             tag);
    p.interrupt_when = partition_is_marked;
    p.signal = SIGTERM;
    tool_run(&p, line);
    p.interrupt_when = NULL;
    p.signal = 0;
    assert_int_equal(p.code, 6);
    snprintf(line, sizeof line, "assess %s --json", tag);
    expect(line, 0, "half-overwritten");
    overwrite("--partition 1 --with random,55", 0, "Goes on");
    assert_non_null(strstr(p.out, "no block failed in 2 rounds"));
    sh("cmp -n 1048576 $FOLDER/was $FOLDER/bench/tide-gauge-7.blocks", 0);
    sh("tail -c +1048577 $FOLDER/bench/tide-gauge-7.blocks | head -c 10240000 "
       "| tr -d U | wc -c | grep -qx 0",
       0);
    sh("! ls $FOLDER/state/trueslate/*.json 2>/dev/null", 0);
}

static void a_partition_or_what_none_holds(void **state)
{
    char line[300];

    (void)state;
    assert_int_equal(fresh_bench(state), 0);
    expect("assess sim:winch-disk --json", 0, "\"tag\"");
    take_tag();
    sh("cp $FOLDER/bench/winch-disk.blocks $FOLDER/was", 0);
    overwrite("--unheld --with AA", 0, "no block failed");
    sh("cmp -n 512 $FOLDER/was $FOLDER/bench/winch-disk.blocks", 0);
    expect("assess sim:winch-disk", 0, "WINCH");
    overwrite("--partition 1", 0, "no block failed");
    sh("cmp -n 512 $FOLDER/was $FOLDER/bench/winch-disk.blocks", 0);
    expect("assess sim:winch-disk", 0, "empty partition");
    overwrite("--partition 2", 2, "there is no partition 2");
    snprintf(line, sizeof line,
             "draft %s --empty 1 --overwrite 3xrandom,zero --read-back all "
             "--discard first --json",
             tag);
    expect(line, 0, "\"overwrite\"");
    check_schema("draft");
}

/* One line says what was expected. */
static void bad_words_are_refused(void **state)
{
    static const struct {
        const char *line, *words;
    } cases[] = {
        {"overwrite sim:winch-disk --with ones", "expected zero, random"},
        {"overwrite sim:winch-disk --with zero,", "expected zero, random"},
        {"overwrite sim:winch-disk --with 0xzero", "expected zero, random"},
        {"overwrite sim:winch-disk --with 65xzero", "64 rounds at most"},
        {"overwrite sim:winch-disk --with A", "two hexadecimal digits"},
        {"overwrite sim:winch-disk --with GG", "two hexadecimal digits"},
        {"overwrite sim:winch-disk --with xzero", "expected zero, random"},
        {"overwrite sim:winch-disk --with ''", "expected zero, random"},
        {"overwrite sim:winch-disk --read-back some", "last, all or none"},
        {"overwrite sim:winch-disk --discard maybe", "first or last"},
        {"overwrite sim:winch-disk --partition 0", "a number, from 1"},
        {"overwrite sim:winch-disk --partition 1 --unheld", "not both"},
        {"draft sim:winch-disk --empty 1", "expected --overwrite ROUNDS"},
        {"draft sim:winch-disk --read-back all", "expected --overwrite"},
        {"renew sim:winch-disk --part rest --empty 1 --overwrite zero",
         "without new ones beside it"},
    };

    (void)state;
    assert_int_equal(fresh_bench(state), 0);
    for (size_t i = 0; i < sizeof cases / sizeof cases[0]; i++) {
        tool_run(&p, cases[i].line);
        if (p.code == 0 || strstr(p.err, cases[i].words) == NULL)
            print_message("%s\n%d %s\n", cases[i].line, p.code, p.err);
        assert_true(p.code == 2 || p.code == 7);
        assert_non_null(strstr(p.err, cases[i].words));
    }
}

/* Where it is slow, and what cannot be read; as a picture, a list, and for
 * programs. */
static void a_scan_tells_of_regions(void **state)
{
    (void)state;
    lay(0, "\"content\": [], \"faults\": [{\"kind\": \"slow\", \"first\": "
           "8192, \"blocks\": 4096, \"bytes_per_second\": 2000000}, {\"kind\": "
           "\"read\", \"first\": 20000, \"blocks\": 2}]");
    tool_run(&p,
             "scan sim:tide-gauge-7 --picture $/map.svg --failed $/scanned");
    assert_int_equal(p.code, 4);
    assert_non_null(strstr(p.err, "2 blocks cannot be read"));
    assert_non_null(strstr(p.out, "20000-20001"));
    assert_non_null(strstr(p.out, "Slow"));
    sh("grep -qx 20000-20001 $FOLDER/scanned && grep -q '</svg>' "
       "$FOLDER/map.svg",
       0);
    expect("scan sim:tide-gauge-7 --json", 4, "");
    check_schema("scan");
    assert_int_equal(number("unreadable"), 2);
    assert_in_range(number("pace.slow.0.first"), 6144, 10240);
    expect("scan sim:tide-gauge-7 --from 20480", 0, "4096 blocks were read");
    expect("scan sim:tide-gauge-7 --from 24576", 2, "a block of the device");
}

/* Several side by side, each with its verdict. */
static void several_are_overwritten(void **state)
{
    (void)state;
    assert_int_equal(fresh_bench(state), 0);
    expect("assess sim:winch-disk --json", 0, "\"tag\"");
    take_tag();
    overwrite("sim:mast-camera-2 --with zero", 3, "write-protect-switch");
    expect("assess sim:winch-disk", 0, "nothing was found");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_kind_of_device_is_overwritten),
        cmocka_unit_test(what_fails_is_listed),
        cmocka_unit_test(a_renewal_goes_around_what_fails),
        cmocka_unit_test(liars_are_found_out),
        cmocka_unit_test(what_is_cut_goes_on),
        cmocka_unit_test(an_interrupted_one_goes_on),
        cmocka_unit_test(an_interrupted_partition_goes_on),
        cmocka_unit_test(a_partition_or_what_none_holds),
        cmocka_unit_test(bad_words_are_refused),
        cmocka_unit_test(a_scan_tells_of_regions),
        cmocka_unit_test(several_are_overwritten),
    };

    return cmocka_run_group_tests(tests, fresh_bench, clean);
}
