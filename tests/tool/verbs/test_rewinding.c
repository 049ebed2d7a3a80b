/* SPDX-License-Identifier: MIT */
/* The tool keeps what it replaces, lists it, and puts it back: rewind and
 * journals. */
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include <trueslate/trueslate.h>

#include "tool_case.h"

/* A volume among noise, so that a journal has something to keep. */
#define LAY                                                                    \
    "cd $FOLDER && rm -f a.img a.json b.img state/trueslate/*.journal *.gz "   \
    "&& "                                                                      \
    "truncate -s 48M a.img && head -c 3000000 /dev/urandom | dd of=a.img "     \
    "conv=notrunc 2>/dev/null && $TOOL renew file:a.img --volume exfat "       \
    "--label OLD-LOG --no-rewind --consent $($TOOL draft file:a.img --json | " \
    "grep -m1 -o '[A-Z]\\{5\\}-[2-9]\\{2\\}') >/dev/null && cp a.img "         \
    "before.img "                                                              \
    "&& tag=$($TOOL draft file:a.img --label BUOY --volume fat32 -o a.json "   \
    "--json | grep -m1 -o '[A-Z]\\{5\\}-[2-9]\\{2\\}') && "
#define NAME                                                                   \
    "name=$(ls state/trueslate/*.journal | sed "                               \
    "'s|.*/||;s/.journal$//;s/.rewound$//') && "

static void everything_comes_back_and_goes_again(void **state)
{
    (void)state;
    sh(LAY "$TOOL enact a.json --consent $tag && cp a.img after.img && " NAME
           "! cmp -s a.img before.img && $TOOL rewind $name a.img --consent "
           "$tag --json",
       0);
    sh("cd $FOLDER && cmp a.img before.img", 0);
    sh_answers("cd $FOLDER && " NAME "$TOOL journals", 0,
               "before it got one FAT32 volume \"BUOY\"");
    /* and it can be enacted again */
    sh_answers("cd $FOLDER && tag=$($TOOL assess a.img --json | grep -m1 -o "
               "'[A-Z]\\{5\\}-[2-9]\\{2\\}') && " NAME
               "$TOOL rewind $name a.img --consent $tag && $TOOL enact a.json "
               "--consent $tag && cmp a.img after.img && $TOOL rewind $name "
               "a.img --consent $tag && cmp a.img before.img",
               0, "has again what it had");
    sh_answers("cd $FOLDER && " NAME "$TOOL journals --drop $name && $TOOL "
               "journals",
               0, "No journals are kept");
}

/* The bench's devices are found by the tag in the journal. */
static void the_device_is_found_by_its_tag(void **state)
{
    (void)state;
    tool_run(&p, "renew sim:tide-gauge-7 --label TIDE-7 --consent NAFAN-45 "
                 "--journal $/tide.gz --json");
    assert_int_equal(p.code, 0);
    expect_text("enact.journal", in_folder("tide.gz"));
    expect("journals $/tide.gz --json", 0, "\"kept\"");
    check_schema("journals");
    expect("journals $/tide.gz --json --compare", 0, "\"rewind\"");
    check_schema("journals");
    expect("rewind $/tide.gz --consent TARUK-47", 3, "NAFAN-45");
    expect("rewind $/tide.gz", 3, "add --consent NAFAN-45");
    tool_run(&p, "rewind $/tide.gz --consent NAFAN-45");
    assert_int_equal(p.code, 0);
    assert_non_null(strstr(p.out, "FAT16 \"TGBOOT\""));
    tool_run(&p,
             "renew sim:tide-gauge-7 --consent NAFAN-45 --journal $/tide.gz");
    assert_int_equal(p.code, 2); /* the first one may be needed still */
    tool_run(&p,
             "renew sim:tide-gauge-7 --consent NAFAN-45 --journal $/tide.gz "
             "--replace");
    assert_int_equal(p.code, 0);
    tool_run(&p, "rewind $/tide.gz --consent NAFAN-45 --json");
    assert_int_equal(p.code, 0);
    check_schema("rewind");
    expect("journals $/tide.gz --json --compare", 0, "as-before");
    expect("assess sim:tide-gauge-7 --json", 0, "boot-image");
    tool_run(&p, "unplug tide-gauge-7");
    expect("journals $/tide.gz --json --compare", 0, "\"away\"");
    tool_run(&p, "plug tide-gauge-7");
}

static bool journal_is_there(void)
{
    return access(in_folder("cut.gz"), F_OK) == 0 && stick_is_marked();
}

