/* SPDX-License-Identifier: MIT */
/* What people type is understood as it stands, and no further; what they read
 * fits their terminal. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "tool_case.h"

/* tide-gauge-7's tag in every way that people type it, and what is near. */
static void
tags_are_taken_in_any_case_with_or_without_their_hyphen(void **state)
{
    static const char *const good[] = {"NAFAN-45", "nafan-45", "NaFaN-45",
                                       "NAFAN45",  "nafan45",  "nAFAN45"};
    static const char *const bad[] = {
        "NAFAN",    "NAFAN-4",  "NAFAN-455", "NAFAN--45",   "NAFAN_45",
        "-NAFAN45", "NAF-AN45", "NAFAN-45-", "NAFAN45x",    "NAFAN-46",
        "NAFAM-45", "NAFAN-4S", "NAFAN-45.", "tag:NAFAN-45"};
    char line[160];

    (void)state;
    expect("draft NAFAN-45 -o $/d.json", 0, "To carry it out");
    for (size_t i = 0; i < sizeof bad / sizeof *bad; i++) {
        snprintf(line, sizeof line, "assess %s", bad[i]);
        assert_int_not_equal(tool_run(&p, line), 0);
        snprintf(line, sizeof line, "enact $/d.json --consent=%s", bad[i]);
        expect(line, 3, "NAFAN-45");
    }
    for (size_t i = 0; i < sizeof good / sizeof *good; i++) {
        snprintf(line, sizeof line, "assess %s", good[i]);
        expect(line, 0, "sim:tide-gauge-7");
        snprintf(line, sizeof line, "draft %s -o $/%zu.json", good[i], i);
        expect(line, 0, "To carry it out");
        snprintf(line, sizeof line, "enact $/%zu.json --consent %s", i,
                 good[i]);
        expect(line, 0, "Written");
    }
}

static void paths_are_taken_as_they_stand(void **state)
{
    static const char *const good[] = {"card.img",
                                       "./card.img",
                                       "file:card.img",
                                       "../rack/card.img",
                                       "$FOLDER/rack/card.img",
                                       "file:$FOLDER/rack/card.img",
                                       "./sim:card",
                                       "./NAFAN-45",
                                       "./-card"};
    char line[200];

    (void)state;
    sh_answers(
        "mkdir -p $FOLDER/rack && cd $FOLDER/rack && for n in card.img "
        "sim:card NAFAN-45 -card; do truncate -s 4M ./$n; done && echo laid",
        0, "laid");
    for (size_t i = 0; i < sizeof good / sizeof *good; i++) {
        snprintf(line, sizeof line, "cd $FOLDER/rack && $TOOL assess %s",
                 good[i]);
        sh_answers(line, 0, "image file");
    }
    /* a tag is a tag, whatever lies about */
    sh_answers("cd $FOLDER/rack && $TOOL assess NAFAN-45", 0,
               "sim:tide-gauge-7");
    sh_answers("$TOOL assess /dev/null", 4, "it is no block device");
    sh_answers("$TOOL assess /dev/disk/by-id/none", 4, "node is not there");
    sh_answers("$TOOL assess dev:/dev/null", 4, "it is no block device");
    sh_answers("$TOOL assess $FOLDER/none.img", 4, "none.img");
    sh_answers("$TOOL assess $FOLDER", 4, "expected a regular file");
    sh_answers("$TOOL assess none.img", 2, "names no device");
    sh_answers("$TOOL assess ''", 2, "names no device");
}

/* Every command in terminals of every width: from 60 columns to 160, no line
 * is longer than the terminal, no unit begins one, and what has more room uses
 * it. */
