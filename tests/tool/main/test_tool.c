/* SPDX-License-Identifier: MIT */
/* The tool as a program: verbs, exit codes, refusals, drafts as files. */
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "tool_case.h"

#define SEED "--seed 00112233445566778899aabbccddeeff"

static void make_image(const char *name, off_t bytes)
{
    FILE *file = fopen(in_folder(name), "w");

    assert_non_null(file);
    assert_int_equal(ftruncate(fileno(file), bytes), 0);
    fclose(file);
}

static void the_story_ends_with_full_capacity(void **state)
{
    char line[256];

    (void)state;
    expect("assess sim:tide-gauge-7", 0, "boot image");
    snprintf(line, sizeof line,
             "renew %s --for logger --label tide-7 --consent %s", tag, tag);
    expect(line, 0, "every one is as");
    assert_non_null(strstr(p.out, "FAT16 \"TGBOOT\", 48 MB"));
    assert_null(strchr(p.out, '\033')); /* plain when piped */
    for (const char *at = p.out; *at != '\0'; at += strcspn(at, "\n") + 1)
        assert_true(strcspn(at, "\n") <= 80);
    snprintf(line, sizeof line, "assess %s", tag);
    expect(line, 0, "Nothing is wrong");
    assert_non_null(strstr(p.out, "FAT32 \"TIDE-7\""));
}

static void reports_have_their_shapes(void **state)
{
    char line[256];

    (void)state;
    expect("survey --json", 0, tag);
    check_schema("survey");
    expect("assess sim:tide-gauge-7 --json", 0, tag);
    check_schema("assess");
    expect_text("table_id", "7D1E6A7E");
    expect_text("tag", tag);
    expect_text("findings.0.id", "boot-image");
    expect_text("findings.1.id", "small-table");
    assert_int_equal(number("findings.1.consequence"), 1);
    assert_int_equal(number("shown_bytes"), 48000000);
    expect("advise sim:tide-gauge-7 --json", 0, tag);
    check_schema("advise");
    expect_text("uses.5.use", "desktop");
    expect_text("uses.6.table", "gpt");
    expect("draft sim:tide-gauge-7 --json -o $/d.json", 0, "\"seal\"");
    check_schema("draft");
    snprintf(line, sizeof line, "enact $/d.json --json --consent %s", tag);
    expect(line, 0, "blocks_written");
    check_schema("enact");
    assert_int_equal(number("blocks"), number("blocks_written") +
                                           number("blocks_equal") +
                                           number("blocks_cleared"));
    expect("prove $/d.json --json", 0, "true");
    check_schema("prove");
    snprintf(line, sizeof line, "renew %s --json --consent %s", tag, tag);
    expect(line, 0, "findings_after");
    check_schema("renew");
    expect_text("findings_after.0.id", "healthy");
}

/* One line each, the worst first; what cannot be used is judged as well. */
static void several_devices_are_told_in_a_line_each(void **state)
{
    static const char *const order[] = {"no medium", "boot image", "healthy"};
    const char *at;

    (void)state;
    expect("assess sim:tide-gauge-8 sim:tide-gauge-7 sim:reader-empty", 0, "");
    at = p.out;
    for (size_t i = 0; i < 3; i++) {
        at = strstr(at, order[i]);
        assert_non_null(at);
    }
    expect("assess", 0, "no medium");
    for (at = p.out; *at != '\0'; at += strcspn(at, "\n") + 1)
        assert_true(strcspn(at, "\n") <= 80);
    expect("assess sim:tide-gauge-7 sim:dock-eight-large sim:reader-empty "
           "sim:shore-disk-1 --json",
           0, "block-size-mismatch");
    check_schema("assess-list");
    assert_int_equal(tool_run(&p, "assess sim:tide-gauge-8 sim:ghost"), 4);
    assert_non_null(strstr(p.out, "healthy"));
    assert_non_null(strstr(p.err, "ghost"));
}

static void expect_start(const char *name, const char *start)
{
    char bytes[16] = "";
    FILE *file = fopen(in_folder(name), "rb");

    assert_non_null(file);
    assert_int_equal(fread(bytes, 1, strlen(start), file), strlen(start));
    assert_string_equal(bytes, start);
    fclose(file);
}

