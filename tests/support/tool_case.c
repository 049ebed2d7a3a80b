/* SPDX-License-Identifier: MIT */
/* Cases that drive the tool: a line, its exit code, the words it answers. */
#include <dirent.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/stat.h>

#include "tool_case.h"

struct program p, shell;
char tag[16];

/* How lines of progress begin. */
static const char *const doing[] = {
    "Writing",   "Reading",  "Probing",    "Keeping",     "Putting back",
    "Comparing", "Counting", "Searching",  "Overwriting", "Checking",
    "Scanning",  "Round",    "Check",      "Paused",      "Erasing",
    "Narrowing", "Looking",  "Formatting", "Measuring",   "done"};

/* Of several devices, each line begins with the tag of one. */
static bool is_progress(const char *line)
{
    line += strlen(line) > 10 && line[5] == '-' && line[8] == ':' ? 10 : 0;
    for (size_t i = 0; i < sizeof doing / sizeof doing[0]; i++) {
        if (strncmp(line, doing[i], strlen(doing[i])) == 0)
            return true;
    }
    return false;
}

/* Lines of stderr that are not progress. */
static int error_lines(void)
{
    int count = 0;

    for (const char *at = p.err; *at != '\0';) {
        count += is_progress(at) ? 0 : 1;
        at += strcspn(at, "\n");
        at += *at == '\n' ? 1 : 0;
    }
    return count;
}

void expect(const char *line, int code, const char *words)
{
    tool_run(&p, line);
    if (p.code != code || strstr(code == 0 ? p.out : p.err, words) == NULL)
        print_message("%s\ncode %d\n%s%s\n", line, p.code, p.out, p.err);
    assert_int_equal(p.code, code);
    assert_non_null(strstr(code == 0 ? p.out : p.err, words));
    /* an error is one line, and nothing else was said */
    if (error_lines() != (code == 0 ? 0 : 1))
        print_message("%s\nsaid\n%s\n", line, p.err);
    assert_int_equal(error_lines(), code == 0 ? 0 : 1);
}

void sh(const char *line, int code)
{
    if (shell_run(&shell, line) != code)
        print_message("%s\ncode %d\n%s\n%s\n", line, shell.code, shell.err,
                      shell.out); /* which may be cut off */
    assert_int_equal(shell.code, code);
}

void sh_answers(const char *line, int code, const char *words)
{
    const char *said = code == 0 ? shell.out : shell.err;

    sh(line, code);
    if (strstr(said, words) == NULL)
        print_message("%s\n%s\n", line, said);
    assert_non_null(strstr(said, words));
}

bool stick_is_marked(void)
{
    char start[16] = "";
    FILE *blocks = fopen(in_folder("bench/tide-gauge-7.blocks"), "r");

    if (blocks == NULL)
        return false;
    if (fread(start, 1, sizeof start, blocks) != sizeof start)
        start[0] = '\0';
    fclose(blocks);
    return memcmp(start, "TRUE SLATE MARK2", sizeof start) == 0;
}

/* A member of what was printed, given as "a.b". */
json_t *printed(const char *path)
{
    json_error_t error;
    json_t *root = json_loads(p.out, 0, &error), *at;
    char name[64];

    if (root == NULL) /* it may hold numbers beyond what jansson has */
        root = json_loads(p.out, JSON_DECODE_INT_AS_REAL, &error);
    at = root;
    if (root == NULL)
        print_message("line %d: %s\n", error.line, error.text);
    assert_non_null(root);
    for (const char *dot = path; *dot != '\0';) {
        size_t length = strcspn(dot, ".");

        snprintf(name, sizeof name, "%.*s", (int)length, dot);
        at = json_is_array(at) ? json_array_get(at, (size_t)atoi(name))
                               : json_object_get(at, name);
        dot += length + (dot[length] == '.' ? 1 : 0);
    }
    json_incref(at);
    json_decref(root);
    return at;
}

void expect_text(const char *path, const char *expected)
{
    json_t *value = printed(path);

    assert_string_equal(json_string_value(value), expected);
    json_decref(value);
}

json_int_t number(const char *path)
{
    json_t *value = printed(path);
    json_int_t n = json_is_boolean(value)
                       ? json_is_true(value)
                       : (json_int_t)json_number_value(value);

    json_decref(value);
    return n;
}

