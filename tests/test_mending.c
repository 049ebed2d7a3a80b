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
    expect("convert sim:shore-disk-3 --table mbr --consent GAWEF-86", 2,
           "lies beyond what an MBR reaches: partition 2, by ");
}

static void a_mend_is_a_draft(void **state)
{
    (void)state;
    expect("draft sim:shore-disk-8 --mend gpt,type -o $/m.json --json", 0,
           "trueslate.draft/10");
    check_schema("draft");
    expect_text("mends.0.kind", "gpt");
    expect("draft $/m.json --label X", 2, "changes a device in place");
    expect("draft sim:shore-disk-8 --mend gpt --label X", 2, "nothing else");
    expect("draft sim:shore-disk-8 --mend good", 2, "expected gpt, hybrid");
    expect("draft sim:tide-gauge-8 --mend all", 3, "nothing was found");
    expect("enact $/m.json --consent HEXAK-92", 0, "Written");
    expect("enact $/m.json --consent HEXAK-92", 3, "already been enacted");
    expect("prove $/m.json", 0, "Proved");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test_setup(a_copied_disk_reaches_its_end, fresh_bench),
        cmocka_unit_test_setup(an_old_disk_is_converted, fresh_bench),
        cmocka_unit_test_setup(a_mend_is_a_draft, fresh_bench),
    };

    return cmocka_run_group_tests_name("mending", tests, NULL, clean);
}
