/* SPDX-License-Identifier: MIT */
/* What earlier versions have left behind, as stored in tests/samples: their
 * drafts are enacted and gone on with, their journals rewound, or one of the
 * two is refused and the other works. */
#include <dirent.h>
#include <stdlib.h>
#include <unistd.h>

#include "tool_case.h"
#include "turns.h"

#define STICK "harbour-stick"

/* A sample's state of the stick. */
static void put(const char *state)
{
    setenv("STATE", state, 1);
    sh("cd $FOLDER && rm -rf bench state/trueslate && $TOOL bench "
       "$SOURCE/tests/samples --bench bench >/dev/null && gzip -dc "
       "$SAMPLE/$STATE.gz.gz | gzip -dc | cp --sparse=always /dev/stdin "
       "bench/" STICK ".blocks",
       0);
}

static bool is(const char *state)
{
    setenv("STATE", state, 1);
    return shell_run(&shell, "cd $FOLDER && gzip -dc $SAMPLE/$STATE.gz.gz | "
                             "gzip -dc | cmp - bench/" STICK ".blocks") == 0;
}

static int run(const char *line)
{
    return shell_run(&shell, line);
}

#define ENACT                                                                  \
    "cd $FOLDER && $TOOL enact $SAMPLE/draft.json $FILES --bench bench "       \
    "--no-rewind --consent $TAG"
#define REWIND                                                                 \
    "cd $FOLDER && $TOOL rewind $SAMPLE/$JOURNAL sim:" STICK                   \
    " $FILES --bench bench --consent $TAG"

static void comes_back(const char *from, const char *journal)
{
    put(from);
    setenv("JOURNAL", journal, 1);
    if (run(REWIND) != 0 || !is("before"))
        fail_msg("%s, %s: %s%s", getenv("SAMPLE"), from, shell.out, shell.err);
}

/* What a later version writes otherwise is refused, and nothing is written. */
static bool goes_on(const char *from)
{
    put(from);
    if (run(ENACT) == 0) {
        assert_true(is("after"));
        return true;
    }
    assert_true(is(from));
    if (strstr(shell.err, "writes something else") == NULL)
        fail_msg("%s, %s: %s", getenv("SAMPLE"), from, shell.err);
    return false;
}

/* A journal of version 1 knows what was written by the placed files: without
 * them nothing is put back unasked. Later ones do not need them. */
static void files_may_be_gone(const char *version)
{
    bool needs_them = strcmp(version, "13") == 0;

    put("after");
    setenv("JOURNAL", "journal", 1);
    setenv("FILES", "", 1);
    assert_int_equal(run(REWIND), needs_them ? 3 : 0);
    if (needs_them) {
        assert_non_null(strstr(shell.err, "used since"));
        assert_true(is("after"));
        assert_int_equal(run(REWIND " --anyway"), 0);
    }
    assert_true(is("before"));
}

static unsigned hold(const char *version, const char *name)
{
    char path[4096];
    bool others = strcmp(name, "other-files") == 0;
    unsigned enacted;

    snprintf(path, sizeof path, "%s/tests/samples/%s/%s", getenv("SOURCE"),
             version, name);
    setenv("SAMPLE", path, 1);
    setenv("FILES",
           others                            ? "--files others"
           : strcmp(name, "with-files") == 0 ? "--files files"
                                             : "",
           1);
    enacted = goes_on("before");
    assert_int_equal(goes_on("cut"), enacted != 0);
    comes_back("after", "journal");
    comes_back("cut", "cut.journal");
    comes_back("before", "journal");
    if (others)
        files_may_be_gone(version);
    return enacted;
}

static int is_name(const struct dirent *entry)
{
    return entry->d_name[0] != '.' && strchr(entry->d_name, '.') == NULL;
}

static void what_earlier_versions_left_is_of_use(void **state)
{
    struct dirent **versions, **names;
    char path[4096];
    int versions_count, held = 0;
    unsigned enacted = 0;

    (void)state;
    snprintf(path, sizeof path, "%s/tests/samples", getenv("SOURCE"));
    versions_count = scandir(path, &versions, is_name, alphasort);
    assert_true(versions_count > 0);
    for (int v = 0; v < versions_count; v++) {
        char version[4400];
        int count;

        snprintf(version, sizeof version, "%s/%.200s", path,
                 versions[v]->d_name);
        count = scandir(version, &names, is_name, alphasort);
        assert_true(count > 5);
        for (int i = 0; i < count; i++) {
            if (turn_of((unsigned)(i + v), 2)) {
                enacted += hold(versions[v]->d_name, names[i]->d_name);
                held++;
            }
            free(names[i]);
        }
        free(names);
        free(versions[v]);
    }
    free(versions);
    print_message("%d samples, of which %u are enacted still\n", held, enacted);
}