/* What was cut can be gone on with, or taken back; assess tells both. */
static void what_was_cut_is_rewound(void **state)
{
    (void)state;
    sh("head -c 20000000 $FOLDER/bench/tide-gauge-7.blocks "
       ">$FOLDER/stick.before",
       0);
    memset(&p, 0, sizeof p);
    p.interrupt_when = stick_is_marked;
    tool_run(&p, "renew sim:tide-gauge-7 --label TIDE-7 --consent NAFAN-45");
    assert_int_equal(p.code, 6);
    memset(&p, 0, sizeof p);
    sh_answers("$TOOL assess sim:tide-gauge-7", 0, "trueslate rewind NAFAN-45");
    sh("cd $FOLDER && " NAME
       "$TOOL rewind $name --consent NAFAN-45 && cmp -n 20000000 "
       "stick.before bench/tide-gauge-7.blocks && ! ls "
       "state/trueslate/*.draft.json",
       0);
    /* gone on with instead: the journal of the first run still holds */
    sh("rm $FOLDER/state/trueslate/*", 0);
    p.interrupt_when = journal_is_there;
    tool_run(&p, "renew sim:tide-gauge-7 --label TIDE-7 --consent NAFAN-45 "
                 "--journal $/cut.gz");
    assert_int_equal(p.code, 6);
    memset(&p, 0, sizeof p);
    tool_run(&p,
             "renew sim:tide-gauge-7 --consent NAFAN-45 --journal $/cut.gz");
    assert_int_equal(p.code, 0);
    assert_non_null(strstr(p.out, "cut.gz"));
    sh("cd $FOLDER && $TOOL rewind cut.gz --consent NAFAN-45 && cmp -n "
       "20000000 "
       "stick.before bench/tide-gauge-7.blocks",
       0);
}

static void what_came_since_is_not_lost_by_mistake(void **state)
{
    (void)state;
    sh(LAY "$TOOL enact a.json --consent $tag && printf x | dd of=a.img bs=1 "
           "seek=1100000 conv=notrunc 2>/dev/null",
       0);
    sh_answers("cd $FOLDER && " NAME "cp a.img used.img; $TOOL rewind $name "
               "a.img --consent $(echo $name | cut -c1-8); code=$?; cmp a.img "
               "used.img && exit $code",
               3, "used since: 1 blocks, the first is 2148");
    sh_answers("cd $FOLDER && " NAME "$TOOL journals b.img", 2, "no such");
    sh("cd $FOLDER && " NAME
       "$TOOL rewind $name a.img --anyway --consent $(echo "
       "$name | cut -c1-8) && cmp a.img before.img",
       0);
}

/* A journal that cannot be kept stops everything ahead of the first write. */
static void a_failing_place_stops_before_the_device(void **state)
{
    (void)state;
    sh(LAY "echo $tag >tag", 0);
    sh_answers("cd $FOLDER && $TOOL enact a.json --journal no/where.gz "
               "--consent $(cat tag); code=$?; cmp a.img before.img && exit "
               "$code",
               3, "No such file");
    sh_answers("cd $FOLDER && trap '' XFSZ && ulimit -f 100 && $TOOL enact "
               "a.json --journal full.gz --consent $(cat tag); code=$?; cmp "
               "a.img before.img && ! ls full.gz* >/dev/null 2>&1 && exit "
               "$code",
               3, "cannot be kept");
    sh_answers("cd $FOLDER && echo mine >own && $TOOL enact a.json --journal "
               "own --consent $(cat tag); code=$?; cmp a.img before.img && "
               "grep -q mine own && exit $code",
               2, "is not the journal of this");
    sh_answers("cd $FOLDER && $TOOL enact a.json --journal a.img --consent "
               "$(cat tag); code=$?; cmp a.img before.img && exit $code",
               2, "image itself");
    sh("cd $FOLDER && $TOOL enact a.json --no-rewind --consent $(cat tag) | "
       "grep -c 'put back'",
       1);
    sh("ls $FOLDER/state/trueslate/*.journal", 2);
}

