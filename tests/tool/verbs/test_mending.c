/* SPDX-License-Identifier: MIT */
/* The tool mends and converts: what it offers it does, and it can be taken
 * back. */
#include "tool_case.h"

static void a_copied_disk_reaches_its_end(void **state)
{
    (void)state;
    expect("assess sim:shore-disk-8", 0, "trueslate mend HEXAK-92 --only gpt");
    expect("assess sim:shore-disk-8 --json", 0, "gpt-backup-misplaced");
    expect_text("findings.0.remedy.kind", "mend");
    expect_text("findings.0.remedy.mend", "gpt");
    check_schema("assess");
    expect("mend sim:shore-disk-8", 3, "add --consent HEXAK-92");
    expect("mend sim:shore-disk-8 --consent HEXAK-92 --json", 0, "\"mended\"");
    expect_text("mended.0.kind", "gpt");
    check_schema("mend");
    expect("mend sim:shore-disk-8 --consent HEXAK-92", 3, "nothing was found");
    /* the rest can be used now, and all of it comes back */
    expect("assess sim:shore-disk-8", 0, "--keep all --part rest");
    expect("draft sim:shore-disk-8 --keep all --part rest -o $/rest.json", 0,
           "stays");
    sh("cd $FOLDER && name=$(basename $(ls state/trueslate/HEXAK*.journal) "
       ".journal) && $TOOL rewind $name --consent HEXAK-92 && $TOOL assess "
       "sim:shore-disk-8 --json | grep -q gpt-backup-misplaced",
       0);
}

static void an_old_disk_is_converted(void **state)
{
    (void)state;
    expect("assess sim:shore-disk-3", 0, "--table gpt");
    expect("convert sim:shore-disk-3", 2, "--table gpt or --table mbr");
    expect("convert sim:shore-disk-3 --table mbr --consent GAWEF-86", 3,
           "has the table of that kind already");
    expect("convert sim:shore-disk-3 --table gpt --consent GAWEF-86", 0,
           "Proved");
    expect("assess sim:shore-disk-3 --json", 0, "\"gpt\"");
    assert_int_equal(number("partitions.0.blocks"), 4294965247);
    expect("draft sim:shore-disk-3 --keep all --part rest --volume exfat -o "
           "$/half.json",
           0, "stays");
    expect("enact $/half.json --consent GAWEF-86", 0, "Written");
    expect("prove $/half.json", 0, "Proved");
    expect("convert sim:shore-disk-3 --table mbr --consent GAWEF-86", 7,
           "lies beyond what an MBR reaches: partition 2, by ");
}

/* The rest gets its partitions in the same draft. */
static void the_rest_is_used_at_once(void **state)
{
    (void)state;
    expect("assess sim:shore-disk-3", 0, "--table gpt --part rest");
    expect("convert sim:shore-disk-3 --table gpt --label X", 2,
           "expected --part SIZE");
    expect("convert sim:shore-disk-3 --table gpt --part 9TB", 7, "no room");
    expect("convert sim:shore-disk-3 --table gpt --part rest --volume fat12", 7,
           "FAT12 reaches");
    expect("convert sim:shore-disk-3 --table gpt --part 500GB --label CALIB "
           "--part rest --volume ext4 --label ARCHIVE",
           3, "--consent GAWEF-86");
    expect("convert sim:shore-disk-3 --table gpt --part 500GB --label CALIB "
           "--part rest --volume ext4 --label ARCHIVE -o $/c.json --consent "
           "GAWEF-86 --json",
           0, "trueslate.mend/1");
    check_schema("mend");
    expect("assess sim:shore-disk-3 --json", 0, "\"healthy\"");
    assert_int_equal(number("partitions.0.blocks"), 4294965247);
    expect_text("partitions.1.volume.label", "CALIB");
    expect_text("partitions.2.volume.kind", "ext4");
    expect("enact $/c.json --consent GAWEF-86", 3, "already been enacted");
    sh("cd $FOLDER && name=$(basename $(ls -t state/trueslate/GAWEF*.journal | "
       "head -1) "
       ".journal) && $TOOL rewind $name --consent GAWEF-86 && $TOOL assess "
       "sim:shore-disk-3 --json | grep -q mbr-limit",
       0);
}

