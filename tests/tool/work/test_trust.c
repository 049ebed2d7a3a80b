/* SPDX-License-Identifier: MIT */
/* Nothing is lost, and only the meant device is touched: what the tool does
 * with twins, swapped media, files in its way, closed streams, and
 * names that are meant to deceive. */
#include <stdio.h>
#include <stdlib.h>
#include <sys/stat.h>
#include <unistd.h>

#include "tool_case.h"

static void twins_are_told_apart_by_unplugging_one(void **state)
{
    static const char *const verbs[] = {"renew sim:buoy-stick-12 --consent %s",
                                        "probe sim:buoy-stick-12 --consent %s",
                                        "enact $/twin.json --consent %s"};
    char consent[16], line[160];
    json_t *value;

    (void)state;
    assert_int_equal(
        tool_run(&p, "draft sim:buoy-stick-12 -o $/twin.json --json"), 0);
    value = printed("tag");
    snprintf(consent, sizeof consent, "%s", json_string_value(value));
    json_decref(value);
    for (size_t i = 0; i < 3; i++) {
        snprintf(line, sizeof line, verbs[i], consent);
        assert_int_equal(tool_run(&p, line), 3);
        assert_non_null(strstr(p.err, "unplug one of them"));
    }
    snprintf(line, sizeof line, "assess %s", consent);
    expect(line, 3, "unplug all but one");
    assert_int_equal(tool_run(&p, "unplug buoy-stick-13"), 0);
    snprintf(line, sizeof line, verbs[2], consent);
    expect(line, 0, "Written");
}

/* Made of one of two that nothing tells apart, a draft is for the other one as
 * well once that stands alone: then its address has to be agreed to, too. */
static void a_twin_that_stands_alone_is_asked_for_by_its_address(void **state)
{
    char line[200];

    (void)state;
    lay_device("buoy-stick-12", "{\"content\": []}");
    lay_device("buoy-stick-13", "{\"content\": []}");
    assert_int_equal(tool_run(&p, "unplug buoy-stick-13"), 0);
    assert_int_equal(
        tool_run(&p, "draft sim:buoy-stick-12 -o $/one.json --json"), 0);
    take_tag();
    assert_int_equal(tool_run(&p, "unplug buoy-stick-12"), 0);
    assert_int_equal(tool_run(&p, "plug buoy-stick-13"), 0);
    snprintf(line, sizeof line, "enact $/one.json --consent %s", tag);
    if (tool_run(&p, line) != 3)
        print_message("%s", p.err);
    assert_int_equal(p.code, 3);
    assert_non_null(strstr(p.err, "@sim:buoy-stick-13"));
    snprintf(line, sizeof line,
             "enact $/one.json --consent %s@sim:buoy-stick-12", tag);
    assert_int_equal(tool_run(&p, line), 3);
    snprintf(line, sizeof line,
             "enact $/one.json --consent %s@sim:buoy-stick-13", tag);
    expect(line, 0, "Written");
}

#define GULL(serial)                                                           \
    "{\"attached\": \"usb\", \"maker\": \"Sandbank\", \"model\": \"Little "    \
    "Gull\", \"serial\": \"" serial                                            \
    "\", \"blocks\": 131072, \"block_bytes\": "                                \
    "512, \"content\": []}"

/* Two of one tag whose serial numbers differ are not each other's twins. */
static void one_tag_of_two_is_told_by_the_address(void **state)
{
    (void)state;
    lay_device("tide-gauge-7", GULL("HS-2179"));
    lay_device("tide-gauge-8", GULL("HS-2254"));
    expect("assess sim:tide-gauge-8", 0, "NULES-89");
    expect("assess sim:tide-gauge-7", 0, "NULES-89");
    expect("assess NULES-89", 3, "name it by its address");
    expect("renew sim:tide-gauge-8 --consent NULES-89", 3,
           "asks for NULES-89@sim:tide-gauge-8");
    expect("renew sim:tide-gauge-8 --consent NULES-89@sim:tide-gauge-7", 3,
           "asks for NULES-89@sim:tide-gauge-8");
    expect("renew sim:tide-gauge-8 --consent NULES-89@sim:tide-gauge-8", 0,
           "Proved");
    expect("assess sim:tide-gauge-7 --json", 0, "blank");
}

/* At any command another medium comes into the reader: it is renewed only when
 * it was what was shown. */
