/* SPDX-License-Identifier: MIT */
/* Several partitions on the command line: asked for, kept, refused. */
#include <stdio.h>
#include <stdlib.h>

#include "tool_case.h"

/* An image of 4 GB with three partitions. */
static void divide(void)
{
    sh("cd $FOLDER && rm -f card.img && truncate -s 4000000000 card.img && "
       "$TOOL assess card.img --json >card.json",
       0);
    assert_int_equal(tool_run(&p, "assess file:$/card.img --json"), 0);
    take_tag();
    setenv("TAG", tag, 1);
    sh("cd $FOLDER && $TOOL renew card.img --part 1GB --volume fat16 --label "
       "boot --active --part 25% --label logs --part rest --label data "
       "--consent $TAG",
       0);
    assert_non_null(strstr(shell.out, "has 3 partitions"));
}

static void bad_blocks_are_typed_or_listed(void **state)
{
    (void)state;
    sh("cd $FOLDER && rm -f worn.img && truncate -s 400000000 worn.img && "
       "printf '# of the scan\\n300000-300003\\n400000, 400001\\n' >bad.txt",
       0);
    expect("draft file:$/worn.img --bad 300000,500000 --bad-list $/bad.txt "
           "-o $/worn.json",
           0, "3 clusters hold bad blocks");
    expect("draft $/worn.json --volume exfat --json", 0, "bad_clusters");
    check_schema("draft");
    assert_int_equal(number("bad.0.1"), 4);
    assert_int_equal(number("result.volumes.0.bad_clusters"), 3);
    expect("draft file:$/worn.img --bad 0", 7, "block 0 is bad");
    expect("draft file:$/worn.img --bad 2060", 7, "block 2060 is bad");
    expect("draft file:$/worn.img --table gpt --bad 781249", 7,
           "block 781249 is bad");
    expect("draft file:$/worn.img --bad 9-3", 2, "expected block numbers");
    expect("draft file:$/worn.img --bad 9-", 2, "expected block numbers");
    expect("draft file:$/worn.img --bad-list $/none.txt", 4, "No such file");
    sh("echo 12,x >$FOLDER/bad.txt", 0);
    expect("draft file:$/worn.img --bad-list $/bad.txt", 2, "line 1");
}

static void several_partitions_are_made_and_shown(void **state)
{
    (void)state;
    divide();
    expect("assess file:$/card.img", 0, "The device carries 3 volumes");
    assert_non_null(strstr(p.out, "1 # FAT16 \"BOOT\"            1 GB"));
    assert_non_null(strstr(p.out, "active, type 06h"));
    expect("draft file:$/card.img --table gpt --part 2GiB --part rest --bare "
           "--json",
           0, "");
    check_schema("draft");
    expect_text("parts.0.size_of", "bytes");
    assert_int_equal(number("parts.0.size"), 2147483648);
    expect_text("result.volumes.0.kind", "fat32");
    expect("draft file:$/card.img --part 10% --part 10% --part 10% --part 10% "
           "--part rest",
           0, "5 # FAT32");
    assert_non_null(strstr(p.out, "An MBR has four entries"));
    assert_non_null(strstr(p.out, "write the links to logical partitions"));
}

static void what_makes_no_sense_is_refused_with_a_reason(void **state)
{
    static const struct {
        const char *options, *words;
        int code;
    } rows[] = {
        {"--part 8", "expected a size like 8GB", 2},
        {"--part 8gb", "expected a size like 8GB", 2},
        {"--part 0%", "expected a size like 8GB", 2},
        {"--part 100.1%", "expected a size like 8GB", 2},
        {"--part 1.2345GB", "expected a size like 8GB", 2},
        {"--part -1GB", "expected a size like 8GB", 2},
        {"--part 99999999999TB", "expected a size like 8GB", 2},
        {"--label x --part rest", "ahead of the first --part", 2},
        {"--part rest --part rest", "partition 2: two partitions ask", 2},
        {"--part 3GB --part 2GB", "partition 2: there is no room", 7},
        {"--part 60% --part 50%", "add up to more than all", 2},
        {"--table gpt --part rest --active", "only an MBR has an active", 2},
        {"--part rest --active --part 1GB --active", "one partition can be", 2},
        {"--part 50% --part 50% --table none", "one volume, over the whole", 2},
        {"--part 1MB --volume fat32 --part rest", "FAT32 needs at least", 7},
        {"--keep 9", "no partition of this number", 2},
        {"--keep 1,1", "named twice", 2},
        {"--keep 1 --label x", "no new partition is asked for", 2},
        {"--keep 1,", "expected numbers of partitions", 2},
        {"--keep all --table gpt", "only under the table that is there", 2},
        {"--keep all --part 1GB", "what stays takes its part", 7}};
    char line[200];

    (void)state;
    divide();
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        snprintf(line, sizeof line, "draft file:$/card.img %s",
                 rows[i].options);
        expect(line, rows[i].code, rows[i].words);
    }
}