static void pictures_are_drawn_in_three_formats(void **state)
{
    (void)state;
    expect("assess sim:tide-gauge-7 --picture $/one.svg", 0, "boot image");
    expect_start("one.svg", "<?xml");
    expect("assess sim:tide-gauge-7 --picture $/one.png --json", 0, "{");
    expect_start("one.png", "\x89PNG");
    expect("draft sim:tide-gauge-7 --keep 1 --part rest --picture $/two.svg", 0,
           "stays");
    expect_start("two.svg", "<?xml");
    expect("draft sim:tide-gauge-7 --picture $/two.svg", 2, "--replace");
    expect("assess --picture $/all.pdf", 0, "no medium");
    expect_start("all.pdf", "%PDF");
}

static void wrong_usage_says_what_was_expected(void **state)
{
    (void)state;
    expect("melt x", 2, "expected survey, await, assess");
    expect("draft", 2, "DEVICE is missing");
    expect("draft a b", 2, "one word too many");
    expect("assess sim:tide-gauge-7 --picture a.gif", 2, ".svg, .png or .pdf");
    expect("assess sim:tide-gauge-7 --picture /no/where.svg", 4,
           "could not be written");
    expect("assess stick", 2,
           "expected sim:NAME, file:PATH, dev:NAME, a path, or a tag");
    expect("draft sim:tide-gauge-7 --for toaster", 2, "expected anything");
    expect("draft sim:tide-gauge-7 --table abc", 2, "expected mbr, gpt");
    expect("draft sim:tide-gauge-7 --volume abc", 2, "expected fat12");
    expect("draft sim:tide-gauge-7 --cluster 3000", 2, "a power of two");
    expect("draft sim:tide-gauge-7 --cluster -1", 2, "a power of two");
    expect("draft sim:tide-gauge-7 --block-size 520", 2, "2048 or 4096");
    expect("draft sim:tide-gauge-7 --seed 12", 2, "32 hexadecimal");
    expect("draft sim:tide-gauge-7 --label \xFF", 2, "label");
    assert_int_equal(tool_run(&p, "assess --frobnicate x"), 2);
    assert_int_equal(tool_run(&p, ""), 2);
}

static void help_has_an_example_for_every_verb(void **state)
{
    static const char *const verbs[] = {"survey", "await",   "assess", "advise",
                                        "draft",  "enact",   "prove",  "renew",
                                        "bench",  "plug",    "unplug", "guards",
                                        "probe",  "release", "eject"};

    (void)state;
    expect("--help", 0, "Exit codes:");
    for (size_t i = 0; i < sizeof verbs / sizeof verbs[0]; i++) {
        char line[64], example[64];

        assert_non_null(strstr((expect("--help", 0, ""), p.out), verbs[i]));
        snprintf(line, sizeof line, "%s --help", verbs[i]);
        snprintf(example, sizeof example, "Example:\n  trueslate %s", verbs[i]);
        expect(line, 0, example);
    }
    expect("--version", 0, "trueslate ");
}

static void absent_devices_are_named(void **state)
{
    (void)state;
    expect("assess sim:ghost", 4, "sim:ghost on the bench");
    expect("assess TARUK-47", 4, "no attached device has this tag");
    expect("survey --bench $/nowhere", 4, "there is no bench in");
    expect("assess file:$/nowhere", 4, "there is no such image file");
    expect("assess file:$", 4, "expected a regular file");
    expect("assess TARUK-47 --bench $/nowhere", 4, "there is no bench");
    expect("prove $/nowhere.json", 2, "no such draft file");
    expect("assess dev:/dev/null", 4, "no block device");
    expect("assess dev:nowhere", 4, "there is no such device");
    expect("assess sim:mast-camera-2/3", 4, "no such unit");
}

/* Another program has the stick: nothing is written. */
static void a_device_in_other_hands_is_left_alone(void **state)
{
    char line[256];
    int held = open(in_folder("bench/tide-gauge-7.blocks"), O_RDONLY);

    (void)state;
    assert_true(held >= 0);
    assert_int_equal(flock(held, LOCK_EX | LOCK_NB), 0);
    expect("draft sim:tide-gauge-7 -o $/d.json", 0, "Nothing was written");
    snprintf(line, sizeof line, "enact $/d.json --consent %s", tag);
    expect(line, 4, "another program is using");
    close(held);
    expect(line, 0, "Written");
}

