/* SPDX-License-Identifier: MIT */
/* scan --writes: every block is written, and holds what it held afterwards,
 * wherever it is cut. */
#include <stdio.h>
#include <stdlib.h>

#include "tool_case.h"
#include "turns.h"

/* A small device of each command set, with content all over. */
static void fill(const char *name, uint32_t blocks, uint32_t block_bytes,
                 const char *more)
{
    char members[400], line[300];

    snprintf(members, sizeof members,
             "{\"blocks\": %u, \"native_blocks\": 0, \"block_bytes\": %u, "
             "\"physical_bytes\": 0, \"content\": []%s}",
             blocks, block_bytes, more);
    lay_device(name, members);
    snprintf(line, sizeof line,
             "head -c %llu /dev/urandom >$FOLDER/image && dd "
             "if=$FOLDER/image of=$FOLDER/bench/%s.blocks conv=notrunc "
             "2>/dev/null",
             (unsigned long long)blocks * block_bytes, name);
    sh(line, 0);
}

static void lay(const char *name, uint32_t blocks, uint32_t block_bytes,
                const char *more)
{
    char line[100];

    fill(name, blocks, block_bytes, more);
    snprintf(line, sizeof line, "assess sim:%s --json", name);
    assert_int_equal(tool_run(&p, line), 0);
    take_tag();
}

static void expect_kept(const char *name)
{
    char line[200];

    snprintf(line, sizeof line, "cmp $FOLDER/image $FOLDER/bench/%s.blocks",
             name);
    sh(line, 0);
    assert_int_equal(kept_files(), 0);
}

static int sweep(const char *name, const char *options)
{
    char line[300];

    snprintf(line, sizeof line, "scan sim:%s --writes --consent %s %s", name,
             tag, options);
    return tool_run(&p, line);
}

static void every_block_is_as_it_was(void **state)
{
    static const struct {
        const char *name;
        uint32_t blocks, block_bytes;
    } rows[] = {{"tide-gauge-8", 30000, 512},
                {"tide-gauge-8", 17, 512},
                {"shore-disk-1", 20001, 512},
                {"station-nvme-1", 3000, 4096},
                {"logger-card-3", 16384, 512}};

    (void)state;
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        lay(rows[i].name, rows[i].blocks, rows[i].block_bytes, "");
        assert_int_equal(sweep(rows[i].name, "--json"), 0);
        check_schema("scan");
        assert_int_equal(number("next"), rows[i].blocks);
        expect_kept(rows[i].name);
    }
}

/* Exactly those that fail, in each way. */
static void bad_blocks_are_found_to_the_block(void **state)
{
    (void)state;
    lay("tide-gauge-8", 30000, 512,
        ", \"faults\": [{\"kind\": \"read\", \"first\": 77}, {\"kind\": "
        "\"read\", \"first\": 9000, \"blocks\": 3}, {\"kind\": \"write\", "
        "\"first\": 29999}]");
    assert_int_equal(sweep("tide-gauge-8", "--failed $/bad"), 4);
    sh_answers("grep -v '^#' $FOLDER/bad | tr '\\n' ' '", 0,
               "77 9000-9002 29999 ");
    expect_kept("tide-gauge-8");
    assert_int_equal(sweep("tide-gauge-8", "--json --from 500"), 4);
    assert_int_equal(number("unreadable"), 3);
    assert_int_equal(number("unwritable"), 1);
    assert_int_equal(number("altered"), 0);
    expect_kept("tide-gauge-8");
    lay("logger-worn", 20000, 512, "");
    assert_int_equal(sweep("logger-worn", ""), 4); /* keeps nothing at all */
    expect_kept("logger-worn");
}

/* Its power fails at commands all over: the next one puts back what was on it.
 */
static void a_cut_is_made_good(void **state)
{
    int cuts = 0;

    (void)state;
    lay("tide-gauge-8", 20000, 512, "");
    for (int at = 30; at < 900; at += 61) {
        char more[60];

        if (!turn_of((uint64_t)at / 61, 4))
            continue;
        snprintf(more, sizeof more, ", \"power_cut_at_command\": %d", at);
        fill("tide-gauge-8", 20000, 512, more);
        cuts += sweep("tide-gauge-8", "") == 4 ? 1 : 0;
        assert_int_equal(sweep("tide-gauge-8", ""), 0);
        sh("cmp $FOLDER/image $FOLDER/bench/tide-gauge-8.blocks", 0);
        sh("rm -f $FOLDER/state/trueslate/*.kept", 0); /* nothing was written */
    }
    assert_true(cuts > 5 / (turns_are_all() ? 1 : 2));
}

static bool is_under_way(void)
{
    return kept_files() > 0;
}

static void ctrl_c_restores(void **state)
{
    (void)state;
    lay("tide-gauge-8", 30000, 512, ", \"bytes_per_second\": 3000000");
    p.interrupt_when = is_under_way;
    assert_int_equal(sweep("tide-gauge-8", ""), 6);
    p.interrupt_when = NULL;
    assert_non_null(strstr(p.err, "--from"));
    expect_kept("tide-gauge-8");
}

static void it_asks_first(void **state)
{
    (void)state;
    lay("tide-gauge-8", 30000, 512, "");
    expect("scan sim:tide-gauge-8 --writes", 3, "restores it");
    expect("scan sim:tide-gauge-8 --writes --consent WRONG-1", 3,
           "nothing was written");
    expect("scan sim:stick-locked --writes --consent WUJEN-74", 3,
           "write-protected");
    expect_kept("tide-gauge-8");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_block_is_as_it_was),
        cmocka_unit_test(bad_blocks_are_found_to_the_block),
        cmocka_unit_test(a_cut_is_made_good),
        cmocka_unit_test(ctrl_c_restores),
        cmocka_unit_test_setup(it_asks_first, fresh_bench),
    };

    return cmocka_run_group_tests_name("sweep", tests, fresh_bench, clean);
}
