/* SPDX-License-Identifier: MIT */
/* Several devices at a time: one that fails does not hold the others, each has
 * its own consent, and what is cut goes on; and a tray of them as they come. */
#include <string.h>

#include "tool_case.h"

#define STICKS "sim:tide-gauge-7 sim:tide-gauge-8 sim:stick-slow"
#define TAGS "NAFAN-45,NUSER-37,HATEN-48"

/* Each device may have said something. */
static void answers(const char *line, int code, const char *words)
{
    tool_run(&p, line);
    if (p.code != code ||
        (strstr(p.out, words) == NULL && strstr(p.err, words) == NULL))
        print_message("%s\ncode %d\n%s%s\n", line, p.code, p.out, p.err);
    assert_int_equal(p.code, code);
    assert_true(strstr(p.out, words) != NULL || strstr(p.err, words) != NULL);
}

static void they_are_renewed_side_by_side(void **state)
{
    (void)state;
    expect("renew " STICKS
           " --no-probe --for logger --label TIDES --consent " TAGS,
           0, "3 renewed and proved, 0 not");
    for (int i = 0; i < 3; i++) {
        static const char *const lines[] = {"assess sim:tide-gauge-7",
                                            "assess sim:tide-gauge-8",
                                            "assess sim:stick-slow"};

        expect(lines[i], 0, "TIDES");
    }
    expect("journals", 0, "NUSER-37"); /* each can be taken back */
    expect("renew " STICKS " --for logger --label AGAIN --json --consent " TAGS,
           0, "trueslate.renew-list/1");
    check_schema("renew-list");
    assert_int_equal(number("renewed"), 3);
    expect_text("devices.2.tag", "HATEN-48");
    expect_text("devices.2.renewal.shape", "trueslate.renew/1");
}

/* A liar, one whose power fails, one that drops off, one with a switch, one
 * that is not there. */
static void one_that_fails_does_not_hold_the_others(void **state)
{
    (void)state;
    answers("renew sim:tide-gauge-7 sim:logger-worn sim:stick-storm "
            "sim:stick-loose sim:stick-locked sim:nothing sim:tide-gauge-8 "
            "--for logger --label TIDES --json --consent "
            "NUSER-37,ZASUG-26,NAFAN-45,TUFUK-44,TEFEH-63",
            5, "");
    check_schema("renew-list");
    assert_int_equal(number("renewed"), 2);
    assert_int_equal(number("failed"), 5);
    assert_int_equal(number("devices.0.renewed"), 1);
    assert_int_equal(number("devices.1.code"), 5); /* not proved */
    assert_int_equal(number("devices.2.code"), 4);
    assert_int_equal(number("devices.3.code"), 4);
    assert_int_equal(number("devices.4.code"), 3);
    assert_int_equal(number("devices.5.code"), 4);
    assert_int_equal(number("devices.6.renewed"), 1);
    assert_non_null(strstr(p.out, "write-protect-switch"));
    assert_non_null(strstr(p.out, "there is no such device"));
    for (int i = 1; i < 6; i++) {
        char path[32];
        json_t *said;

        snprintf(path, sizeof path, "devices.%d.said", i);
        said = printed(path);
        assert_true(strlen(json_string_value(said)) > 10);
        json_decref(said);
    }
    expect("assess sim:tide-gauge-7", 0, "TIDES");
    expect("assess sim:tide-gauge-8", 0, "TIDES");
}

static void consent_is_one_by_one(void **state)
{
    (void)state;
    /* ahead of consent it is told that nothing is kept, as of one alone */
    answers("renew " STICKS " --label X --no-rewind --consent NUSER-37", 3,
            "this device asks for NAFAN-45");
    assert_non_null(strstr(p.out, "1 renewed and proved, 2 not"));
    assert_non_null(strstr(p.out, "Rewind"));
    expect("assess sim:tide-gauge-7", 0, "TGBOOT");
    expect("assess sim:stick-slow", 0, "TIDE-9");
    answers("renew " STICKS " --label X", 3, "To agree, add");
    assert_non_null(strstr(p.out, "0 renewed and proved, 3 not"));
    expect("renew sim:tide-gauge-7 NAFAN-45 --label X --consent NAFAN-45", 2,
           "named twice");
    assert_non_null(strstr(p.out, "1 renewed and proved, 1 not"));
    expect("renew " STICKS " -o x.json --consent " TAGS, 2,
           "--output is for one device");
    expect("renew " STICKS " --journal x --consent " TAGS, 2,
           "--journal is for one device");
    expect("renew", 2, "DEVICE... is missing");
    /* of two that cannot be told apart neither is touched */
    answers(
        "renew sim:buoy-stick-12 sim:buoy-stick-13 sim:tide-gauge-8 --label "
        "X --consent KAXUN-46,NUSER-37",
        3, "nothing tells the two apart");
    assert_non_null(strstr(p.out, "1 renewed and proved, 2 not"));
    expect("assess sim:buoy-stick-12", 0, "BUOY-12");
    expect("assess sim:buoy-stick-13", 0, "BUOY-13");
}