static void what_was_deleted_is_found_and_put_back(void **state)
{
    (void)state;
    expect("assess sim:tide-gauge-12", 0, "trueslate search GUHUN-42");
    expect("assess sim:tide-gauge-12 --json", 0, "\"offers\"");
    expect_text("offers.1", "search");
    check_schema("assess");
    expect("search sim:tide-gauge-12", 0, "--put-back 67584,2998272");
    expect("search sim:tide-gauge-12 --json", 0, "TIDES-24");
    check_schema("search");
    assert_int_equal(number("found"), 2);
    expect_text("volumes.1.label", "TIDES-25");
    expect_text("volumes.1.evidence.2", "content");
    expect("search sim:tide-gauge-12 --every 64MiB --from 2998272 --json", 0,
           "TIDES-25");
    assert_int_equal(number("found"), 1);
    expect("search sim:tide-gauge-12 --every 100", 2, "at least a block");
    expect("search sim:tide-gauge-12 --every rest", 2, "expected a size");
    expect("mend sim:tide-gauge-12 --put-back 67585", 3, "no volume that");
    expect("mend sim:tide-gauge-12 --put-back 4096", 3, "in a partition");
    expect("mend sim:tide-gauge-12 --put-back 67584,67584", 7,
           "shares blocks with another");
    expect("mend sim:tide-gauge-12 --put-back 1,x", 2, "numbers of blocks");
    expect("mend sim:tide-gauge-12 --put-back 67584 --only gpt", 2, "not both");
    expect("mend sim:tide-gauge-12 --put-back 67584 --table gpt", 2,
           "only where there is no table");
    expect("mend sim:tide-gauge-12 --put-back 67584,2998272", 3,
           "add --consent GUHUN-42");
    expect("mend sim:tide-gauge-12 --put-back 67584,2998272 -o $/b.json "
           "--consent GUHUN-42 --json",
           0, "\"lost\"");
    check_schema("mend");
    assert_int_equal(number("mended.1.partition"), 3);
    expect("prove $/b.json", 0, "Proved");
    expect("assess sim:tide-gauge-12", 0, "TIDES-24");
    expect("search sim:tide-gauge-12", 0, "0 volumes");
    /* the file in it is where it was */
    sh("cd $FOLDER && grep -qc 'outer mole, 2024' bench/tide-gauge-12.blocks",
       0);
}

static void a_mend_is_a_draft(void **state)
{
    (void)state;
    expect("draft sim:shore-disk-8 --mend gpt,type -o $/m.json --json", 0,
           "trueslate.draft/14");
    check_schema("draft");
    expect_text("mends.0.kind", "gpt");
    expect("draft $/m.json --label X", 2, "changes a device in place");
    expect("draft sim:shore-disk-8 --mend gpt --label X", 2, "nothing else");
    expect("draft sim:shore-disk-3 --mend to-gpt --part rest --label R -o "
           "$/t.json",
           0, "exFAT \"R\"");
    expect("enact $/t.json --consent GAWEF-86", 0, "Written");
    expect("prove $/t.json", 0, "Proved");
    expect("draft sim:tide-gauge-12 --put-back 67584 -o $/p.json", 0,
           "TIDES-24");
    expect("draft sim:tide-gauge-12 --put-back 67584 --label X", 2,
           "nothing else");
    expect("draft sim:tide-gauge-12 --put-back 67584 --mend gpt", 2,
           "nothing else");
    expect("enact $/p.json --consent GUHUN-42", 0, "Written");
    expect("draft sim:shore-disk-8 --mend good", 2, "expected gpt, hybrid");
    expect("draft sim:tide-gauge-8 --mend all", 3, "nothing was found");
    expect("enact $/m.json --consent HEXAK-92", 0, "Written");
    expect("enact $/m.json --consent HEXAK-92", 3, "already been enacted");
    expect("prove $/m.json", 0, "Proved");
}

/* Two images of one size, whose tables differ in their second partition; the
 * first copy of one of them is put over that of the other. */