/* Whatever has happened to a journal, nothing is written by it. */
static void damaged_ones_are_refused(void **state)
{
    static const char *const damage[] = {
        "head -c 60 good >bad",
        "head -c $(($(stat -c %s good) - 60)) good >bad",
        "head -c $(($(stat -c %s good) / 2)) good >bad",
        ": >bad",
        "echo nothing of ours >bad",
        "gzip -dc good | head -c 5000 >bad",
        "gzip -dc good | sed '1s/TSREWIND/TSREWINE/' >bad",
        "gzip -dc good >bad; printf '\\377' | dd of=bad bs=1 seek=9 "
        "conv=notrunc 2>/dev/null",
        "gzip -dc good >bad; printf Z | dd of=bad bs=1 seek=100000 "
        "conv=notrunc 2>/dev/null",
        "cp good bad; printf ZZZZ | dd of=bad bs=1 seek=100000 conv=notrunc "
        "2>/dev/null"};

    (void)state;
    sh(LAY "$TOOL enact a.json --journal good --consent $tag && cp a.img "
           "after.img && echo $tag >tag",
       0);
    for (size_t i = 0; i < sizeof damage / sizeof damage[0]; i++) {
        setenv("DAMAGE", damage[i], 1);
        sh_answers("cd $FOLDER && eval \"$DAMAGE\"; $TOOL rewind bad a.img "
                   "--anyway --consent $(cat tag); code=$?; cmp a.img "
                   "after.img && exit $code",
                   3, "trueslate: bad: ");
        sh_answers("cd $FOLDER && $TOOL journals bad", 0, "State      ");
        sh("cd $FOLDER && $TOOL journals bad --json --compare | grep -q "
           "'\"damaged\"'",
           0);
    }
    sh_answers("cd $FOLDER && cp good bad && $TOOL journals --drop bad && ! "
               "test -e bad",
               0, "bad is gone");
    sh_answers(
        "cd $FOLDER && ! $TOOL journals --drop a.img a.json && cmp a.img "
        "after.img && test -e a.json && exit 3",
        3, "is no journal; it stays");
    /* what is not compressed is read as well, as a board would leave it */
    sh("cd $FOLDER && gzip -dc good >plain && $TOOL rewind plain a.img "
       "--consent $(cat tag) && cmp a.img before.img",
       0);
}

/* Of another device, of another draft: two journals of one device do not get
 * mixed up. */
static void the_wrong_journal_is_refused(void **state)
{
    (void)state;
    sh(LAY "$TOOL enact a.json --journal one.gz --consent $tag && echo $tag "
           ">tag && cp a.img one.img",
       0);
    sh("cd $FOLDER && $TOOL renew a.img --volume ntfs --label SHORE --journal "
       "two.gz --consent $(cat tag) && cp a.img two.img",
       0);
    sh_answers("cd $FOLDER && $TOOL rewind one.gz a.img --consent $(cat tag)",
               3, "used since");
    sh("cd $FOLDER && $TOOL rewind two.gz a.img --consent $(cat tag) && cmp "
       "a.img one.img && $TOOL rewind one.gz a.img --consent $(cat tag) && cmp "
       "a.img before.img",
       0);
    sh_answers("cd $FOLDER && truncate -s 48M b.img && $TOOL rewind two.gz "
               "b.img --consent $(cat tag)",
               3, "the journal is of");
    sh_answers("cd $FOLDER && $TOOL rewind two.gz --consent $(cat tag)", 4,
               "trueslate: ");
    expect("rewind nosuch", 2, "'trueslate journals' lists them");
    expect("rewind a b c", 2, "no such journal");
}

/* Where the draft places files, they are not needed to tell what it wrote. */
static void placed_files_are_compared(void **state)
{
    (void)state;
    sh(LAY "mkdir -p files && seq 200000 >files/LOG.TXT && $TOOL renew a.img "
           "--volume fat32 --files files --journal f.gz --consent $tag && cp "
           "a.img after.img && echo $tag >tag && rm -r files",
       0);
    /* a single byte of the file, which is somewhere on it */
    sh_answers("cd $FOLDER && at=$(grep -abom1 '^100000$' a.img | cut -d: -f1) "
               "&& printf 7 | dd of=a.img bs=1 seek=$at conv=notrunc "
               "2>/dev/null && $TOOL rewind f.gz a.img --consent $(cat tag); "
               "code=$?; cp after.img a.img && exit $code",
               3, "used since: 1 blocks");
    sh("cd $FOLDER && $TOOL rewind f.gz a.img --consent $(cat tag) && cmp "
       "a.img before.img",
       0);
}