/* Ctrl-C ends them all; each goes on where it was. */
static void all_of_them_can_be_interrupted(void **state)
{
    (void)state;
    sh("cd $FOLDER; $TOOL renew " STICKS
       " --no-probe --volume exfat --label CUT "
       "--consent " TAGS " >cut.out 2>cut.err & job=$!; until "
       "head -c 16 bench/tide-gauge-7.blocks | grep -q 'TRUE SLATE MARK'; do "
       "sleep 0.02; done; kill -TERM $job; wait $job; code=$?; cat cut.err "
       "cut.out >&2; test $code = 6 && grep -q "
       "'NAFAN-45: the draft is kept; to go on' cut.err",
       0);
    expect("renew " STICKS " --no-probe --consent " TAGS, 0,
           "3 renewed and proved, 0 not");
    expect("assess sim:tide-gauge-7", 0, "CUT");
}

/* What is plugged in from then on is renewed, when it is what is expected and
 * its tag is among those that are given. */
static void a_tray_is_worked_off(void **state)
{
    (void)state;
    expect("tray --label X", 3, "no terminal to ask for consent at");
    expect("tray --expect rock --label X", 2, "stick, card, disk, or a size");
    answers("tray --label X --seconds 1 --consent NAFAN-45", 4,
            "no device came");
    sh("cd $FOLDER && for name in tide-gauge-7 tide-gauge-8 shore-disk-1 "
       "logger-worn logger-card-3; do $TOOL unplug $name; done; "
       "($TOOL tray --json --for logger --label TIDES --expect "
       "stick,card,16GB,8GB --seconds 3 --evidence ticket --consent "
       "NAFAN-45,TUFUK-44,NAFAN-45 >tray.json; echo $? >code) & sleep 0.7; "
       "$TOOL plug tide-gauge-7; $TOOL plug shore-disk-1; $TOOL plug "
       "logger-worn; $TOOL plug logger-card-3; $TOOL plug tide-gauge-8; wait; "
       "grep -qx 5 code",
       0);
    sh("cat $FOLDER/tray.json", 0);
    memcpy(p.out, shell.out, sizeof p.out);
    check_schema("tray");
    assert_int_equal(number("renewed"), 1);
    assert_int_equal(number("failed"), 1);
    assert_int_equal(number("left_alone"), 3);
    expect("assess sim:tide-gauge-8", 0, "TIDE-8"); /* not consented to */
    expect("assess sim:logger-card-3", 0, "LOGGER-3");
    sh("grep -q '\"ejected\": true' $FOLDER/tray.json && grep -q 'it is a disk "
       "of 2 TB' $FOLDER/tray.json && grep -q 'it is a card of 32 GB' "
       "$FOLDER/tray.json",
       0);
    sh("grep -q '1 well, 1 not' $FOLDER/ticket.html && $TOOL evidence "
       "$FOLDER/ticket.html && $TOOL evidence $FOLDER/ticket.json",
       0);
}