/* The first and the third stay: not a byte of theirs changes. */
static void partitions_that_stay_are_not_touched(void **state)
{
    (void)state;
    divide();
    sh("cd $FOLDER && cat >sums.py <<'END'\n"
       "import hashlib, os, sys\n"
       "image = os.open('card.img', os.O_RDONLY)\n"
       "def sum(first, end):\n"
       "    digest, at = hashlib.sha256(), first * 512\n"
       "    while at < end * 512:\n"
       "        try:\n"
       "            data = os.lseek(image, at, os.SEEK_DATA)\n"
       "        except OSError:\n"
       "            break\n"
       "        if data >= end * 512:\n"
       "            break\n"
       "        piece = os.pread(image, min(65536, end * 512 - data), data)\n"
       "        if piece.strip(b'\\0'):\n"
       "            digest.update(b'%d' % data + piece)\n"
       "        at = data + len(piece)\n"
       "    return digest.hexdigest()\n"
       "print(sum(1, 1955840), sum(3907584, 7812500))\n"
       "END\n"
       "/usr/bin/python3 sums.py >before && head -c 440 card.img >code",
       0);
    expect("draft file:$/card.img --keep 1,3 --part rest --label fresh", 0,
           "stays");
    assert_non_null(strstr(p.out, "take what goes out of the table"));
    assert_non_null(strstr(p.out, "FAT32 \"LOGS\", 999 MB"));
    assert_null(strstr(p.out, "FAT32 \"DATA\", 2 GB"));
    sh("cd $FOLDER && $TOOL renew card.img --keep 1,3 --part 300MB --label "
       "fresh --consent $TAG && /usr/bin/python3 sums.py | cmp - before && "
       "head -c 440 card.img | cmp - code",
       0);
    assert_non_null(strstr(shell.out, "has 3 partitions"));
    expect("assess file:$/card.img", 0, "2 # FAT32 \"FRESH\"           301 MB");
    sh("cd $FOLDER && $TOOL draft card.img --keep 2 -o less.json --json >out "
       "&& $TOOL enact less.json --consent $TAG && $TOOL prove less.json",
       0);
    sh("cp $FOLDER/out $FOLDER/less", 0);
    expect("assess file:$/card.img", 0, "belongs to no partition");
    assert_null(strstr(p.out, "\"DATA\"")); /* DATAX-94 is a tag */
}

/* Each decision is what a draft for that use then has; old geometries. */
/* Logical partitions go and come one by one, and are told by their numbers. */
static void logical_partitions_go_and_come(void **state)
{
    (void)state;
    divide();
    sh("cd $FOLDER && $TOOL renew card.img --part 500MB --label one --part "
       "300MB --logical --label buoys --part 300MB --label tides --part 300MB "
       "--label winch --consent $TAG",
       0);
    expect("assess file:$/card.img", 0, "7 # FAT32 \"WINCH\"");
    assert_non_null(strstr(p.out, "logical, type 0Ch"));
    expect("draft file:$/card.img --keep 1,5,7 --part 100MB --label a --part "
           "100MB --label b --json",
           0, "");
    check_schema("draft");
    expect_text("parts.2.standing", "logical");
    expect("draft file:$/card.img --keep 1,5,7 --part 100MB --label a --part "
           "100MB --label b -o $/l.json",
           0, "7 becomes 8;");
    assert_non_null(strstr(p.out, "FAT32 \"TIDES\", 301 MB"));
    sh("cd $FOLDER && $TOOL enact l.json --consent $TAG && $TOOL prove l.json",
       0);
    expect("assess file:$/card.img", 0, "8 # FAT32 \"WINCH\"");
    assert_non_null(strstr(p.out, "6 # FAT32 \"A\""));
    assert_null(strstr(p.out, "\"TIDES\""));
    expect("draft file:$/card.img --keep 2 --part 1MB --logical", 2,
           "new partition 1: the container stays as a whole");
    expect("draft file:$/card.img --keep 2,5", 2, "partition 5: logical");
    expect("draft file:$/card.img --keep all --part rest", 0, "3 # FAT32");
}