/* The newest one first: an older one that fits names it, and refuses. */
static void the_newest_is_rewound_first(void **state)
{
    (void)state;
    sh(LAY "$TOOL enact a.json --consent $tag && cp a.img one.img && $TOOL "
           "relabel a.img --label NEWER --consent $tag && cp a.img two.img && "
           "echo $tag >tag && ls -t state/trueslate/*.journal | sed "
           "'s|.*/||;s/.journal$//' >names && test $(wc -l <names) = 2",
       0);
    sh_answers("cd $FOLDER && $TOOL rewind $(tail -n1 names) a.img --consent "
               "$(cat tag); code=$?; cmp a.img two.img && exit $code",
               3, "a newer journal of it is in force: rewind ");
    sh_answers("cd $FOLDER && $TOOL journals | grep -m1 kept", 0, "kept");
    sh("cd $FOLDER && $TOOL journals | head -n1 | grep -q $(head -n1 names) && "
       "$TOOL rewind $(head -n1 names) a.img --consent $(cat tag) && cmp a.img "
       "one.img && $TOOL rewind $(tail -n1 names) a.img --consent $(cat tag) "
       "&& cmp a.img before.img && $TOOL journals --json | grep -c rewound | "
       "grep -q 4",
       0);
    /* and rest until something new is begun */
    sh("cd $FOLDER && $TOOL relabel a.img --label AGAIN --consent $(cat tag) "
       "&& test $(ls state/trueslate/*.journal | wc -l) = 1 && ! ls "
       "state/trueslate/*.rewound.journal",
       0);
}

/* One of a version that is not known yet: its head is sound, and tells whose it
 * is. */
static void a_later_version_is_told_as_such(void **state)
{
    uint8_t head[128];
    uint32_t sum;
    FILE *file;

    (void)state;
    sh(LAY "$TOOL enact a.json --journal kept --consent $tag && cp a.img "
           "after.img && echo $tag >tag && gzip -dc kept >later",
       0);
    file = fopen(in_folder("later"), "r+b");
    assert_non_null(file);
    assert_int_equal(fread(head, sizeof head, 1, file), 1);
    head[8] = 3;
    sum = slate_crc32c(UINT32_MAX, head, 124);
    for (int i = 0; i < 4; i++)
        head[124 + i] = (uint8_t)(sum >> 8 * i);
    rewind(file);
    assert_int_equal(fwrite(head, sizeof head, 1, file), 1);
    fclose(file);
    sh_answers(
        "cd $FOLDER && $TOOL rewind later a.img --anyway --consent $(cat "
        "tag); code=$?; cmp a.img after.img && exit $code",
        3, "kept by another version");
    sh("cd $FOLDER && $TOOL journals later --json | grep -q other-version", 0);
}

static void a_draft_says_when_nothing_is_kept(void **state)
{
    (void)state;
    sh_answers("cd $FOLDER && rm -f big.img && truncate -s 15T big.img && "
               "$TOOL draft big.img --volume exfat --cluster 8K",
               0, "is not possible: ");
    sh_answers("cd $FOLDER && $TOOL draft big.img --volume ntfs", 0,
               "before it is compressed");
}

/* The command that is told works as it stands. */
static void what_is_told_is_what_works(void **state)
{
    (void)state;
    sh("cd $FOLDER && rm -f c4.img && truncate -s 96M c4.img && cp c4.img "
       "c4.before && tag=$($TOOL assess c4.img --block-size 4096 --json | grep "
       "-m1 -o '[A-Z]\\{5\\}-[2-9]\\{2\\}') && line=$($TOOL renew c4.img "
       "--block-size 4096 --volume exfat --consent $tag | grep '^  trueslate "
       "rewind' | sed 's/^  trueslate/$TOOL/') && ! cmp -s c4.img c4.before && "
       "eval \"$line --consent $tag\" && cmp c4.img c4.before && ! eval "
       "\"$line "
       "--block-size 512 --consent $tag\"",
       0);
}

static void relabelling_is_rewound(void **state)
{
    (void)state;
    sh(LAY "$TOOL relabel a.img --label NEWER --consent $tag && " NAME
           "$TOOL assess a.img | grep -q NEWER && $TOOL rewind $name a.img "
           "--consent $tag && cmp a.img before.img",
       0);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(everything_comes_back_and_goes_again),
        cmocka_unit_test_setup(the_device_is_found_by_its_tag, fresh_bench),
        cmocka_unit_test_setup(what_was_cut_is_rewound, fresh_bench),
        cmocka_unit_test(what_came_since_is_not_lost_by_mistake),
        cmocka_unit_test(a_failing_place_stops_before_the_device),
        cmocka_unit_test(damaged_ones_are_refused),
        cmocka_unit_test(the_wrong_journal_is_refused),
        cmocka_unit_test(placed_files_are_compared),
        cmocka_unit_test(the_newest_is_rewound_first),
        cmocka_unit_test(a_later_version_is_told_as_such),
        cmocka_unit_test(a_draft_says_when_nothing_is_kept),
        cmocka_unit_test(relabelling_is_rewound),
        cmocka_unit_test(what_is_told_is_what_works),
    };

    return cmocka_run_group_tests_name("rewinding", tests, fresh_bench, clean);
}
