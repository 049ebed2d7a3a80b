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
#include "lifts.h"
#include "option_words.h"
#include "options.h"
#include "view/picture.h"
#include "report/report.h"
#include "say.h"

enum key {
    KEY_BENCH = 'b',
    KEY_OUTPUT = 'o',
    KEY_JSON = 0x100,
    KEY_FOR,
    KEY_TABLE,
    KEY_VOLUME,
    KEY_LABEL,
    KEY_CLUSTER,
    KEY_PART,
    KEY_KEEP,
    KEY_BARE,
    KEY_NO_JOURNAL,
    KEY_ACTIVE,
    KEY_LOGICAL,
    KEY_SEED,
    KEY_FILES,
    KEY_FILES_FIRST,
    KEY_START_CODE,
    KEY_BAD,
    KEY_BAD_LIST,
    KEY_BLOCK_SIZE,
    KEY_CONSENT,
    KEY_REMEMBER,
    KEY_FRESH,
    KEY_SECONDS,
    KEY_PICTURE,
    KEY_LIFT,
    KEY_PASSWORD,
    KEY_LASTING,
    KEY_ERASE,
    KEY_REPLACE,
    KEY_GIVE_UP,
    KEY_AFRESH,
    KEY_CLEAR,
    KEY_RELABEL,
    KEY_PARTITION,
    KEY_CYLINDERS,
    KEY_ENTRIES,
    KEY_KEEP_CODE,
    KEY_KEEP_ID,
    KEY_TYPE,
    KEY_NAME,
    KEY_ATTRIBUTES
};

#define USES                                                                   \
    "anything, camera, player, console, logger, desktop, linux, mac, old-pc, " \
    "startup or vintage"

struct row {
    unsigned takes;
    struct argp_option option;
};