#define FASTER 10 /* than the devices that people watch */

/* The shipped descriptions, for devices that are ten times faster. */
static void describe_fast(void)
{
    char path[600];
    struct dirent *entry;
    DIR *folder;

    snprintf(path, sizeof path, "%s/share/bench", getenv("SOURCE"));
    folder = opendir(path);
    (void)mkdir(in_folder("fast"), 0777);
    while (folder != NULL && (entry = readdir(folder)) != NULL) {
        json_t *about, *rate;

        snprintf(path, sizeof path, "%s/share/bench/%.90s", getenv("SOURCE"),
                 entry->d_name);
        about = json_load_file(path, 0, NULL);
        rate = json_object_get(about, "bytes_per_second");
        if (rate != NULL)
            json_integer_set(rate, FASTER * json_integer_value(rate));
        snprintf(path, sizeof path, "fast/%.90s", entry->d_name);
        if (about != NULL)
            (void)json_dump_file(about, in_folder(path), 0);
        json_decref(about);
    }
    if (folder != NULL)
        closedir(folder);
}

void take_tag(void)
{
    json_t *value = printed("tag");

    snprintf(tag, sizeof tag, "%s", json_string_value(value));
    json_decref(value);
}

/* A fresh bench and the tag of its stick. */
int fresh_bench(void **state)
{
    (void)state;
    setenv("TRUESLATE_BENCH", in_folder("bench"), 1);
    setenv("XDG_STATE_HOME", in_folder("state"), 1);
    describe_fast();
    if (tool_run(&p, "bench $/fast") != 0 ||
        tool_run(&p, "assess sim:tide-gauge-7 --json") != 0)
        return 1;
    take_tag();
    return 0;
}

/* All that was reported in JSON has a schema, and is as it says. */
int clean(void **state)
{
    int code;

    (void)state;
    code = shell_run(&shell, "test ! -d $FOLDER/reports || "
                             "$SOURCE/tests/support/schemas $SOURCE/docs/json "
                             "$FOLDER/reports/*");
    if (code != 0)
        print_message("%s%s\n", shell.out, shell.err);
    program_clean();
    return code;
}

/* Files of probes that did not come to their end. */
int kept_files(void)
{
    DIR *folder = opendir(in_folder("state/trueslate"));
    struct dirent *entry;
    int count = 0;

    while (folder != NULL && (entry = readdir(folder)) != NULL)
        count += strstr(entry->d_name, ".kept") != NULL ? 1 : 0;
    if (folder != NULL)
        closedir(folder);
    return count;
}

/* Holds what was printed against a schema of docs/json. */
void check_schema(const char *name)
{
    static struct program validator;
    char schema[512], base[512];
    const char *words[] = {"/usr/bin/python3",   "-W",         "ignore", "-m",
                           "jsonschema",         "--base-uri", base,     "-i",
                           in_folder("printed"), schema,       NULL};
    FILE *file = fopen(in_folder("printed"), "w");

    assert_non_null(file);
    fputs(p.out, file);
    fclose(file);
    snprintf(base, sizeof base, "file://%s/docs/json/", getenv("SOURCE"));
    snprintf(schema, sizeof schema, "%s/docs/json/%s.schema.json",
             getenv("SOURCE"), name);
    program_run(&validator, words);
    if (validator.code != 0)
        print_message("%s%s\n", validator.out, validator.err);
    assert_int_equal(validator.code, 0);
}

void lay_device(const char *name, const char *members)
{
    static struct program bench;
    char path[512];
    json_t *about, *more = json_loads(members, 0, NULL);

    snprintf(path, sizeof path, "%s/share/bench/%s.json", getenv("SOURCE"),
             name);
    about = json_load_file(path, 0, NULL);
    assert_non_null(more);
    json_object_update(about, more);
    setenv("FOLDER", in_folder("one"), 1);
    assert_int_equal(system("rm -rf \"$FOLDER\" && mkdir \"$FOLDER\""), 0);
    snprintf(path, sizeof path, "%s/%s.json", in_folder("one"), name);
    assert_int_equal(json_dump_file(about, path, 0), 0);
    json_decref(about);
    json_decref(more);
    assert_int_equal(tool_run(&bench, "bench $/one --bench $/bench"), 0);
}
