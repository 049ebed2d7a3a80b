/* SPDX-License-Identifier: MIT */
/* Image files in place of devices: at a terminal, one and several of them, with
 * every verb that takes them. */
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <trueslate/port_file.h>
#include <unistd.h>

#include "tool_case.h"

#define VERBS_MOST 64

/* What follows the verb; how it ends, and words that tell so. '#' stands for
 * the tag of the image, '@' for that of the other one. */
struct row {
    const char *verb, *line, *typed;
    int code;
    const char *words;
};

static const struct row rows[] = {
    {"assess", "file:$/a.img", NULL, 0, "FAT32"},
    {"advise", "file:$/a.img", NULL, 0, "FAT32"},
    {"guards", "file:$/a.img", NULL, 0, "nothing protects"},
    {"probe", "file:$/a.img --full", "#\n", 0, "returned what was written"},
    {"draft", "file:$/a.img --label NEXT", NULL, 0, "NEXT"},
    {"renew", "file:$/a.img --label NEXT", "#\n", 0, "Proved"},
    {"overwrite", "file:$/a.img --with zero", "#\n", 0, "as drafted"},
    {"erase", "file:$/a.img", NULL, 0, "No way"},
    {"lowlevel", "file:$/a.img", NULL, 0, "image"},
    {"relabel", "file:$/a.img --label NEXT", "#\n", 0, "Proved"},
    {"scan", "file:$/a.img", NULL, 0, "Every block"},
    {"search", "file:$/a.img", NULL, 0, "partition"},
    {"mend", "file:$/a.img", NULL, 3, "nothing was found there"},
    {"convert", "file:$/a.img --table mbr", "#\n", 0, "Proved"},
    {"rewind", "$/kept file:$/a.img", "#\n", 0, "Puts back"},
    {"release", "file:$/a.img", NULL, 0, "used by nobody"},
    {"eject", "file:$/a.img", NULL, 0, ""},
    /* several of them, each asked for by its own tag */
    {"assess", "file:$/a.img file:$/b.img", NULL, 0, "b.img"},
    {"renew", "file:$/a.img file:$/b.img --label NEXT", "#\n@\n", 0,
     "2 renewed and proved, 0 not"},
    {"overwrite", "file:$/a.img file:$/b.img --with zero", "#\n@\n", 0,
     "2 renewed"},
};

static char other[16];

static void make_image(const char *name, const char *letters)
{
    char line[200];

    snprintf(line, sizeof line,
             "rm -f $FOLDER/%s && truncate -s 40M $FOLDER/%s", name, name);
    sh(line, 0);
    snprintf(line, sizeof line, "assess file:$/%s --json", name);
    expect(line, 0, "tag");
    take_tag();
    snprintf(
        line, sizeof line,
        "renew file:$/%s --label %s --volume fat32 --table gpt --consent %s "
        "--journal $/kept --replace",
        name, letters, tag);
    expect(line, 0, "Proved");
}

static int fresh_images(void **state)
{
    (void)state;
    setenv("XDG_STATE_HOME", in_folder("state"), 1);
    setenv("TRUESLATE_BENCH", in_folder("bench"), 1);
    setenv("NO_COLOR", "1", 1);
    make_image("b.img", "OTHER");
    memcpy(other, tag, sizeof other);
    make_image("a.img", "WAVES");
    return 0;
}

/* A copy with the tags in it. */
static void fill_in(const char *text, char *out, size_t room)
{
    size_t used = 0;

    for (; *text != '\0' && used + 20 < room; text++) {
        if (*text == '#' || *text == '@')
            used += (size_t)snprintf(out + used, room - used, "%s",
                                     *text == '#' ? tag : other);
        else
            out[used++] = *text;
    }
    out[used] = '\0';
}

/* Does it end as it should? What it said is shown where it does not. */
static bool run_row(const struct row *row, bool at_terminal)
{
    static struct program run;
    char line[400], typed[100];

    fill_in(row->typed == NULL ? "" : row->typed, typed, sizeof typed);
    snprintf(line, sizeof line, "%s %s", row->verb, row->line);
    run.at_terminal = at_terminal;
    run.input = typed;
    (void)tool_run(&run, line);
    if (run.code == row->code && (strstr(run.out, row->words) != NULL ||
                                  strstr(run.err, row->words) != NULL))
        return true;
    print_message("%s\ncode %d\n%s%s\n", line, run.code, run.out, run.err);
    return false;
}

static void at_a_terminal(void **state)
{
    int wrong = 0;

    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        assert_int_equal(fresh_images(state), 0);
        wrong += run_row(&rows[i], true) ? 0 : 1;
    }
    assert_int_equal(wrong, 0);
}

/* Where nobody can be asked, what would be lost is refused; the rest is the
 * same. */
static void without_one(void **state)
{
    int wrong = 0;

    assert_int_equal(fresh_images(state), 0);
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        struct row row = rows[i];

        if (row.typed != NULL) {
            row.code = 3;
            row.words = "To agree, add --consent";
        }
        wrong += run_row(&row, false) ? 0 : 1;
    }
    assert_int_equal(wrong, 0);
}

/* A verb that is new has to be among the rows. */
static void every_verb_is_tried(void **state)
{
    char verb[16], operand[16];
    uint32_t seen = 0;

    (void)state;
    expect("--help", 0, "Usage");
    for (const char *at = strchr(p.out, '\n'); at != NULL;
         at = strchr(at + 1, '\n')) {
        bool found = false;

        if (sscanf(at, "\n  %15s %15[][A-Z. ]", verb, operand) != 2 ||
            strstr(operand, "DEVICE") == NULL || strcmp(verb, "is") == 0)
            continue;
        for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++)
            found = found || strcmp(rows[i].verb, verb) == 0;
        if (!found)
            fail_msg("no row tries %s", verb);
        seen++;
    }
    assert_true(seen > 10);
}

/* What holds nothing closes nothing: 0 is somebody's descriptor. */
static void closing_what_was_never_opened(void **state)
{
    static struct slate_file file;

    (void)state;
    assert_int_equal(dup2(STDERR_FILENO, STDIN_FILENO), STDIN_FILENO);
    slate_file_close(&file);
    assert_true(lseek(STDIN_FILENO, 0, SEEK_CUR) >= 0 || errno != EBADF);
    assert_status(slate_file_open(&file, in_folder("none"), 512),
                  SLATE_ERR_NO_DEVICE);
    slate_file_close(&file);
    slate_file_close(&file);
    assert_true(lseek(STDIN_FILENO, 0, SEEK_CUR) >= 0 || errno != EBADF);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_verb_is_tried),
        cmocka_unit_test(closing_what_was_never_opened),
        cmocka_unit_test(at_a_terminal),
        cmocka_unit_test(without_one),
    };

    return cmocka_run_group_tests_name("images", tests, NULL, clean);
}
