/* SPDX-License-Identifier: MIT */
/* The command line, by glibc's argp: each verb takes part of the options. */
#include "options.h"

#include <argp.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "drafted.h"
#include "option_rows.h"
#include "option_set.h"
#include "say.h"

/* Options without a letter have their index in the table as a key. */
#define KEY_FIRST 0x100

bool verb_takes(const struct verb *verb, enum takes what)
{
    for (const enum takes *one = verb->takes; *one != TAKES_NO_MORE; one++) {
        if (*one == what)
            return true;
    }
    return false;
}

static bool is_offered(const struct verb *verb, const struct option_row *row)
{
    for (const enum takes *one = row->takes; *one != TAKES_NO_MORE; one++) {
        if (verb_takes(verb, *one))
            return true;
    }
    return false;
}

static void refuse(const struct options *options, const char *before,
                   const char *name, const char *word, const char *expected)
{
    exit(fail(SLATE_ERR_ARGUMENT, "%s: %s--%s is '%s', expected %s",
              options->verb->name, before, name, word, expected));
}

static bool was_said(const struct options *options,
                     const struct option_row *row)
{
    for (uint32_t i = 0; i < options->says; i++) {
        if (options->said[i].row == row)
            return true;
    }
    return false;
}

/* Parts beyond the first one begin with --part. */
static void begin_part(struct options *options)
{
    if (!options->divided && options->loose)
        exit(fail(SLATE_ERR_ARGUMENT,
                  "%s: what stands ahead of the first --part belongs to no "
                  "partition; expected --part SIZE ahead of it",
                  options->verb->name));
    if (options->divided && options->asks == DRAFTED_PARTS)
        exit(fail(SLATE_ERR_ARGUMENT, "%s: more than %u partitions",
                  options->verb->name, DRAFTED_PARTS));
    options->asks += options->divided ? 1 : 0;
    options->divided = true;
}

/* Guards (which are in the second group) may be lifted beside anything. */
static void note(struct options *options, const struct option_row *row,
                 const char *word)
{
    options->asked =
        options->asked || (row->place != OPTION_OWN && row->group == 1);
    options->loose =
        options->loose || (row->place == OPTION_ASK && !options->divided);
    options->said[options->says++] =
        (struct option_said){row, word, options->asks - 1};
}

static void take(struct options *options, const struct option_row *row,
                 const char *word)
{
    struct setting setting = {options, &options->goal, NULL};
    const char *expected;

    if (row->set == option_part)
        begin_part(options);
    if (row->once != NULL && was_said(options, row))
        refuse(options, "a second ", row->name, word, row->once);
    setting.ask = &options->ask[options->asks - 1];
    expected = row->set(row, &setting, word);
    if (expected != NULL)
        refuse(options, "", row->name, word, expected);
    note(options, row, word);
}

void options_say(struct options *options, const char *name, const char *word)
{
    for (size_t i = 0; i < option_row_count; i++) {
        if (strcmp(option_rows[i].name, name) == 0) {
            take(options, &option_rows[i], word);
            return;
        }
    }
}

/* Once more, for something else than what it was said of first. */
static void repeat(const struct options *options, enum option_place place,
                   struct slate_goal *goal, struct slate_ask *ask)
{
    struct options aside = *options;
    const struct setting setting = {&aside, goal, ask};

    for (uint32_t i = 0; i < options->says; i++) {
        const struct option_said *one = &options->said[i];

        if (one->row->place == place)
            (void)one->row->set(one->row, &setting, one->word);
    }
}

void options_revise_goal(const struct options *options, struct slate_goal *goal)
{
    repeat(options, OPTION_GOAL, goal, options->ask);
}

void options_revise_ask(const struct options *options, struct slate_ask *ask)
{
    struct slate_goal goal = options->goal;

    repeat(options, OPTION_ASK, &goal, ask);
}