static void a_medium_swapped_after_the_look_is_not_written(void **state)
{
    unsigned refused = 0, held = 0, wrong = 0;

    (void)state;
    for (int at = 2; at < 420; at += 14) {
        char members[256];

        snprintf(members, sizeof members,
                 "{\"blocks\": 73728, \"content\": [{\"at\": 1048576, "
                 "\"text\": \"FIRST\"}], \"swap\": {\"at_command\": %d, "
                 "\"with\": \"buoy-stick-14\", \"told\": %s}}",
                 at, at % 4 == 0 ? "true" : "false");
        lay_device("tide-gauge-8", members);
        lay_device("buoy-stick-14",
                   "{\"blocks\": 73728, \"content\": [{\"at\": 0, \"text\": "
                   "\"SECOND\"}, {\"at\": 33554432, \"text\": \"DEEP\"}]}");
        sh("cp $FOLDER/bench/buoy-stick-14.blocks $FOLDER/second", 0);
        shell_run(&shell,
                  "rm -f $FOLDER/bench/*.state; tag=$($TOOL guards "
                  "sim:tide-gauge-8 | head -c 8); rm -f "
                  "$FOLDER/bench/*.state; $TOOL renew sim:tide-gauge-8 "
                  "--consent $tag >/dev/null 2>&1; code=$?; cmp -s "
                  "$FOLDER/bench/buoy-stick-14.blocks $FOLDER/second || exit "
                  "$((100 + code)); exit $code");
        refused += shell.code == 3 ? 1u : 0u;
        held += shell.code < 100 ? 1u : 0u;
        /* what was there when it was looked at may be renewed; later, all that
         * is left is the moment of one command */
        wrong += at > 60 && shell.code >= 100 ? 1u : 0u;
    }
    assert_true(refused > 20);
    assert_true(held > 25);
    assert_true(wrong <= 1);
}

static void files_in_the_way_are_not_replaced(void **state)
{
    (void)state;
    sh("cd $FOLDER && truncate -s 64M a.img && truncate -s 64M b.img && echo "
       "letter > letter.txt && ln -s a.img link.json && mkdir folder && mkfifo "
       "pipe",
       0);
    expect("draft file:$/a.img -o $/a.img", 2, "is the image itself");
    expect("draft file:$/a.img -o $/a.img --replace", 2, "is the image itself");
    expect("draft file:$/a.img -o $/link.json --replace", 2, "image itself");
    expect("draft file:$/a.img -o /dev/null", 2, "no regular file");
    expect("draft file:$/a.img -o $/folder --replace", 2, "no regular file");
    expect("draft file:$/a.img -o $/pipe --replace", 2, "no regular file");
    expect("draft file:$/a.img -o $/letter.txt", 2, "add --replace");
    expect("draft file:$/b.img -o $/b.json", 0, "Nothing was written");
    expect("draft file:$/a.img -o $/b.json", 2, "no earlier draft of this");
    expect("draft file:$/b.img -o $/b.json --label AGAIN", 0, "AGAIN");
    expect("assess file:$/a.img --picture $/letter.txt.svg", 0, "No table");
    expect("assess file:$/a.img --picture $/letter.txt.svg", 2, "--replace");
    expect("assess file:$/a.img --picture $/letter.txt.svg --replace", 0, "No");
    sh("cd $FOLDER && echo letter | cmp - letter.txt && test $(stat -c %s "
       "a.img) = 67108864 && ! ls *.json.?????? 2>/dev/null && test -c "
       "/dev/null",
       0);
    expect("draft file:$/a.img -o $/letter.txt --replace", 0, "Nothing was");
    expect("draft file:$/a.img -o $/no/where.json", 4, "cannot be written");
}

/* With any of the three descriptors closed nothing of what is said lands in the
 * device, and who reads the output is told that it is not whole. */