/* Somebody types: any of the tags that wait, in any order. */
static void tags_are_typed_as_devices_come(void **state)
{
    (void)state;
    sh("cd $FOLDER && cat >type.py <<'END'\n"
       "import os, pty, select, subprocess, sys, time\n"
       "tool = os.environ['TOOL']\n"
       "def run(*words):\n"
       "    subprocess.run([tool, *words], stdout=subprocess.DEVNULL, "
       "check=True)\n"
       "for name in ('tide-gauge-7', 'tide-gauge-8', 'stick-slow'):\n"
       "    run('unplug', name)\n"
       "pid, terminal = pty.fork()\n"
       "if pid == 0:\n"
       "    os.execv(tool, [tool, 'tray', '--for', 'logger', '--label', "
       "'TYPED'])\n"
       "said = b''\n"
       "def until(words):\n"
       "    global said\n"
       "    end = time.time() + 60\n"
       "    while words not in said and time.time() < end:\n"
       "        if select.select([terminal], [], [], 0.1)[0]:\n"
       "            try:\n"
       "                said += os.read(terminal, 65536)\n"
       "            except OSError:\n"
       "                break\n"
       "    if words not in said:\n"
       "        sys.exit('%r did not come: %r' % (words, said))\n"
       "until(b'Plug the devices in')\n"
       "time.sleep(0.5)\n"
       "run('plug', 'tide-gauge-7')\n"
       "until(b'type its tag, NAFAN-45')\n"
       "run('plug', 'tide-gauge-8')\n"
       "until(b'type its tag, NUSER-37')\n"
       "os.write(terminal, b'XXXXX-22\\n')\n"
       "until(b\"no device that waits has the tag 'XXXXX-22'\")\n"
       "os.write(terminal, b'nuser37\\n')\n"
       "until(b'it can be unplugged')\n"
       "run('unplug', 'tide-gauge-7')\n"
       "until(b'it was unplugged')\n"
       "run('plug', 'stick-slow')\n"
       "until(b'type its tag, HATEN-48')\n"
       "os.write(terminal, b'\\n')\n"
       "until(b'nobody agreed')\n"
       "os.write(terminal, b'\\x04')\n"
       "until(b'1 renewed and proved, 0 not, 2 left alone')\n"
       "sys.exit(os.waitpid(pid, 0)[1])\n"
       "END\n"
       "LC_ALL=C TERM=dumb python3 type.py",
       0);
    expect("assess sim:tide-gauge-8", 0, "TYPED");
    expect("assess sim:stick-slow", 0, "TIDE-9");
}

/* Each verb that takes several, over all of the bench, four times in another
 * order (as often as TRUESLATE_LONG says, where that is set): whatever it finds
 * and refuses, it ends by itself. */
static void the_whole_bench_in_any_order(void **state)
{
    (void)state;
    sh("cd $FOLDER; verbs=$($TOOL --help | sed -n "
       "'s/^  \\([a-z]*\\) *\\[*DEVICE\\.\\.\\..*/\\1/p'); "
       "test $(echo $verbs | wc -w) -ge 3 || exit 1; "
       "for order in $(seq ${TRUESLATE_LONG-3}); do "
       "  names=$(ls fast | sed 's/^/sim:/; s/\\.json$//' | shuf "
       "      --random-source=<(yes $order)); "
       "  json=; test $((order % 2)) = 0 || json=--json; "
       "  for verb in $verbs; do "
       "    $TOOL $verb $names $json >said 2>&1; code=$?; "
       "    test $code -lt 8 -a $code != 1 && ! grep -q Sanitizer said && "
       "        test $(wc -l <said) -ge 57 || "
       "        { echo $verb $json $names: $code; cat said; exit 1; } >&2; "
       "  done; "
       "done",
       0);
}

/* All that are attached, as programs are told of them. */
static void all_that_are_attached(void **state)
{
    (void)state;
    for (int i = 0; i < 2; i++) {
        assert_int_equal(tool_run(&p, "assess --json"), 0);
        assert_int_equal(tool_run(&p, "assess"), 0);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(they_are_renewed_side_by_side, fresh_bench),
        cmocka_unit_test_setup(one_that_fails_does_not_hold_the_others,
                               fresh_bench),
        cmocka_unit_test_setup(consent_is_one_by_one, fresh_bench),
        cmocka_unit_test_setup(all_of_them_can_be_interrupted, fresh_bench),
        cmocka_unit_test_setup(a_tray_is_worked_off, fresh_bench),
        cmocka_unit_test_setup(the_whole_bench_in_any_order, fresh_bench),
        cmocka_unit_test_setup(all_that_are_attached, fresh_bench),
        cmocka_unit_test_setup(tags_are_typed_as_devices_come, fresh_bench),
    };

    return cmocka_run_group_tests_name("several", tests, NULL, clean);
}