static void consent_is_asked_for(void **state)
{
    char line[256], words[64];

    (void)state;
    snprintf(words, sizeof words, "add --consent %s", tag);
    expect("renew sim:tide-gauge-7", 3, words);
    expect("renew sim:tide-gauge-7 --consent TARUK-47", 3,
           "nothing was written");
    expect("draft sim:tide-gauge-7 -o $/d.json", 0, "Nothing was written");
    snprintf(words, sizeof words, "--consent %s", tag);
    expect("enact $/d.json", 3, words);
    expect("enact $/d.json --consent TARUK-47", 3, "nothing was written");
    snprintf(line, sizeof line, "assess %s", tag);
    expect(line, 0, "boot image"); /* as before */
}

/* Rewrites the draft in d.json with one text replaced. */
static void edit_draft(const char *from, const char *to)
{
    static char text[65536];
    FILE *file = fopen(in_folder("d.json"), "r");
    char *at;
    size_t n;

    assert_non_null(file);
    n = fread(text, 1, sizeof text - 1, file);
    text[n] = '\0';
    fclose(file);
    at = strstr(text, from);
    assert_non_null(at);
    file = fopen(in_folder("e.json"), "w");
    assert_non_null(file);
    fprintf(file, "%.*s%s%s", (int)(at - text), text, to, at + strlen(from));
    fclose(file);
}

/* What a later version would leave out has its default; so has what an earlier
 * one did not know. */
static void what_is_left_out_has_its_default(void **state)
{
    static const char *const members[] = {
        "\"entries\": 0,",         "\"keep_code\": false,", "\"heads\": 0,",
        "\"standing\": \"fits\",", "\"lift\": [],",         "\"clears\": [],",
        "\"mends\": [],",          "\"ahead\": 0,",         "\"files\": [],",
        "\"mbr_type\": 0,",        "\"placing\": 0,"};
    char line[256];

    (void)state;
    expect("draft sim:tide-gauge-7 --label TIDE-7 -o $/d.json", 0, "TIDE-7");
    for (size_t i = 0; i < sizeof members / sizeof members[0]; i++) {
        edit_draft(members[i], "");
        snprintf(line, sizeof line, "enact $/e.json --consent TARUK-22");
        expect(line, 3, "consent"); /* so far it is taken */
    }
}

static void edited_drafts_are_refused(void **state)
{
    static const struct {
        const char *from, *to, *words;
    } rows[] = {
        {"\"version\": 14", "\"version\": 7", "another version"},
        {"trueslate.draft/14", "trueslate.draft/15", "another version"},
        {"trueslate.draft/14", "something/1", "edited by hand"},
        {"\"heads\": 0", "\"heads\": 0, \"mirrors\": 2", "another version"},
        {"\"for\": \"anything\"", "\"for\": \"kite\"", "another version"},
        {"\"placing\": 0", "\"placing\": 7", "writes something else"},
        {"\"mbr\": 0", "\"mbr\": 1", "writes something else"},
        {"}", "", "damaged"},
        {"{", "[", "damaged"},
        {"\"goal\"", "\"gaol\"", "another version"},
        {"\"entries\": 0", "\"entries\": 1", "edited by hand"},
    };
    char line[256];

    (void)state;
    expect("draft sim:tide-gauge-7 --label TIDE-7 -o $/d.json", 0, "TIDE-7");
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        edit_draft(rows[i].from, rows[i].to);
        snprintf(line, sizeof line, "enact $/e.json --consent %s", tag);
        expect(line, 3, rows[i].words);
        expect("prove $/e.json", 3, rows[i].words);
    }
    assert_int_equal(truncate(in_folder("e.json"), 400), 0);
    expect("prove $/e.json", 3, "damaged");
    assert_int_equal(truncate(in_folder("e.json"), 0), 0);
    expect("prove $/e.json", 3, "damaged");
}

/* What a draft follows from is sealed, value by value; what is there to be
 * read may be reworded. */