static void output_has_the_width_of_the_terminal(void **state)
{
    (void)state;
    sh_answers(
        "cat >$FOLDER/wide.py <<'END'\n"
        "import fcntl, os, pty, re, struct, sys, termios, unicodedata\n"
        "def run(columns, words):\n"
        "    child, fd = pty.fork()\n"
        "    if child == 0:\n"
        "        fcntl.ioctl(1, termios.TIOCSWINSZ,\n"
        "                    struct.pack('4H', 50, columns, 0, 0))\n"
        "        os.execv(os.environ['TOOL'], ['trueslate'] + words)\n"
        "    out = b''\n"
        "    try:\n"
        "        while piece := os.read(fd, 65536): out += piece\n"
        "    except OSError: pass\n"
        "    os.waitpid(child, 0)\n"
        "    text = re.sub('\\x1b\\\\[[0-9;]*[mK]', '', out.decode())\n"
        "    apart = re.search('(?m)^ *[kKMGTPE]i?B', text)\n"
        "    cells = lambda l: sum(2 if unicodedata.east_asian_width(c) in "
        "'WF' else 1 for c in l)\n"
        "    return 999 if apart else max(cells(l) for l in "
        "re.split('[\\r\\n]+', text))\n"
        "bad = 0\n"
        "for words, widths in ((['survey'], (60, 99, 160)),\n"
        "        (['assess'], (60, 160)),\n"
        "        (['assess', 'NAFAN-45'], range(40, 200, 7)),\n"
        "        (['draft', 'NAFAN-45'], range(40, 200, 7)),\n"
        "        (['guards', 'sim:logger-card-5'], range(40, 200, 7)),\n"
        "        (['probe', 'sim:tide-gauge-8', '--consent', 'NUSER-37'],\n"
        "         (60, 160))):\n"
        "    got = {c: run(c, words) for c in widths}\n"
        "    wide = [c for c in got if got[c] > max(60, min(160, c))]\n"
        "    if wide or min(got.values()) + 20 > max(got.values()):\n"
        "        bad = 1; print(words, got)\n"
        "print('fits' if not bad else 'does not fit')\n"
        "END\n"
        "LC_ALL=C.UTF-8 TERM=xterm /usr/bin/python3 $FOLDER/wide.py",
        0, "fits");
    if (strstr(shell.out, "not fit") != NULL)
        print_message("%s", shell.out);
    assert_null(strstr(shell.out, "not fit"));
}

/* Letters of two bytes, of two columns and of none: what stands behind a label
 * stands where it does behind others, and no line is longer than the page. */
static void letters_are_as_wide_as_they_are(void **state)
{
    static const char *const labels[] = {"Boje", "B\xC3\xB8je",
                                         "\xE6\xB3\xA2\xE6\xB5\xAE\xE6\xA8\x99",
                                         "Bo\xCC\x88je", "abcdefghijk"};
    char line[900];

    (void)state;
    for (size_t i = 0; i < sizeof labels / sizeof *labels; i++) {
        snprintf(
            line, sizeof line,
            "cd $FOLDER && truncate -s 40M wide.img && $TOOL draft "
            "file:wide.img --volume exfat --label '%s' >said && "
            "LC_ALL=C.UTF-8 /usr/bin/python3 -c \"import unicodedata as u\n"
            "w = lambda l: sum(0 if u.combining(c) else 2 if "
            "u.east_asian_width(c) in 'WF' else 1 for c in l)\n"
            "t = open('said', encoding='utf-8').read().split('\\n')\n"
            "l = [l for l in t if ' exFAT ' in l and ' MB (' in l][0]\n"
            "assert w(l[:l.index('40.9 MB')]) == 40, (w(l), l)\n"
            "assert max(w(l) for l in t) <= 80\"",
            labels[i]);
        sh(line, 0);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(
            tags_are_taken_in_any_case_with_or_without_their_hyphen,
            fresh_bench),
        cmocka_unit_test_setup(paths_are_taken_as_they_stand, fresh_bench),
        cmocka_unit_test_setup(letters_are_as_wide_as_they_are, fresh_bench),
        cmocka_unit_test_setup(output_has_the_width_of_the_terminal,
                               fresh_bench),
    };

    return cmocka_run_group_tests_name("typed", tests, NULL, clean);
}
