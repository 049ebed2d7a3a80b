/* SPDX-License-Identifier: MIT */
/* The command line, by glibc's argp: each verb takes part of the options. */
#include <argp.h>

#include "main/main.h"

/* Options without a letter have their index in the table as a key. */
#define KEY_FIRST 0x100

static bool is_offered(const struct verb *verb, const struct option_row *row)
{
    for (const enum takes *one = row->takes; *one != TAKES_NO_MORE; one++) {
        if (verb_takes(verb, *one))
            return true;
    }
    return false;
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
        options_take(options, row, word);
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
    static struct slate_ask asks[OPTION_ASKS_MOST];

    memset(options, 0, sizeof *options);
    options->ask = asks;
    options->asks = 1;
    options->verb = verb;
    options->rows = option_rows;
    options->row_count = option_row_count;
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