static void take_operand(struct options *options, const char *word)
{
    const struct verb *verb = options->verb;

    if (verb->operand == NULL ||
        options->count == (verb_takes(verb, TAKES_SEVERAL) ? OPERANDS_MOST : 1))
        exit(fail(SLATE_ERR_ARGUMENT, "%s: '%s' is one word too many",
                  verb->name, word));
    if (options->operand == NULL)
        options->operand = word;
    options->more[options->count++] = word;
}

static void check_operand(const struct options *options, const char *program)
{
    const struct verb *verb = options->verb;

    if (options->operand == NULL && verb->operand != NULL &&
        verb->operand[0] != '[')
        exit(fail(SLATE_ERR_ARGUMENT,
                  "%s: %s is missing; '%s --help' tells more", verb->name,
                  verb->operand, program));
}

static const struct option_row *row_of(int key)
{
    for (size_t i = 0; i < option_row_count; i++) {
        if (key == KEY_FIRST + (int)i || key == option_rows[i].letter)
            return &option_rows[i];
    }
    return NULL;
}

static error_t parse(int key, char *word, struct argp_state *state)
{
    struct options *options = state->input;
    const struct option_row *row = key > 0 ? row_of(key) : NULL;

    if (key == ARGP_KEY_ARG)
        take_operand(options, word);
    else if (key == ARGP_KEY_END)
        check_operand(options, state->name);
    else if (row != NULL)
        take(options, row, word);
    else
        return ARGP_ERR_UNKNOWN;
    return 0;
}

/* argp.help_filter: a list stands in place of "{}" in what the help says of an
 * option; argp frees what is another text. */
static char *fill_in_list(int key, const char *text, void *input)
{
    const struct option_row *row = key > 0 ? row_of(key) : NULL;
    const char *at =
        row == NULL || row->list == NULL ? NULL : strstr(text, "{}");
    char *filled = NULL;

    (void)input;
    if (at == NULL || asprintf(&filled, "%.*s%s%s", (int)(at - text), text,
                               row->list(), at + 2) < 0)
        return (char *)text;
    return filled;
}

/* Those that a verb takes, up to one of zeros. */
static struct argp_option *offer(const struct verb *verb)
{
    struct argp_option *offered = calloc(option_row_count + 1, sizeof *offered);
    size_t n = 0;

    for (size_t i = 0; offered != NULL && i < option_row_count; i++) {
        const struct option_row *row = &option_rows[i];
        int key = row->letter != 0 ? row->letter : KEY_FIRST + (int)i;

        if (is_offered(verb, row))
            offered[n++] = (struct argp_option){
                row->name, key, row->argument, 0, row->doc, row->group};
    }
    return offered;
}

/* Words that a verb adds are few. */
static void begin(struct options *options, const struct verb *verb, int count)
{
    static struct slate_ask asks[DRAFTED_PARTS];

    memset(options, 0, sizeof *options);
    options->ask = asks;
    options->asks = 1;
    options->verb = verb;
    options->said = calloc((size_t)count + 16, sizeof *options->said);
    options->bench = getenv("TRUESLATE_BENCH");
    if (options->bench != NULL && options->bench[0] == '\0')
        options->bench = NULL;
}

void parse_options(const struct verb *verb, int count, char **words,
                   struct options *options)
{
    struct argp_option *offered = offer(verb);
    const struct argp argp = {.options = offered,
                              .parser = parse,
                              .args_doc = verb->operand,
                              .doc = verb->help,
                              .help_filter = fill_in_list};
    char name[32];

    snprintf(name, sizeof name, "trueslate %s", verb->name);
    words[0] = name; /* what the help calls the program */
    begin(options, verb, count);
    if (offered == NULL || options->said == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    argp_err_exit_status = (int)SLATE_CLASS_USAGE;
    if (argp_parse(&argp, count, words, 0, NULL, options) != 0)
        exit((int)SLATE_CLASS_USAGE);
    free(offered);
    if (options->way != NULL) /* what is replaced is gone by then */
        options->no_rewind = true;
}

void options_forget(struct options *options)
{
    free(options->said);
    options->said = NULL;
}