static void what_a_draft_follows_from_is_sealed(void **state)
{
    (void)state;
    expect("draft sim:tide-gauge-7 --label TIDE-7 -o $/d.json", 0, "TIDE-7");
    expect("draft sim:buoy-stick-15 --clear gpt-hidden,dirty -o $/c.json", 0,
           "Clears");
    sh("mkdir -p $FOLDER/put/LOGS && printf a >$FOLDER/put/a.txt && printf "
       "'\\353\\130\\220%507s\\125\\252' >$FOLDER/code.bin",
       0);
    expect("draft sim:tide-gauge-7 --volume fat32 --files $/put --files-first "
           "a.txt --start-code $/code.bin -o $/f.json",
           0, "1 file and 1 folder");
    sh("cd $FOLDER && cat >edit.py <<'END'\n"
       "import copy, json, os, subprocess, sys\n"
       "draft = json.load(open(sys.argv[1]))\n"
       "sealed = ('goal', 'parts', 'basis', 'choices', 'revisions', 'renamed', "
       "'clears', "
       "'mends', 'patches',\n"
       "          'patched', 'bad', 'ahead', 'files', 'start_code', 'seal')\n"
       "def leaves(value, path):\n"
       "    items = value.items() if isinstance(value, dict) else \\\n"
       "        enumerate(value[:3]) if isinstance(value, list) else None\n"
       "    if items is None:\n"
       "        yield path\n"
       "        return\n"
       "    for key, inner in items:\n"
       "        yield from leaves(inner, path + [key])\n"
       "def changed(value):\n"
       "    if isinstance(value, bool):\n"
       "        return not value\n"
       "    if value is None:\n"
       "        return 1\n"
       "    if isinstance(value, int):\n"
       "        return value + 1\n"
       "    return 'AMBER-22' if value == '' else value[:-1] + \\\n"
       "        ('1' if value[-1] != '1' else '2')\n"
       "count = {True: 0, False: 0}\n"
       "turn = int(os.environ.get('TRUESLATE_TURN', '0'))\n"
       "every = 'TRUESLATE_LONG' in os.environ\n"
       "for n, path in enumerate(leaves(draft, [])):\n"
       "    if not every and (n + turn) % 4 != 0:\n"
       "        continue\n"
       "    if path[0] in ('shape', 'version') or path[-1] in ('address', \n"
       "            'files_from'):\n"
       "        continue\n"
       "    edited = copy.deepcopy(draft)\n"
       "    at = edited\n"
       "    for key in path[:-1]:\n"
       "        at = at[key]\n"
       "    at[path[-1]] = changed(at[path[-1]])\n"
       "    json.dump(edited, open('e.json', 'w'))\n"
       "    code = subprocess.run([os.environ['TOOL'], 'prove', 'e.json'],\n"
       "                          stderr=subprocess.DEVNULL).returncode\n"
       "    expected = 3 if path[0] in sealed else 5\n"
       "    assert code == expected, (path, code)\n"
       "    count[path[0] in sealed] += 1\n"
       "assert count[True] > (35 if every else 8), count\n"
       "assert count[False] > (20 if every else 4), count\n"
       "END\n"
       "/usr/bin/python3 edit.py d.json && /usr/bin/python3 edit.py c.json && "
       "/usr/bin/python3 edit.py f.json",
       0);
}

static void drafts_are_refused_on_a_changed_or_finished_device(void **state)
{
    char line[256];
    FILE *blocks;

    (void)state;
    expect("draft sim:tide-gauge-7 -o $/d.json", 0, "Nothing was written");
    blocks = fopen(in_folder("bench/tide-gauge-7.blocks"), "r+");
    assert_non_null(blocks);
    fseek(blocks, 1048576 + 512 * 185 + 96, SEEK_SET); /* the root directory */
    fputs("NEWFILE TXT ", blocks);
    fclose(blocks);
    snprintf(line, sizeof line, "enact $/d.json --consent %s", tag);
    expect(line, 3, "has changed since");
    expect("prove $/d.json", 5, "blocks differ from the draft");
    expect("draft sim:tide-gauge-7 -o $/d.json", 0, "Nothing was written");
    expect(line, 0, "Written");
    expect(line, 3, "already been enacted");
    expect("prove $/d.json", 0, "Proved");
}

static void image_files_are_renewed_and_repeat(void **state)
{
    static const char *const line =
        "renew file:$/a.img --label SHORE-2 " SEED " --consent %s -o $/a.json";
    char command[512], image_tag[16];
    json_t *value;

    (void)state;
    setenv("SOURCE_DATE_EPOCH", "1936000000", 1);
    make_image("a.img", 536870912);
    expect("assess file:$/a.img --json", 0, "blank");
    value = printed("tag");
    snprintf(image_tag, sizeof image_tag, "%s", json_string_value(value));
    json_decref(value);
    snprintf(command, sizeof command, line, image_tag);
    expect(command, 0, "one FAT32 volume \"SHORE-2\"");
    snprintf(command, sizeof command, "cp --sparse=always %s %s",
             in_folder("a.img"), in_folder("first.img"));
    assert_int_equal(system(command), 0);
    make_image("a.img", 0);
    make_image("a.img", 536870912);
    snprintf(command, sizeof command, line, image_tag);
    expect(command, 0, "SHORE-2");
    snprintf(command, sizeof command, "cmp %s %s", in_folder("a.img"),
             in_folder("first.img"));
    assert_int_equal(system(command), 0); /* byte for byte */
    unsetenv("SOURCE_DATE_EPOCH");
}