#define DIFFER                                                                 \
    "cd $FOLDER && rm -f one.img two.img && for n in one two; do truncate -s " \
    "100M $n.img; done && tag=$($TOOL assess two.img --json | sed -n 's/^  "   \
    "\"tag\": \"\\(.*\\)\",$/\\1/p') && $TOOL renew two.img --table gpt "      \
    "--part "                                                                  \
    "40MB --volume exfat --label TIDES --part rest --volume fat16 --label "    \
    "WAVES --no-rewind --consent $tag >/dev/null && $TOOL renew one.img "      \
    "--table gpt --part 40MB --volume exfat --label TIDES --no-rewind "        \
    "--consent $($TOOL assess one.img --json | sed -n 's/^  \"tag\": "         \
    "\"\\(.*\\)\",$/\\1/p') >/dev/null && dd if=one.img of=two.img bs=512 "    \
    "skip=1 seek=1 count=33 conv=notrunc 2>/dev/null && cp two.img "           \
    "differ.img "                                                              \
    "&& echo $tag >tag && "

/* Of two sound copies that differ, a person picks one, and nobody else. */
static void two_copies_that_differ_are_both_shown(void **state)
{
    (void)state;
    sh(DIFFER
       "$TOOL assess two.img >shown && grep -q '1st copy' shown && grep -q "
       "'2nd copy' shown && test $(grep -c TIDES shown) = 2 && test "
       "$(grep -c WAVES shown) = 1 && grep -q -- '--from second' shown && ! "
       "grep -q 'trueslate renew' shown",
       0);
    tool_run(&p, "assess $/two.img --json");
    assert_int_equal(p.code, 0);
    expect_text("other_copy.copy", "second");
    assert_int_equal(number("other_copy.found"), 2);
    expect_text("other_copy.partitions.1.volume.kind", "FAT16");
    check_schema("assess");
    /* what would write over one of them is refused */
    sh_answers(
        "cd $FOLDER && $TOOL mend two.img --consent $(cat tag); code=$?; "
        "cmp two.img differ.img && exit $code",
        3, "expected --from first or --from second");
    sh_answers(
        "cd $FOLDER && $TOOL convert two.img --table mbr --consent $(cat "
        "tag); code=$?; cmp two.img differ.img && exit $code",
        3, "--from first or --from second");
    sh_answers(
        "cd $FOLDER && $TOOL renew two.img --keep 1 --part rest --consent "
        "$(cat tag); code=$?; cmp two.img differ.img && exit $code",
        3, "has to be picked first");
    expect("mend $/two.img --from third", 2, "first or second");
}

static void the_copy_that_is_picked_stays(void **state)
{
    (void)state;
    sh_answers("cd $FOLDER && $TOOL mend two.img --from first --consent $(cat "
               "tag)",
               0, "alone names 1 volume");
    sh("cd $FOLDER && $TOOL assess two.img >shown && ! grep -q WAVES shown && "
       "! "
       "grep -q '2nd copy' shown && $TOOL rewind $(ls "
       "-t state/trueslate/*.journal | head -n1 | "
       "sed 's|.*/||;s/.journal$//') two.img --consent $(cat tag) && cmp "
       "two.img "
       "differ.img",
       0);
    sh("cd $FOLDER && $TOOL mend two.img --from second --consent $(cat tag) "
       ">shown && grep -q 'nothing: all but' shown && $TOOL assess two.img "
       ">shown && grep -q WAVES shown && ! grep -q '1st copy' shown",
       0);
    sh_answers("cd $FOLDER && $TOOL mend two.img --from second --consent $(cat "
               "tag)",
               2, "these do not");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(a_copied_disk_reaches_its_end, fresh_bench),
        cmocka_unit_test_setup(an_old_disk_is_converted, fresh_bench),
        cmocka_unit_test_setup(the_rest_is_used_at_once, fresh_bench),
        cmocka_unit_test_setup(what_was_deleted_is_found_and_put_back,
                               fresh_bench),
        cmocka_unit_test_setup(a_mend_is_a_draft, fresh_bench),
        cmocka_unit_test(two_copies_that_differ_are_both_shown),
        cmocka_unit_test(the_copy_that_is_picked_stays),
    };

    return cmocka_run_group_tests_name("mending", tests, NULL, clean);
}
