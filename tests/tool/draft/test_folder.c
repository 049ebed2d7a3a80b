/* SPDX-License-Identifier: MIT */
/* A folder given on the command line: what is taken from it, what is refused,
 * and what happens when it changes. */
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>

#include "tool_case.h"

/* What a logger starts with. */
static void make_folder(void)
{
    sh("rm -rf $FOLDER/put $FOLDER/moved && mkdir -p $FOLDER/put/SURVEY/deep "
       "&& cd $FOLDER/put && printf start >START.SYS && printf second >B.SYS "
       "&& "
       "printf 'interval 600\\n' >logger.cfg && : >empty.dat && "
       "head -c 300000 /dev/zero | tr '\\0' 'w' >SURVEY/waves.bin && "
       "printf deep >'SURVEY/deep/m\xC3\xA5ling one.txt' && printf h >.hidden "
       "&& chmod 444 START.SYS && touch -d '2025-03-04 05:06:07' logger.cfg",
       0);
}

/* A blank image, and its tag. */
static void make_image(const char *size)
{
    setenv("SIZE", size, 1);
    sh("cd $FOLDER && rm -f card.img && truncate -s $SIZE card.img", 0);
    assert_int_equal(tool_run(&p, "assess file:$/card.img --json"), 0);
    take_tag();
    setenv("TAG", tag, 1);
}

static void is_untouched(void)
{
    sh("cmp -n $(stat -c %s $FOLDER/card.img) $FOLDER/card.img /dev/zero", 0);
}

static void a_folder_is_shown_and_placed(void **state)
{
    (void)state;
    make_folder();
    make_image("64M");
    expect("draft file:$/card.img --volume fat16 --label BUOY --files $/put "
           "--files-first START.SYS,B.SYS -o $/d.json",
           0, "7 files and 2 folders");
    assert_non_null(strstr(p.out, "first in the root: "));
    assert_non_null(strstr(p.out, "for further files"));
    sh("cd $FOLDER && $TOOL enact d.json --consent $TAG && $TOOL prove d.json",
       0);
    expect("assess file:$/card.img", 0, "\"BUOY\"");
    expect("draft file:$/card.img --volume exfat --files $/put --json", 0, "");
    check_schema("draft");
    assert_int_equal(number("result.files.files"), 7);
    assert_int_equal(number("result.files.folders"), 2);
    assert_int_equal(number("result.files.bytes"), 5 + 6 + 13 + 300000 + 4 + 1);
    expect_text("files.1.name", ".hidden");
    expect_text("files.1.attributes.0", "hidden");
    expect_text("files.3.name", "START.SYS");
    expect_text("files.3.attributes.0", "read-only");
    expect_text("files.6.name", "logger.cfg");
    assert_int_equal(number("files.6.year"), 2025);
    assert_int_equal(number("files.6.second"), 7);
    assert_int_equal(number("files.7.in"), 4); /* SURVEY's */
}

/* A revised draft keeps its files, or gets others. */
static void a_draft_with_files_is_revised(void **state)
{
    (void)state;
    make_folder();
    make_image("64M");
    expect("draft file:$/card.img --files $/put -o $/d.json", 0, "7 files");
    expect("draft $/d.json --volume exfat --label NEW", 0, "7 files");
    sh("mkdir $FOLDER/moved && printf x >$FOLDER/moved/only.txt", 0);
    expect("draft $/d.json --files $/moved", 0, "1 file, 1 byte");
    expect("draft $/d.json --part 20MB", 0, "21 MB (20 MiB)");
    assert_null(strstr(p.out, "  Files "));
}