/* A draft of a version that nobody knows any more, or yet. */
static void other_versions_are_refused(void **state)
{
    static const char *const versions[] = {"1", "12", "99"};

    (void)state;
    for (size_t i = 0; i < sizeof versions / sizeof versions[0]; i++) {
        setenv("VERSION", versions[i], 1);
        sh("cd $FOLDER && sed \"s|\\\"version\\\": [0-9]*|\\\"version\\\": "
           "$VERSION|\" $SOURCE/tests/samples/13/renewed-exfat/draft.json "
           ">other.json",
           0);
        sh_answers("cd $FOLDER && $TOOL enact other.json --bench bench "
                   "--consent $TAG",
                   3, "made by another version");
    }
}

/* A change in place that another version has begun here: its journal is the one
 * way out, and nothing else begins beside it. */
static void a_cut_by_another_version_is_told(void **state)
{
    static const char *const names[] = {"converted", "kept", "relabelled"};
    char path[4096];

    (void)state;
    for (size_t i = 0; i < sizeof names / sizeof names[0]; i++) {
        snprintf(path, sizeof path, "%s/tests/samples/14/%s", getenv("SOURCE"),
                 names[i]);
        setenv("SAMPLE", path, 1);
        put("cut");
        sh("cd $FOLDER && mkdir -p state/trueslate && "
           "name=state/trueslate/$TAG-"
           "$(sed -n 's/^ *\"seal\": \"\\(.\\{16\\}\\).*/\\1/p' "
           "$SAMPLE/draft.json) && sed "
           "'s|trueslate.draft/14|trueslate.draft/99|; "
           "s|\"version\": 14|\"version\": 99|' $SAMPLE/draft.json "
           ">$name.draft.json && cp $SAMPLE/cut.journal $name.journal && chmod "
           "600 $name.journal",
           0);
        sh_answers("cd $FOLDER && $TOOL assess sim:" STICK " --bench bench", 0,
                   "in place was interrupted");
        assert_null(strstr(shell.out, "To go on with it"));
        sh_answers("cd $FOLDER && $TOOL renew sim:" STICK
                   " --bench bench --consent $TAG",
                   3, "cannot be gone on with by this version");
        assert_true(is("cut"));
        sh("cd $FOLDER && $($TOOL assess sim:" STICK
           " --bench bench | sed -n 's|^  trueslate rewind|$TOOL rewind|p' | "
           "sed \"s|.TOOL|$TOOL|\") --consent $TAG",
           0);
        assert_true(is("before"));
        sh("cd $FOLDER && ! ls state/trueslate/*.draft.json", 0);
        sh_answers("cd $FOLDER && $TOOL assess sim:" STICK " --bench bench", 0,
                   "");
        assert_null(strstr(shell.out, "interrupted"));
    }
}

static int lay(void **state)
{
    assert_int_equal(fresh_bench(state), 0);
    sh("cd $FOLDER && mkdir files others && seq 3000 >files/TIDES.CSV && seq "
       "4000 7000 >others/GUSTS.CSV",
       0);
    sh_answers("cd $FOLDER && rm -r bench && $TOOL bench $SOURCE/tests/samples "
               "--bench bench >/dev/null && $TOOL survey --bench bench --json "
               ">survey.json; grep "
               " -m1 -o '[A-Z]\\{5\\}-[2-9]\\{2\\}' survey.json",
               0, "-");
    snprintf(tag, sizeof tag, "%.8s", shell.out);
    setenv("TAG", tag, 1);
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(what_earlier_versions_left_is_of_use),
        cmocka_unit_test(other_versions_are_refused),
        cmocka_unit_test(a_cut_by_another_version_is_told),
    };

    setenv("SAMPLE", "/nowhere", 1);
    return cmocka_run_group_tests_name("versions", tests, lay, clean);
}