static void uses_are_told_and_drafted(void **state)
{
    (void)state;
    divide();
    expect("advise file:$/card.img", 0, "GPT: Linux reads it everywhere");
    expect("draft file:$/card.img --for linux --json", 0, "");
    expect_text("result.volumes.0.kind", "ext4");
    expect("draft file:$/card.img --for vintage --cylinders 16x63 --json", 0,
           "cylinders of 16 heads and 63 sectors");
    check_schema("draft");
    assert_int_equal(number("goal.heads"), 16);
    expect("draft file:$/card.img --cylinders 300x63", 2, "expected heads");
    expect("draft file:$/card.img --table gpt --entries 200 --keep-code --part "
           "1GB --type c12a7328-f81f-11d2-ba4b-00a0c93ec93b --name Start "
           "--attributes gpt-required --part rest --json",
           0, "not the one that goes");
    check_schema("draft");
    assert_int_equal(number("goal.entries"), 200);
    expect_text("parts.0.gpt_type", "28732ac11ff8d211ba4b00a0c93ec93b");
    expect_text("parts.0.attributes", "0100000000000000");
    expect("draft file:$/card.img --part rest --type 0F", 2, "container");
    expect("draft file:$/card.img --part rest --type 1", 2, "hexadecimal");
    expect("draft file:$/card.img --entries 2000", 2, "4 to 1024");
    expect("draft file:$/card.img --part rest --name x --table mbr", 2,
           "those of a GPT");
    expect("draft file:$/card.img --part rest --bare --label X", 2,
           "neither label");
    expect("draft file:$/card.img --for fishing", 2, "old-pc");
    sh("cd $FOLDER && cp card.img old.img && $TOOL draft file:old.img --for "
       "vintage --part 30MB --part rest -o old.json && $TOOL enact old.json "
       "--consent $($TOOL assess file:old.img --json | /usr/bin/python3 -c "
       "'import json, sys; print(json.load(sys.stdin)[\"tag\"])') && $TOOL "
       "prove old.json",
       0);
    expect("assess file:$/old.img --json", 0, "\"oddities\": []");
}

/* Changing one's mind: what the command line does not say is as before. */
static void an_earlier_draft_is_revised(void **state)
{
    (void)state;
    divide();
    expect("draft file:$/card.img --for logger --keep 1 --part rest --label "
           "one -o $/r1.json --seed 00112233445566778899aabbccddeeff --json",
           0, "");
    expect_text("goal.for", "logger");
    expect("draft $/r1.json --label two --volume fat32 -o $/r2.json --json", 0,
           "");
    check_schema("draft");
    expect_text("goal.for", "logger");
    assert_int_equal(number("parts.0.keep"), 1);
    expect_text("parts.1.label", "two");
    expect_text("parts.1.volume", "fat32");
    expect_text("choices.seed", "00112233445566778899aabbccddeeff");
    expect("draft $/r2.json --part 1GB --label a --part rest --label b -o "
           "$/r3.json --for camera --json",
           0, "");
    expect_text("goal.for", "camera");
    assert_int_equal(number("parts.0.keep"), 1);
    expect_text("parts.2.label", "b");
    expect("draft $/r3.json --label x", 2, "this draft makes 2 partitions");
    expect("draft $/r3.json --keep 1,3 --json", 7, "no room");
    expect("draft $/r1.json --keep 3 --json", 0, "");
    assert_int_equal(number("parts.1.keep"), 3);
    sh("cd $FOLDER && $TOOL enact r3.json --consent $TAG && $TOOL prove "
       "r3.json",
       0);
    /* revised on what is there now */
    expect("draft $/r1.json --label late", 0, "FAT16 \"A\", 1 GB");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(bad_blocks_are_typed_or_listed),
        cmocka_unit_test_setup(several_partitions_are_made_and_shown,
                               fresh_bench),
        cmocka_unit_test_setup(what_makes_no_sense_is_refused_with_a_reason,
                               fresh_bench),
        cmocka_unit_test_setup(partitions_that_stay_are_not_touched,
                               fresh_bench),
        cmocka_unit_test_setup(logical_partitions_go_and_come, fresh_bench),
        cmocka_unit_test_setup(uses_are_told_and_drafted, fresh_bench),
        cmocka_unit_test_setup(an_earlier_draft_is_revised, fresh_bench),
    };

    return cmocka_run_group_tests_name("parts", tests, NULL, clean);
}