static void what_cannot_be_placed_is_refused(void **state)
{
    static const struct {
        const char *make, *options;
        int code;
        const char *words;
    } rows[] = {
        {"ln -s START.SYS put/link", "", 7, "put/link: is a link"},
        {"ln -s /etc put/SURVEY/etc", "", 7, "SURVEY/etc: is a link"},
        {"mkfifo put/pipe", "", 7, "neither a file nor a folder"},
        {"ln card.img put/itself", "", 2, "is the image itself"},
        {"printf x >'put/a:b'", "", 7, "a:b: its name has one of"},
        {"printf x >put/$(printf 'e\\033[31m')", "", 7, "\\x1B[31m: its name"},
        {"printf x >put/$(printf 'l\\377')", "", 7, "l\\xFF: its name is not"},
        {"printf x >'put/SURVEY/deep/end.'", "", 7,
         "SURVEY/.../end.: its name ends in"},
        {"printf x >put/LOGGER.CFG", "", 7, "differs in case alone"},
        {"truncate -s 70M put/large", "", 7, "they do not fit"},
        {"truncate -s 5G put/huge", "--volume fat32", 7,
         "huge has 5.37 GB (5 GiB), and a FAT volume holds files below"},
        {"rm -r put; printf x >put", "", 2, "expected a folder"},
        {"rm -r put", "", 4, "No such file"},
        {":", "--files-first START.SYS,NONE", 2, "there is no 'NONE'"},
        {":", "--files put", 2, "files of one volume alone"},
        {":", "--bare", 2, "go on a new volume, and it has none"},
        {":", "--start-code $/put", 4, "and this is a folder"},
        {":", "--start-code $/put/START.SYS", 2, "expected 512 bytes"},
    };
    char line[300];

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        make_folder();
        make_image("64M");
        snprintf(line, sizeof line, "cd $FOLDER && %s", rows[i].make);
        sh(line, 0);
        snprintf(line, sizeof line, "draft file:$/card.img --files $/put %s",
                 rows[i].options);
        expect(line, rows[i].code, rows[i].words);
        is_untouched();
    }
    make_folder();
    expect("draft file:$/card.img --files-first START.SYS", 2,
           "expected --files FOLDER");
    expect("draft file:$/card.img -o $/n.json", 0, "Nothing was written");
    expect("prove $/n.json --files $/put", 2, "that draft places no files");
    expect("enact $/n.json --files $/put", 2, "that draft places no files");
}

/* A way down that is longer than a path can be, and many files in one place.
 */
static void hostile_trees(void **state)
{
    (void)state;
    make_folder();
    make_image("64M");
    sh("cd $FOLDER/put && for i in $(seq 22); do "
       "mkdir $(printf %0200d $i) && cd $(printf %0200d $i); done",
       0);
    expect("draft file:$/card.img --files $/put", 2, "lies too deep");
    is_untouched();
    make_folder();
    sh("cd $FOLDER/put && seq -f 'entry %g.txt' 3000 | xargs -d '\\n' touch",
       0);
    sh_answers("cd $FOLDER && $TOOL renew card.img --volume fat32 --files put "
               "--consent $TAG",
               0, "3007 files");
    expect("draft file:$/card.img --volume fat16 --files $/put", 7,
           "has no room for so many entries");
    sh("rm -rf $FOLDER/put/*", 0);
    sh("rm -f $FOLDER/put/.hidden", 0);
    expect("draft file:$/card.img --files $/put", 0, "0 files, 0 bytes");
}

/* Between draft and enact: told before anything is written. */
static void files_that_change_are_found_before_the_first_write(void **state)
{
    static const struct {
        const char *change, *file;
    } rows[] = {
        {"printf sturt >put/START.SYS", "START.SYS"},
        {"printf x >>put/empty.dat", "empty.dat"},
        {"truncate -s 299999 put/SURVEY/waves.bin", "waves.bin"},
        {"printf v | dd of=put/SURVEY/waves.bin bs=1 seek=299999 conv=notrunc "
         "2>/dev/null",
         "waves.bin"},
        {"rm put/logger.cfg", "logger.cfg"},
        {"rm put/B.SYS && mkfifo put/B.SYS", "B.SYS"},
        {"rm put/B.SYS && ln -s START.SYS put/B.SYS", "B.SYS"},
        {"mv put moved", "put"},
    };
    char line[300];

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        make_folder();
        make_image("64M");
        expect("draft file:$/card.img --files $/put -o $/d.json --replace", 0,
               "7 files");
        snprintf(line, sizeof line, "cd $FOLDER && chmod u+w put/* && %s",
                 rows[i].change);
        sh(line, 0);
        snprintf(line, sizeof line, "enact $/d.json --consent %s", tag);
        expect(line, 4, "is not what it was when the draft was made");
        assert_non_null(strstr(p.err, rows[i].file));
        is_untouched();
    }
    snprintf(line, sizeof line, "enact $/d.json --files $/moved --consent %s",
             tag);
    expect(line, 0, "Written"); /* they are the same, elsewhere */
    expect("prove $/d.json", 4, "is not what it was");
    expect("prove $/d.json --files $/moved", 0, "Proved");
}