static void closed_streams_write_into_nothing(void **state)
{
    static const char *const closings[] = {
        "<&-",      ">&-",      "2>&-",        "<&- >&-",
        "<&- 2>&-", ">&- 2>&-", "<&- >&- 2>&-"};
    char line[512];

    (void)state;
    sh("cd $FOLDER && truncate -s 36M s.img && cp --sparse=always s.img "
       "blank.img",
       0);
    for (size_t i = 0; i < sizeof closings / sizeof closings[0]; i++) {
        bool out = strstr(closings[i], ">&-") != NULL &&
                   strcmp(closings[i], "2>&-") != 0 &&
                   strcmp(closings[i], "<&- 2>&-") != 0;

        snprintf(line, sizeof line,
                 "$TOOL assess file:$FOLDER/s.img %s; code=$?; cmp "
                 "$FOLDER/s.img $FOLDER/blank.img || exit 99; exit $code",
                 closings[i]);
        sh(line, out ? 1 : 0);
        snprintf(line, sizeof line,
                 "tag=$($TOOL assess file:$FOLDER/s.img --json | grep -m1 "
                 "-o '[A-Z]\\{5\\}-[0-9][0-9]'); $TOOL renew "
                 "file:$FOLDER/s.img --label S --seed "
                 "00112233445566778899aabbccddeeff --consent $tag %s; code=$?; "
                 "cp $FOLDER/s.img $FOLDER/s%zu.img; cp --sparse=always "
                 "$FOLDER/blank.img $FOLDER/s.img; exit $code",
                 closings[i], i);
        setenv("SOURCE_DATE_EPOCH", "1900000000", 1);
        sh(line, out ? 1 : 0);
        unsetenv("SOURCE_DATE_EPOCH");
        snprintf(line, sizeof line, "cmp $FOLDER/s0.img $FOLDER/s%zu.img", i);
        sh(line, 0);
    }
}

static void output_that_is_not_whole_is_an_error(void **state)
{
    static const char *const verbs[] = {"survey",
                                        "survey --json",
                                        "assess sim:tide-gauge-7",
                                        "assess sim:tide-gauge-7 --json",
                                        "draft sim:tide-gauge-7",
                                        "guards sim:tide-gauge-7 --json",
                                        "--help",
                                        "assess --help"};
    char line[256];

    (void)state;
    for (size_t i = 0; i < sizeof verbs / sizeof verbs[0]; i++) {
        snprintf(line, sizeof line, "$TOOL %s >/dev/full", verbs[i]);
        sh(line, 1);
        snprintf(line, sizeof line,
                 "set -o pipefail; { sleep 0.3; $TOOL %s; } | true", verbs[i]);
        sh(line, 1);
    }
}

/* Another program has the image: told, and no draft is left that nothing was
 * written of. */
static void a_device_taken_by_another_is_left_alone(void **state)
{
    (void)state;
    sh("cd $FOLDER && truncate -s 64M taken.img && cat >take.py <<'END'\n"
       "import fcntl, os, subprocess, sys\n"
       "taken = open('taken.img', 'r+b')\n"
       "fcntl.flock(taken, fcntl.LOCK_EX)\n"
       "tool, tag = os.environ['TOOL'], sys.argv[1]\n"
       "sys.exit(subprocess.run([tool, 'renew', 'taken.img', '--consent', "
       "tag]).returncode)\n"
       "END\n"
       "tag=$($TOOL assess taken.img | head -c 8); "
       "XDG_STATE_HOME=$FOLDER/other "
       "/usr/bin/python3 take.py $tag",
       4);
    assert_non_null(strstr(shell.err, "another program is using"));
    assert_null(strstr(shell.err, "the draft is kept"));
    sh("test -z \"$(find $FOLDER/other -type f)\" && cmp -n 67108864 "
       "$FOLDER/taken.img /dev/zero",
       0);
}

/* An image that a loop device carries: refused before that is let go. */
static void what_enact_refuses_stays_as_it_is(void **state)
{
    (void)state;
    sh("cd $FOLDER && truncate -s 64M held.img && $TOOL draft file:held.img -o "
       "held.json >/dev/null",
       0);
    shell_run(&shell, "losetup -f --show $FOLDER/held.img > $FOLDER/loop");
    if (shell.code != 0)
        skip();
    sh("cd $FOLDER && printf x 1<>held.img; tag=$($TOOL assess file:held.img "
       "--json | grep -m1 -o "
       "'[A-Z]\\{5\\}-[0-9][0-9]'); $TOOL enact held.json --consent $tag; "
       "code=$?; losetup $(cat loop) >/dev/null || exit 99; exit $code",
       3);
    assert_non_null(strstr(shell.err, "has changed"));
    sh("cd $FOLDER && $TOOL assess file:held.img | grep -q 'carries loop' && "
       "$TOOL draft file:held.img -o new.json; test $? = 4",
       0);
    sh("cd $FOLDER && tag=$($TOOL assess file:held.img --json | grep -m1 -o "
       "'[A-Z]\\{5\\}-[0-9][0-9]'); $TOOL renew file:held.img --consent $tag "
       "&& ! losetup $(cat loop) 2>/dev/null",
       0);
}

