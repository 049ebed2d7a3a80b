/* SPDX-License-Identifier: MIT */
/* What was said on the command line. */
#include "base/base.h"

bool verb_takes(const struct verb *verb, enum takes what)
{
    for (const enum takes *one = verb->takes; *one != TAKES_NO_MORE; one++) {
        if (*one == what)
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
    if (options->divided && options->asks == OPTION_ASKS_MOST)
        exit(fail(SLATE_ERR_ARGUMENT, "%s: more than %u partitions",
                  options->verb->name, OPTION_ASKS_MOST));
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

void options_take(struct options *options, const struct option_row *row,
                  const char *word)
{
    struct setting setting = {options, &options->goal, NULL};
    const char *expected;

    if (row->place == OPTION_PART)
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
    for (size_t i = 0; i < options->row_count; i++) {
        if (strcmp(options->rows[i].name, name) == 0) {
            options_take(options, &options->rows[i], word);
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

void options_forget(struct options *options)
{
    free(options->said);
    options->said = NULL;
}