/* Code of a boot block: refused for another kind, kept by a revised draft. */
static void start_up_code_from_a_file(void **state)
{
    (void)state;
    make_folder();
    make_image("64M");
    sh("cd $FOLDER && { printf '\\353\\074\\220'; head -c 507 /dev/zero | tr "
       "'\\0' 'c'; printf '\\125\\252'; } >fat16.bin",
       0);
    expect("draft file:$/card.img --table none --volume fat16 --start-code "
           "$/fat16.bin --files $/put --files-first START.SYS -o $/d.json",
           0, "start-up code that was given");
    expect("draft $/d.json --volume fat32", 7, "is not for such a volume");
    expect("draft $/d.json --volume exfat", 7, "is not for such a volume");
    expect("draft $/d.json --label CODE", 0, "start-up code that was given");
    sh("cd $FOLDER && $TOOL enact d.json --consent $TAG && "
       "cmp -n 448 -i 62 card.img fat16.bin && cmp -n 3 card.img fat16.bin && "
       "$TOOL prove d.json",
       0);
    expect("assess file:$/card.img", 0, "FAT16");
}

/* Ctrl-C while files are read, and a renewal that is gone on with. */
static void an_interrupted_renewal_with_files_goes_on(void **state)
{
    char line[300];

    (void)state;
    assert_int_equal(fresh_bench(state), 0);
    make_folder();
    sh("head -c 20000000 /dev/zero | tr '\\0' 'l' >$FOLDER/put/long.bin", 0);
    snprintf(line, sizeof line, "renew %s --files $/put --consent %s", tag,
             tag);
    p.interrupt_when = stick_is_marked;
    p.signal = SIGINT;
    tool_run(&p, line);
    p.interrupt_when = NULL;
    p.signal = 0;
    assert_int_equal(p.code, 6);
    sh("printf m >>$FOLDER/put/long.bin", 0);
    snprintf(line, sizeof line, "renew %s --consent %s", tag, tag);
    assert_int_equal(tool_run(&p, line), 4);
    assert_non_null(strstr(p.err, "long.bin: a file to be placed"));
    sh("truncate -s 20000000 $FOLDER/put/long.bin", 0);
    expect(line, 0, "already in place");
    assert_non_null(strstr(p.out, "8 files"));
}

/* The command that is printed for putting back is one that is taken: after a
 * renewal, and for one that is unfinished. */
static void the_printed_rewind_is_taken(void **state)
{
    char line[300];

    (void)state;
    assert_int_equal(fresh_bench(state), 0);
    make_folder();
    snprintf(line, sizeof line,
             "cd $FOLDER && mv put 'put here' && $TOOL renew %s --files "
             "'put here' --consent %s >said && command=$(grep 'trueslate "
             "rewind' said | sed \"s|trueslate|$TOOL|\") && eval \"$command "
             "--consent %s\"",
             tag, tag, tag);
    sh_answers(line, 0, "as it was");
    sh("cd $FOLDER && mv 'put here' put && head -c 20000000 /dev/zero "
       ">put/long",
       0);
    snprintf(line, sizeof line, "renew %s --files $/put --consent %s", tag,
             tag);
    p.interrupt_when = stick_is_marked;
    p.signal = SIGINT;
    tool_run(&p, line);
    p.interrupt_when = NULL;
    p.signal = 0;
    snprintf(line, sizeof line,
             "cd $FOLDER && command=$($TOOL assess %s | grep 'trueslate "
             "rewind' | sed \"s|trueslate|$TOOL|\") && eval \"$command "
             "--consent %s\"",
             tag, tag);
    sh_answers(line, 0, "as it was");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(a_folder_is_shown_and_placed),
        cmocka_unit_test(a_draft_with_files_is_revised),
        cmocka_unit_test(what_cannot_be_placed_is_refused),
        cmocka_unit_test(hostile_trees),
        cmocka_unit_test(files_that_change_are_found_before_the_first_write),
        cmocka_unit_test(start_up_code_from_a_file),
        cmocka_unit_test(an_interrupted_renewal_with_files_goes_on),
        cmocka_unit_test(the_printed_rewind_is_taken),
    };

    return cmocka_run_group_tests_name("folder", tests, fresh_bench, clean);
}