/* Bytes that steer terminals, hide or turn text: never raw in any output. */
static bool is_plain(const char *text)
{
    for (const unsigned char *at = (const unsigned char *)text; *at != 0;
         at++) {
        if ((*at < 0x20 && *at != '\n') || *at == 0x7F)
            return false;
        if (at[0] == 0xC2 && at[1] >= 0x80 && at[1] < 0xA0) /* C1 */
            return false;
        if (at[0] == 0xE2 && at[1] == 0x80 && at[2] >= 0x8B && at[2] <= 0xAE)
            return false; /* U+200B to U+202E */
        if (at[0] == 0xE2 && at[1] == 0x81 && at[2] >= 0xA0 && at[2] <= 0xAF)
            return false; /* U+2060 to U+206F */
    }
    return true;
}

static void names_that_deceive_are_shown_for_what_they_are(void **state)
{
    static const char *const names[] = {
        "a\033[2Jb.img",     "a\rtrueslate.img", "line\nTARUK-47.img",
        "\xE2\x80\xAEgmi.a", "\xC2\x9B[31m.img", "quo'te\"s.img",
        "$(touch x).img",    "a b;rm.img",       "\xFF\xFEraw.img",
        "-dash.img",         "back\\slash.img"};

    (void)state;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        setenv("NAME", names[i], 1);
        print_message("  name %zu\n", i);
        sh("mkdir -p \"$FOLDER/odd\" && cd \"$FOLDER/odd\" && truncate -s 64M "
           "./\"$NAME\" && $TOOL assess \"./$NAME\"",
           0);
        assert_true(is_plain(shell.out) && is_plain(shell.err));
        /* what is printed for copying works as it stands */
        sh("cd \"$FOLDER/odd\" && line=$($TOOL assess \"./$NAME\" | grep '^  "
           "trueslate draft ' | sed 's/^  trueslate/$TOOL/') && eval \"$line "
           "-o o.json\"",
           0);
        assert_true(is_plain(shell.out) && is_plain(shell.err));
        sh("cd \"$FOLDER/odd\" && line=$($TOOL draft \"./$NAME\" -o o.json | "
           "grep '^  trueslate enact ' | sed 's/^  trueslate/$TOOL/') && eval "
           "\"$line --json\"",
           0);
        assert_true(is_plain(shell.out) && is_plain(shell.err));
        sh("cd \"$FOLDER/odd\" && $TOOL prove o.json --json && test ! -e x && "
           "$TOOL assess \"./$NAME\" --json | /usr/bin/python3 -c 'import "
           "json,sys; json.load(sys.stdin)' && rm -f ./*",
           0);
        sh("$TOOL assess \"./$NAME-gone/x\"", 4);
        assert_true(is_plain(shell.err));
    }
}

/* The same in labels, on every kind of volume that bears one in UTF-8 or
 * UTF-16, and in the command that recommends a label. */
static void labels_that_deceive_are_shown_for_what_they_are(void **state)
{
    (void)state;
    sh("cd $FOLDER && truncate -s 64M label.img && /usr/bin/python3 - <<'END'\n"
       "f=open('label.img','r+b')\n"
       "f.seek(1024); s=bytearray(1024)\n"
       "s[4:8]=(16384).to_bytes(4,'little'); s[24]=2; s[56:58]=b'\\x53\\xef'\n"
       "s[76]=1; s[96]=0x40\n"
       "s[120:136]='\\x1b[2J\\u202eA\\';x\\n'.encode()[:16].ljust(16,b'\\0')\n"
       "f.write(s)\n"
       "END\n"
       "$TOOL assess label.img && $TOOL assess label.img --json && $TOOL draft "
       "label.img",
       0);
    assert_true(is_plain(shell.out));
    assert_non_null(strstr(shell.out, "A';x"));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(
            a_twin_that_stands_alone_is_asked_for_by_its_address, fresh_bench),
        cmocka_unit_test_setup(one_tag_of_two_is_told_by_the_address,
                               fresh_bench),
        cmocka_unit_test_setup(twins_are_told_apart_by_unplugging_one,
                               fresh_bench),
        cmocka_unit_test_setup(a_medium_swapped_after_the_look_is_not_written,
                               fresh_bench),
        cmocka_unit_test(files_in_the_way_are_not_replaced),
        cmocka_unit_test(closed_streams_write_into_nothing),
        cmocka_unit_test_setup(output_that_is_not_whole_is_an_error,
                               fresh_bench),
        cmocka_unit_test(a_device_taken_by_another_is_left_alone),
        cmocka_unit_test(what_enact_refuses_stays_as_it_is),
        cmocka_unit_test(names_that_deceive_are_shown_for_what_they_are),
        cmocka_unit_test(labels_that_deceive_are_shown_for_what_they_are),
    };

    return cmocka_run_group_tests_name("trust", tests, NULL, clean);
}