static void images_of_4096_byte_blocks_are_known_again(void **state)
{
    char line[256];
    json_t *value;

    (void)state;
    make_image("b.img", 1073741824);
    expect("draft file:$/b.img --block-size 4096 -o $/b.json --json", 0,
           "\"block_bytes\": 4096");
    value = printed("tag");
    snprintf(line, sizeof line, "enact $/b.json --consent %s",
             json_string_value(value));
    json_decref(value);
    expect(line, 0, "Written");
    expect("assess file:$/b.img --json", 0, "healthy");
    assert_int_equal(number("device.block_bytes"), 4096);
}

/* Of a large NTFS volume a look leaves open what is free: it is counted. Of 4
 * TB in clusters of 4 KiB its own files take some 140 MB, the bitmap most. */
static void what_is_free_on_a_large_disk_is_told(void **state)
{
    char line[256];
    json_t *value;

    (void)state;
    make_image("large.img", 4000000000512);
    expect("draft file:$/large.img --volume ntfs -o $/large.json --json", 0,
           "NTFS");
    value = printed("tag");
    snprintf(line, sizeof line, "enact $/large.json --consent %s",
             json_string_value(value));
    json_decref(value);
    expect(line, 0, "Written");
    expect("assess file:$/large.img --json", 0, "free_bytes");
    assert_in_range(number("partitions.0.volume.free_bytes"),
                    4000000000512 - 140000000, 4000000000512 - 122000000);
    expect("draft file:$/large.img", 0, "of which files take");
}

static void images_that_cannot_serve_are_refused(void **state)
{
    (void)state;
    make_image("odd.img", 1000003);
    expect("assess file:$/odd.img", 4, "whole number of 512-byte blocks");
    make_image("empty.img", 0);
    expect("assess file:$/empty.img", 4, "holds 0 bytes");
    make_image("least.img", 1048576);
    expect("draft file:$/least.img", 7, "0 bytes are left for a partition");
    make_image("tiny.img", 16777216);
    expect("draft file:$/tiny.img", 0, "FAT16: the device is too small");
    expect("draft file:$/tiny.img --volume fat32", 7,
           "FAT32 needs at least 34.1 MB");
    make_image("small.img", 67108864);
    expect("draft file:$/small.img", 0, "Clusters of 512 bytes: with larger");
    expect("draft file:$/small.img --cluster 4K", 0,
           "FAT16: with clusters of 4096 bytes");
    expect("draft file:$/small.img --cluster 4K --volume fat32", 7,
           "FAT32 needs about");
    expect("draft file:$/small.img --block-size 4096 --volume fat32", 7,
           "4096-byte blocks");
    expect("draft file:$/small.img --volume fat16", 0, "type 06h");
    expect("draft file:$/small.img --volume fat12 --table none", 0, "FAT12");
    expect("draft file:$/small.img --volume fat64", 2,
           "expected fat12, fat16, fat32, exfat, ntfs or ext4");
    make_image("large.img", (off_t)4000000000000);
    expect("draft file:$/large.img --volume fat32", 7, "FAT32 reaches 2.2 TB");
    expect("draft file:$/large.img", 0, "exFAT: every computer of today");
}

static void copy_tool(void)
{
    char command[1200];

    snprintf(command, sizeof command, "cp %s %s", getenv("TOOL"),
             in_folder("tool"));
    assert_int_equal(system(command), 0);
    setenv("TOOL", in_folder("tool"), 1);
}

static void read_only_images_are_left_alone(void **state)
{
    char own[512];

    (void)state;
    snprintf(own, sizeof own, "%s", getenv("TOOL"));
    make_image("ro.img", 536870912);
    assert_int_equal(chmod(in_folder("ro.img"), 0444), 0);
    copy_tool(); /* nobody may not be let into the build folder */
    p.as_nobody = true;
    expect("assess file:$/ro.img", 0, "write-protected");
    expect("renew file:$/ro.img --consent X", 3, "write-protected");
    assert_int_equal(chmod(in_folder("ro.img"), 0000), 0);
    expect("assess file:$/ro.img", 4, "permission");
    p.as_nobody = false;
    setenv("TOOL", own, 1);
}

