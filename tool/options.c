/* SPDX-License-Identifier: MIT */
/* The command line, by glibc's argp: one option list, each verb takes part of
 * it. */
#include <argp.h>
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "attributes.h"
#include "bad.h"
#include "drafted.h"
#include "drive_words.h"
#include "lifts.h"
#include "mending.h"
#include "overwriting.h"
#include "expected.h"
#include "searching.h"
#include "then.h"
#include "within.h"
#include "option_rows.h"
#include "option_words.h"
#include "options.h"
#include "view/picture.h"
#include "report/report.h"
#include "say.h"

static const char *state_verb(const struct argp_state *state)
{
    const struct options *options = state->input;

    return options->verb->name;
}

static void expect(const struct argp_state *state, bool good,
                   const char *option, const char *word, const char *expected)
{
    if (!good)
        exit(fail(SLATE_ERR_ARGUMENT, "%s: %s is '%s', expected %s",
                  state_verb(state), option, word, expected));
}

/* Parts beyond the first one begin with --part. */
static void begin_part(const struct argp_state *state, const char *word,
                       struct options *options)
{
    if (!options->divided && options->loose)
        exit(fail(SLATE_ERR_ARGUMENT,
                  "%s: what stands ahead of the first --part belongs to no "
                  "partition; expected --part SIZE ahead of it",
                  state_verb(state)));
    if (options->divided && options->asks == DRAFTED_PARTS)
        exit(fail(SLATE_ERR_ARGUMENT, "%s: more than %u partitions",
                  state_verb(state), DRAFTED_PARTS));
    options->asks += options->divided ? 1 : 0;
    options->divided = true;
    expect(state, word_size(word, &options->ask[options->asks - 1]), "--part",
           word, "a size like 8GB, 512MiB or 25%, or rest");
}

static error_t take_ask(int key, char *word, const struct argp_state *state,
                        struct options *options)
{
    struct slate_ask *ask = &options->ask[options->asks - 1];

    switch (key) {
    case KEY_PART:
        begin_part(state, word, options);
        return 0;
    case KEY_KEEP:
        expect(state, word_numbers(word), "--keep", word,
               "numbers of partitions with commas between them, or all");
        options->keep = word;
        return 0;
    case KEY_BARE:
        ask->bare = true;
        return 0;
    case KEY_NO_JOURNAL:
        ask->no_journal = true;
        return 0;
    case KEY_START_CODE:
        expect(state, options->start_code == NULL, "a second --start-code",
               word, "the code of one volume alone");
        ask->start = true;
        options->start_code = word;
        return 0;
    case KEY_FILES:
        expect(state, options->files == NULL, "a second --files", word,
               "the files of one volume alone");
        ask->files = true;
        options->files = word;
        return 0;
    case KEY_ACTIVE:
        ask->active = true;
        return 0;
    case KEY_LOGICAL:
        ask->standing = SLATE_STANDING_LOGICAL;
        return 0;
    case KEY_VOLUME:
        expect(state, format_named(word, &ask->volume), "--volume", word,
               "fat32, fat16, fat12, exfat or ext4");
        return 0;
    case KEY_LABEL:
        expect(state, word_label(word, ask), "--label", word,
               "at most 63 bytes");
        return 0;
    case KEY_TYPE:
        expect(state, word_type(word, ask), "--type", word,
               "two hexadecimal digits, or a GUID");
        return 0;
    case KEY_NAME:
        expect(state, word_name(word, ask), "--name", word,
               "at most 36 characters");
        return 0;
    case KEY_ATTRIBUTES:
        expect(state, word_attributes(word, &ask->attributes), "--attributes",
               word,
               "gpt-required, gpt-no-block-io, gpt-read-only, gpt-hidden "
               "or gpt-no-letter, with commas between them");
        return 0;
    case KEY_CLUSTER:
        expect(state, word_cluster(word, &ask->cluster_bytes), "--cluster",
               word, "a power of two from 512 to 64K, or for exFAT to 32M");
        return 0;
    default:
        return ARGP_ERR_UNKNOWN;
    }
}

static error_t take_goal(int key, char *word, const struct argp_state *state,
                         struct options *options)
{
    struct slate_goal *goal = &options->goal;
    error_t taken;