static const struct row rows[] = {
    {TAKES_GOAL,
     {"for", KEY_FOR, "USE", 0,
      "who will read it: " USES " (default: anything)", 1}},
    {TAKES_GOAL,
     {"table", KEY_TABLE, "KIND", 0,
      "partition table: mbr, gpt or none (default: what fits the use)", 1}},
    {TAKES_GOAL,
     {"cylinders", KEY_CYLINDERS, "SHAPE", 0,
      "MBR: partitions begin and end with tracks and cylinders, for systems "
      "that count them: heads and sectors of a track, as 16x63, or fit",
      1}},
    {TAKES_GOAL,
     {"volume", KEY_VOLUME, "KIND", 0,
      "file system: fat32, fat16, fat12, exfat or ext4 (default: what fits the "
      "use)",
      1}},
    {TAKES_GOAL,
     {"label", KEY_LABEL, "TEXT", 0,
      "name of the volume, up to 11 characters; ext4: 16 bytes", 1}},
    {TAKES_GOAL,
     {"cluster", KEY_CLUSTER, "SIZE", 0,
      "allocation unit: 512 bytes to 64K, exfat 32M (default: what fits)", 1}},
    {TAKES_GOAL,
     {"part", KEY_PART, "SIZE", 0,
      "begins a partition of SIZE: 8GB, 512MiB, 25%, or rest; the options "
      "--volume, --label, --cluster, --files, --start-code, --bare, "
      "--no-journal, --active, "
      "--logical, "
      "--type, --name and --attributes that follow are its own (default: one "
      "over the whole "
      "device)",
      1}},
    {TAKES_GOAL,
     {"keep", KEY_KEEP, "NUMBERS", 0,
      "these partitions stay as they are, to the last bit: 1,3 or all; those "
      "that are not named go, and each --part is added (a container stays with "
      "all that is in it; logical partitions named one by one leave room for "
      "others between them)",
      1}},
    {TAKES_GOAL,
     {"keep-code", KEY_KEEP_CODE, NULL, 0,
      "the start-up code in block 0 stays, under a new table as well", 1}},
    {TAKES_GOAL,
     {"keep-id", KEY_KEEP_ID, NULL, 0,
      "so does the disk signature of an MBR, or the GUID of a GPT", 1}},
    {TAKES_GOAL,
     {"entries", KEY_ENTRIES, "N", 0,
      "GPT: room for so many partitions, 4 to 1024 (default: 128)", 1}},
    {TAKES_GOAL,
     {"type", KEY_TYPE, "TYPE", 0,
      "type of a partition by hand: two hexadecimal digits for an MBR, a GUID "
      "for a GPT (default: the one that goes with its volume)",
      1}},
    {TAKES_GOAL,
     {"name", KEY_NAME, "TEXT", 0,
      "GPT: name of a partition (default: the label of its volume)", 1}},
    {TAKES_GOAL,
     {"attributes", KEY_ATTRIBUTES, "KINDS", 0,
      "GPT: these attributes of a partition, as 'guards' names them, with "
      "commas between them",
      1}},
    {TAKES_GOAL, {"bare", KEY_BARE, NULL, 0, "without a volume", 1}},
    {TAKES_GOAL,
     {"no-journal", KEY_NO_JOURNAL, NULL, 0,
      "ext4: without a journal, for small flash", 1}},
    {TAKES_GOAL,
     {"active", KEY_ACTIVE, NULL, 0,
      "MBR: old machines start from this partition", 1}},
    {TAKES_GOAL,
     {"logical", KEY_LOGICAL, NULL, 0,
      "MBR: this partition, and in a new table those that follow, is a logical "
      "one (default: from the fourth on, where there are more)",
      1}},
    {TAKES_GOAL,
     {"files", KEY_FILES, "FOLDER", 0,
      "place all that is in FOLDER on the volume, with its sub-folders", 1}},
    {TAKES_FILES,
     {"files", KEY_FILES, "FOLDER", 0,
      "where the files of the draft are by now (default: where they were)", 2}},
    {TAKES_GOAL,
     {"files-first", KEY_FILES_FIRST, "NAMES", 0,
      "these of them first in the root directory, in this order, as start-up "
      "code of old systems wants it: names with commas between them",
      1}},
    {TAKES_GOAL,
     {"start-code", KEY_START_CODE, "FILE", 0,
      "FAT: take the start-up code of a boot block in FILE, 512 bytes, or for "
      "FAT32 three times that; the volume's parameters stay its own",
      1}},
    {TAKES_GOAL,
     {"bad", KEY_BAD, "BLOCKS", 0,
      "blocks that are bad and are not to be used: 812,900-911", 1}},
    {TAKES_GOAL,
     {"bad-list", KEY_BAD_LIST, "FILE", 0,
      "the same from FILE, which may have lines and # remarks", 1}},
    {TAKES_GOAL,
     {"seed", KEY_SEED, "HEX", 0,
      "32 hexadecimal digits that serial numbers derive from, for output that "
      "repeats byte for byte (default: random)",
      1}},
    {TAKES_CLEAR,
     {"clear", KEY_CLEAR, "KINDS", 0,
      "change nothing but these attributes of the content, in place: kinds "
      "with commas between them, as 'guards' names them",
      1}},
    {TAKES_LABEL,
     {"label", KEY_RELABEL, "TEXT", 0,
      "the volume's new name, adapted to its format; empty: none", 1}},
    {TAKES_LABEL,
     {"partition", KEY_PARTITION, "N", 0,
      "the partition whose volume is meant (default: the only one)", 1}},
    {TAKES_BLOCK_SIZE,
     {"block-size", KEY_BLOCK_SIZE, "BYTES", 0,
      "image files: the device it stands for has blocks of 512, 1024, 2048 or "
      "4096 bytes "
      "(default: as its content tells, else 512)",
      2}},
    {TAKES_PICTURE,
     {"picture", KEY_PICTURE, "FILE", 0,
      "draw it to scale into FILE, which ends in .svg, .png or .pdf", 2}},
    {TAKES_OUTPUT,
     {"output", KEY_OUTPUT, "FILE", 0, "write the draft to FILE", 2}},
    {TAKES_OUTPUT | TAKES_PICTURE,
     {"replace", KEY_REPLACE, NULL, 0,
      "the file to be written may replace one that is there, whatever it is",
      2}},
    {TAKES_GIVE_UP,
     {"give-up", KEY_GIVE_UP, NULL, 0,
      "where an earlier probe's writing was never put back, zeros may stand",
      2}},
    {TAKES_AFRESH,
     {"afresh", KEY_AFRESH, NULL, 0,
      "begin anew on a device whose renewal is unfinished", 2}},
    {TAKES_LIFT,
     {"lift", KEY_LIFT, "KINDS", 0,
      "lift these guards: kinds with commas between them, or all (what a "
      "command can lift and nobody set on purpose)",
      2}},
    {TAKES_PASSWORD,
     {"password", KEY_PASSWORD, "TEXT", 0, "for a card or disk that has one",
      2}},
    {TAKES_PASSWORD,
     {"erase", KEY_ERASE, NULL, 0,
      "with a password in --lift: take it away together with all content; a "
      "card needs no --password for that",
      2}},
    {TAKES_LIFT,
     {"lasting", KEY_LASTING, NULL, 0,
      "where there is a choice, the lift shall survive power-off", 2}},
    {TAKES_CONSENT,
     {"consent", KEY_CONSENT, "TAG", 0,
      "agree to change the device with this tag, and to lose what is on it",
      2}},
    {TAKES_MEMORY,
     {"remember", KEY_REMEMBER, NULL, 0,
      "keep in mind what is attached now, for --fresh", 2}},
    {TAKES_MEMORY,
     {"fresh", KEY_FRESH, NULL, 0,
      "show only what has appeared since --remember", 2}},
    {TAKES_SECONDS,
     {"seconds", KEY_SECONDS, "N", 0, "wait at most so long", 2}},
    {TAKES_BENCH,
     {"bench", KEY_BENCH, "DIR", 0,
      "simulated devices in this folder instead of the host's (default: "
      "$TRUESLATE_BENCH)",
      3}},
    {TAKES_JSON,
     {"json", KEY_JSON, NULL, 0, "report in JSON, for programs", 3}},
};

#define ROW_COUNT (sizeof rows / sizeof rows[0])

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
    case KEY_FILES_FIRST:
        options->asked = true;
        options->files_first = word;
        return 0;
    case KEY_BAD_LIST:
        options->asked = true;
        options->bad_list = word;
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
            (options->verb->takes & TAKES_SEVERAL) == 0)
            exit(fail(
                SLATE_ERR_ARGUMENT, "%s: %s is missing; '%s --help' tells more",
                options->verb->name, options->verb->operand, state->name));
        return 0;
    default:
        return take_goal(key, word, state, options);
    }
}

/* Of one command line. */
static struct slate_ask asks[DRAFTED_PARTS];

void parse_options(const struct verb *verb, int count, char **words,
                   struct options *options)
{
    struct argp_option offered[ROW_COUNT + 1] = {{0}};
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
    for (size_t i = 0; i < ROW_COUNT; i++) {
        if ((verb->takes & rows[i].takes) != 0)
            offered[n++] = rows[i].option;
    }
    argp_err_exit_status = (int)SLATE_CLASS_USAGE;
    if (argp_parse(&argp, count, words, 0, NULL, options) != 0)
        exit((int)SLATE_CLASS_USAGE);
}