/* A loop device of this very host, where the test may make one. */
static void a_loop_device_of_the_host_is_renewed(void **state)
{
    const char *make[] = {"losetup", "-f", "--show", in_folder("loop.img"),
                          NULL};
    const char *drop[] = {"losetup", "-d", NULL, NULL};
    char node[64], line[256], loop_tag[16];
    static struct program losetup, undo;
    int locked, refused = 0;
    json_t *value;

    (void)state;
    make_image("loop.img", 536870912);
    program_run(&losetup, make);
    if (losetup.code != 0)
        skip();
    snprintf(node, sizeof node, "%.*s", (int)strcspn(losetup.out, "\n"),
             losetup.out);
    snprintf(line, sizeof line, "assess dev:%s --json", node);
    if (tool_run(&p, line) == 0) {
        value = printed("tag");
        snprintf(loop_tag, sizeof loop_tag, "%s", json_string_value(value));
        json_decref(value);
        snprintf(line, sizeof line, "renew dev:%s --label LOOP --consent %s",
                 node, loop_tag);
        locked = open(node, O_RDONLY); /* another program changes it */
        assert_int_equal(flock(locked, LOCK_EX), 0);
        refused = tool_run(&p, line);
        close(locked);
        tool_run(&p, line);
    }
    drop[2] = node;
    program_run(&undo, drop);
    assert_int_equal(refused, 4);
    assert_int_equal(p.code, 0);
    expect("assess file:$/loop.img", 0, "FAT32 \"LOOP\"");
}

/* Ctrl-C while the stick writes: exit code 6, the mark, and on it goes. */
static void an_interrupted_renewal_goes_on(void **state)
{
    char line[256];

    (void)state;
    snprintf(line, sizeof line,
             "renew %s --label TIDE-7 -o $/r.json "
             "--consent %s",
             tag, tag);
    p.interrupt_when = stick_is_marked;
    tool_run(&p, line);
    p.interrupt_when = NULL;
    assert_int_equal(p.code, 6);
    assert_non_null(strstr(p.err, "interrupted after"));
    assert_non_null(strstr(p.err, "trueslate enact"));
    expect("assess sim:tide-gauge-7", 0, "was interrupted");
    snprintf(line, sizeof line, "enact $/r.json --consent %s", tag);
    expect(line, 0, "already in place");
    expect("prove $/r.json", 0, "Proved");
    expect("assess sim:tide-gauge-7", 0, "Nothing is wrong");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(the_story_ends_with_full_capacity, fresh_bench),
        cmocka_unit_test_setup(reports_have_their_shapes, fresh_bench),
        cmocka_unit_test_setup(wrong_usage_says_what_was_expected, fresh_bench),
        cmocka_unit_test(help_has_an_example_for_every_verb),
        cmocka_unit_test_setup(absent_devices_are_named, fresh_bench),
        cmocka_unit_test_setup(a_device_in_other_hands_is_left_alone,
                               fresh_bench),
        cmocka_unit_test_setup(consent_is_asked_for, fresh_bench),
        cmocka_unit_test_setup(edited_drafts_are_refused, fresh_bench),
        cmocka_unit_test_setup(what_is_left_out_has_its_default, fresh_bench),
        cmocka_unit_test_setup(what_a_draft_follows_from_is_sealed,
                               fresh_bench),
        cmocka_unit_test_setup(
            drafts_are_refused_on_a_changed_or_finished_device, fresh_bench),
        cmocka_unit_test(image_files_are_renewed_and_repeat),
        cmocka_unit_test(images_of_4096_byte_blocks_are_known_again),
        cmocka_unit_test(what_is_free_on_a_large_disk_is_told),
        cmocka_unit_test_setup(several_devices_are_told_in_a_line_each,
                               fresh_bench),
        cmocka_unit_test_setup(pictures_are_drawn_in_three_formats,
                               fresh_bench),
        cmocka_unit_test(images_that_cannot_serve_are_refused),
        cmocka_unit_test(read_only_images_are_left_alone),
        cmocka_unit_test(a_loop_device_of_the_host_is_renewed),
        cmocka_unit_test_setup(an_interrupted_renewal_goes_on, fresh_bench),
    };

    return cmocka_run_group_tests_name("tool", tests, NULL, clean);
}