    switch (key) {
    case KEY_FOR:
        options->asked = options->for_given = true;
        expect(state, word_use(word, &goal->use), "--for", word, USES);
        return 0;
    case KEY_TABLE:
        options->asked = true;
        expect(state, word_table(word, goal), "--table", word,
               "mbr, gpt or none");
        return 0;
    case KEY_ENTRIES:
        options->asked = true;
        expect(state,
               word_number(word, &goal->entries) &&
                   goal->entries >= SLATE_GPT_ENTRIES_LEAST &&
                   goal->entries <= SLATE_GPT_ENTRIES_MOST,
               "--entries", word, "a number from 4 to 1024");
        return 0;
    case KEY_BAD:
        expect(state, bad_is_list(word), "--bad", word,
               "block numbers and ranges of them, as 812,900-911");
        options->asked = true;
        options->bad = word;
        return 0;
    case KEY_OVERWRITE:
        options->asked = true;
        expect(state, overwriting_rounds(word, &goal->overwrite),
               (options->verb->takes & TAKES_OVERWRITE) != 0 ? "--with"
                                                             : "--overwrite",
               word,
               "zero, random, two hexadecimal digits or 3xrandom, with commas "
               "between them, 64 rounds at most");
        return 0;
    case KEY_READ_BACK:
        expect(state, overwriting_read_back(word, &goal->overwrite.read_back),
               "--read-back", word, "last, all or none");
        return 0;
    case KEY_DISCARD:
        expect(state, overwriting_discard(word, &goal->overwrite.discard),
               "--discard", word, "first or last");
        return 0;
    case KEY_EMPTY:
        options->asked = true;
        expect(state, word_number(word, &options->empty) && options->empty > 0,
               (options->verb->takes & TAKES_OVERWRITE) != 0 ? "--partition"
                                                             : "--empty",
               word, "a number, from 1");
        return 0;
    case KEY_FILES_FIRST:
        options->asked = true;
        options->files_first = word;
        return 0;
    case KEY_BAD_LIST:
        options->asked = true;
        options->bad_list = word;
        return 0;
    case KEY_SCAN:
        options->scan = true;
        return 0;
    case KEY_SCAN_WRITES:
        options->scan_writes = true;
        return 0;
    case KEY_SCAN_FROM:
        expect(state, word_number64(word, &options->scan_from), "--scan-from",
               word, "the number of a block");
        return 0;
    case KEY_KEEP_CODE:
        options->asked = goal->keep_code = true;
        return 0;
    case KEY_KEEP_ID:
        options->asked = goal->keep_id = true;
        return 0;
    case KEY_CYLINDERS:
        options->asked = true;
        expect(state, word_cylinders(word, goal), "--cylinders", word,
               "heads and sectors like 16x63, or fit");
        return 0;
    case KEY_SEED:
        options->has_seed = true;
        expect(state, word_seed(word, options->seed), "--seed", word,
               "32 hexadecimal digits");
        return 0;
    default:
        taken = take_ask(key, word, state, options);
        options->asked = options->asked || taken == 0;
        options->loose = options->loose ||
                         (taken == 0 && !options->divided && key != KEY_KEEP);
        return taken;
    }
}

static error_t take_drive(int which, const char *word,
                          const struct argp_state *state,
                          struct options *options)
{
    const char *expected = drive_word_expected((enum drive_word)which, word);
    char name[40];

    snprintf(name, sizeof name, "--%s",
             drive_word_name((enum drive_word)which));
    expect(state, expected == NULL, name, word, expected);
    options->drive[which] = word;
    return 0;
}

/* What is done to what is there, and what is kept of it. */
static error_t take_change(int key, char *word, struct argp_state *state,
                           struct options *options)
{
    switch (key) {
    case KEY_MEND:
        expect(state, mending_is_known(word),
               (options->verb->takes & TAKES_ONLY) != 0 ? "--only" : "--mend",
               word,
               "gpt, hybrid, remains, start, type, order, grow, to-gpt, "
               "to-mbr, with "
               "commas between them, or all");
        options->mend = word;
        return 0;
    case KEY_PUT_BACK:
        expect(state, searching_is_list(word), "--put-back", word,
               "numbers of blocks, with commas between them");
        options->put_back = word;
        return 0;
    case KEY_EXPECT:
        expect(state, expected_is_known(word), "--expect", word,
               "stick, card, disk, or a size as 32GB, with commas between "
               "them");
        options->expect = word;
        return 0;
    case KEY_EVERY:
        expect(state, word_distance(word, &options->every), "--every", word,
               "a size, as 4096, 1M or 64MiB");
        return 0;
    case KEY_FROM:
        expect(state, word_number64(word, &options->from_block), "--from", word,
               "the number of a block");
        return 0;
    case KEY_JOURNAL:
        options->journal = word;
        return 0;
    case KEY_NO_REWIND:
        options->no_rewind = true;
        return 0;
    case KEY_ANYWAY:
        options->anyway = true;
        return 0;
    case KEY_DROP:
        options->drop = true;
        return 0;
    case KEY_EVIDENCE:
        expect(state, word[0] != '\0', "--evidence", word,
               "the name of files, without an ending");
        options->evidence = word;
        return 0;
    case KEY_WRITES:
        options->writes = true;
        return 0;
    case KEY_THEN:
        expect(state, then_is_known(word), "--then", word,
               "spin-down, eject, offline or power-off");
        options->then = word;
        return 0;
    case KEY_THEN_RUN:
        options->then_run = word;
        return 0;
    case KEY_WITHIN:
        options->asked = true;
        expect(state, within_is_known(word), "--within", word,
               "a size, as 8GB, or proved");
        options->within = word;
        return 0;
    case KEY_FULL:
        options->full = true;
        return 0;
    case KEY_WAY:
        options->way = word;
        return 0;
    case KEY_WHOLE_DRIVE:
        options->whole_drive = true;
        return 0;
    case KEY_READ_ALL:
        options->read_all = true;
        return 0;
    case KEY_UNHELD:
        options->unheld = true;
        return 0;
    case KEY_SAME:
        options->same = true;
        return 0;
    case KEY_FORGET_GROWN:
        options->forget_grown = true;
        return 0;
    case KEY_UNLOOKED:
        options->unlooked = true;
        return 0;
    case KEY_FAILED:
        options->failed_list = word;
        return 0;
    default:
        return key >= KEY_DRIVE && key < KEY_DRIVE + DRIVE_WORDS
                   ? take_drive(key - KEY_DRIVE, word, state, options)
                   : take_goal(key, word, state, options);
    }
}

static error_t take_option(int key, char *word, struct argp_state *state)
{
    struct options *options = state->input;

    switch (key) {
    case KEY_BENCH:
        options->bench = word;
        return 0;
    case KEY_JSON:
        options->json = true;
        return 0;
    case KEY_OUTPUT:
        options->output = word;
        return 0;
    case KEY_LIFT:
        expect(state, lifts_are_known(word), "--lift", word,
               "all, or kinds as 'guards DEVICE' names them");
        options->lift = word;
        options->goal.lift = lifts_named(word);
        return 0;
    case KEY_CLEAR:
        expect(state, attributes_are_known(word), "--clear", word,
               "kinds of attributes as 'guards DEVICE' names them");
        options->clear = word;
        return 0;
    case KEY_RELABEL:
        expect(state, strlen(word) < SLATE_LABEL_ROOM, "--label", word,
               "at most 63 bytes");
        options->relabel = word;
        return 0;
    case KEY_PARTITION:
        expect(state,
               word_number(word, &options->partition) && options->partition > 0,
               "--partition", word, "a number, from 1");
        return 0;
    case KEY_PASSWORD:
        options->password = word;
        return 0;
    case KEY_ERASE:
        options->erase = true;
        return 0;
    case KEY_REPLACE:
        options->replace = true;
        return 0;
    case KEY_GIVE_UP:
        options->give_up = true;
        return 0;
    case KEY_AFRESH:
        options->afresh = true;
        return 0;
    case KEY_LASTING:
        options->goal.lasting = true;
        return 0;
    case KEY_PICTURE:
        expect(state, picture_kind(word) != PICTURE_NONE, "--picture", word,
               "a file name that ends in .svg, .png or .pdf");
        options->picture = word;
        return 0;
    case KEY_CONSENT:
        options->consent = word;
        return 0;
    case KEY_REMEMBER:
        options->remember = true;
        return 0;
    case KEY_FRESH:
        options->fresh = true;
        return 0;
    case KEY_SECONDS:
        expect(state, word_number(word, &options->seconds), "--seconds", word,
               "a number of seconds");
        return 0;
    case KEY_BLOCK_SIZE:
        expect(
            state,
            word_number(word, &options->block_bytes) &&
                (options->block_bytes == 512 || options->block_bytes == 1024 ||
                 options->block_bytes == 2048 || options->block_bytes == 4096),
            "--block-size", word, "512, 1024, 2048 or 4096");
        return 0;
    case ARGP_KEY_ARG:
        if (options->verb->operand == NULL ||
            options->count == ((options->verb->takes & TAKES_SEVERAL) != 0
                                   ? OPERANDS_MOST
                                   : 1))
            exit(fail(SLATE_ERR_ARGUMENT, "%s: '%s' is one word too many",
                      options->verb->name, word));
        if (options->operand == NULL)
            options->operand = word;
        options->more[options->count++] = word;
        return 0;
    case ARGP_KEY_END:
        if (options->operand == NULL && options->verb->operand != NULL &&
            options->verb->operand[0] != '[')
            exit(fail(
                SLATE_ERR_ARGUMENT, "%s: %s is missing; '%s --help' tells more",
                options->verb->name, options->verb->operand, state->name));
        return 0;
    default:
        return take_change(key, word, state, options);
    }
}

/* Of one command line. */
static struct slate_ask asks[DRAFTED_PARTS];

void parse_options(const struct verb *verb, int count, char **words,
                   struct options *options)
{
    struct argp_option offered[OPTIONS_MOST + 1] = {{0}};
    struct argp argp = {.options = offered,
                        .parser = take_option,
                        .args_doc = verb->operand,
                        .doc = verb->help};
    char name[32];
    size_t n = 0;

    snprintf(name, sizeof name, "trueslate %s", verb->name);
    words[0] = name; /* what the help calls the program */
    memset(options, 0, sizeof *options);
    options->ask = asks;
    options->asks = 1;
    options->verb = verb;
    options->bench = getenv("TRUESLATE_BENCH");
    if (options->bench != NULL && options->bench[0] == '\0')
        options->bench = NULL;
    for (size_t i = 0; i < option_row_count; i++) {
        if ((verb->takes & option_rows[i].takes) != 0)
            offered[n++] = option_rows[i].option;
    }
    argp_err_exit_status = (int)SLATE_CLASS_USAGE;
    if (argp_parse(&argp, count, words, 0, NULL, options) != 0)
        exit((int)SLATE_CLASS_USAGE);
    if (options->way != NULL) /* what is replaced is gone by then */
        options->no_rewind = true;
}
