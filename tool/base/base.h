/* SPDX-License-Identifier: MIT */
/* The lowest floor of the tool: options and their words, files that people give
 * and get, errors, JSON, what a thread says. Every file of the tool has it, and
 * what of the C library nearly all of them use. */
#ifndef TOOL_BASE_H
#define TOOL_BASE_H

#include <jansson.h>
#include <limits.h>
#include <pthread.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <trueslate/trueslate.h>

/* Arguments are checked as those of printf, where the compiler can. */
#if defined(__GNUC__)
#define LIKE_PRINTF(format_at, first)                                          \
    __attribute__((format(printf, format_at, first)))
#else
#define LIKE_PRINTF(format_at, first)
#endif

/* Files that the tool writes: whole or not at all, durable, and never over
 * something else. */

/* A file that is being written. */
struct durable {
    bool begun; /* zeroed: nothing is open */
    int descriptor;
    char place[PATH_MAX];
    char part[PATH_MAX + 16]; /* beside it, until it is finished */
};

/* Begins a file that only its owner may read; after true, finish or abandon
 * it. Finishing makes it durable, puts it in its place, and makes the folder
 * durable. False with errno set: what was there stays. */
bool durable_begin(struct durable *file, const char *path);
bool durable_finish(struct durable *file);
void durable_abandon(struct durable *file);

/* Writes a file anew beside the old one, makes it durable, puts it in place of
 * the old one, and makes the folder durable. What is there already and is no
 * regular file stays. False with errno set: nothing has changed then. */
bool durable_write(const char *path, const void *data, size_t length);

/* Takes a file away for good; its folder is made durable. */
void durable_remove(const char *path);

/* Gives a file another name in the same folder, in place of what has it. */
void durable_rename(const char *path, const char *name);

/* Is there anything of this name? */
bool durable_exists(const char *path);

/* Files that people give: read to the end, or refused. */

/* Text is UTF-8 without control characters but those between words and lines;
 * a byte order mark ahead of it is left out. */
enum given_kind {
    GIVEN_BYTES,
    GIVEN_TEXT
};

struct given {
    char *bytes; /* with a zero behind them; NULL: it was refused */
    size_t length;
    enum slate_status status; /* why it was refused: SLATE_ERR_ACCESS, or
                                 SLATE_ERR_ARGUMENT for what is no such file */
    char why[160];            /* the same in words, with what was expected */
};

/* Opens a regular file, whatever else may have its name: a pipe would wait, a
 * folder read as nothing. -1: given tells why. */
int given_open(const char *path, struct given *given);

/* Reads one of so many bytes at most. Free it with given_free, also when this
 * says false. */
bool given_read(const char *path, enum given_kind kind, size_t most,
                struct given *given);
void given_free(struct given *given);

/* Says on stderr why it was refused: "--bad-list FILE: ..."; option: "" for
 * none. Returns an exit code. */
int given_fail(const struct given *given, const char *option, const char *path);

/* The next line of a text, which ends with a zero then; NULL behind the last.
 * next: the bytes at first, moved on */
char *given_line(char **next);

/* JSON as programs get it: made, printed exactly, and told when there is none.
 */

/* Passes a new value on; ends the program when there is none. */
json_t *report_made(json_t *value);

#define report_pack(...) report_made(json_pack(__VA_ARGS__))

/* Text from elsewhere, as it may be shown. */
json_t *report_shown(const char *raw);

/* Bytes as lower-case hexadecimal. */
json_t *report_hex(const uint8_t *bytes, size_t length);

/* A number of bytes: exact, also beyond 2^63 - 1, where jansson's end. */
json_t *report_bytes(uint64_t bytes);

/* Blocks: a list of "first" and "blocks". */
json_t *report_ranges(const struct slate_ranges *ranges);

/* Prints a report to stdout and lets go of it; returns an exit code. */
int report_print(json_t *report);

/* From now on a program that ends with an exit code, and without a report, says
 * on stdout why. */
void report_failures(void);

/* What one of several jobs tells that go on side by side: each has a thread,
 * and a lane into which its progress and its errors go, instead of to the
 * screen. */

#define LANE_ROOM 200
#define LANE_SAID 4000

struct lane {
    pthread_mutex_t lock;
    char line[LANE_ROOM]; /* "Writing  34 %, ..."; "" before the first one */
    char said[LANE_SAID]; /* errors, one a line, with how to go on */
};

/* Give each of them back with lane_close. */
void lane_open(struct lane *lane);
void lane_close(struct lane *lane);

/* From now on this thread has that lane; NULL: it has none. */
void lane_enter(struct lane *lane);

/* That of this thread; NULL: it tells the screen. */
struct lane *lane_here(void);

/* What this job does just now, in place of what it did before. */
void lane_progress(struct lane *lane, const char *line);

/* One more line of what went wrong. */
void lane_say(struct lane *lane, const char *line);

/* As they are now. */
void lane_get(struct lane *lane, char line[LANE_ROOM]);

/* The command line, parsed. */

/* What a verb takes, so that its parser knows which options to offer. */
enum takes {
    TAKES_NO_MORE, /* ends a list */
    TAKES_AFRESH,
    TAKES_ANYWAY,
    TAKES_BENCH,
    TAKES_BLOCK_SIZE,
    TAKES_CLEAR,
    TAKES_CONSENT,
    TAKES_DROP,
    TAKES_EVIDENCE,
    TAKES_EXPECT,
    TAKES_FAILED, /* a list of what could not be overwritten */
    TAKES_FILES,
    TAKES_FROM,
    TAKES_GIVE_UP,
    TAKES_GOAL,
    TAKES_JOURNAL, /* what is replaced is kept */
    TAKES_JSON,
    TAKES_LABEL,
    TAKES_LIFT,
    TAKES_LOWLEVEL,
    TAKES_MEMORY,
    TAKES_MEND,
    TAKES_ONLY,
    TAKES_OUTPUT,
    TAKES_OVERWRITE,
    TAKES_PARTS, /* new ones beside what stays */
    TAKES_PASSWORD,
    TAKES_PICTURE,
    TAKES_REWIND, /* what is replaced is kept in our own place */
    TAKES_SCAN,   /* by reading */
    TAKES_SCAN_WRITES,
    TAKES_SEARCH,
    TAKES_SECONDS,
    TAKES_SEVERAL, /* any number of operands, also none */
    TAKES_SWEEP,   /* a scan writes and restores */
    TAKES_TABLE,
    TAKES_TRYING, /* whether a device has what it claims */
    TAKES_WAY     /* in which a device erases itself */
};

/* A list of them. */
#define TAKES(...) ((const enum takes[]){__VA_ARGS__, TAKES_NO_MORE})

/* What is said of a drive's low-level format, as it was typed. */
enum drive_word {
    DRIVE_SHAPE,
    DRIVE_INTERLEAVE,
    DRIVE_SKEW,
    DRIVE_SPARES,
    DRIVE_PRECOMPENSATION,
    DRIVE_CURRENT,
    DRIVE_BURST,
    DRIVE_SPLIT,
    DRIVE_STICKER,
    DRIVE_BLOCKS,
    DRIVE_REASSIGN,
    DRIVE_WORDS
};

/* Partitions that one command can ask for. */
#define OPTION_ASKS_MOST 1024u

/* Devices that one command takes. */
#define OPERANDS_MOST 64

struct verb;
struct option_row;

/* An option as it was said, with the partition that it stands behind. */
struct option_said {
    const struct option_row *row;
    const char *word;
    uint32_t ask;
};

/* Of two sound copies of a table that differ, which one counts: as hosts have
 * it, or as somebody has picked. */
enum from {
    FROM_COUNTS,
    FROM_FIRST,
    FROM_SECOND
};

struct options {
    const struct verb *verb;
    const char *operand; /* DEVICE or FILE; NULL where a verb takes none */
    const char *more[OPERANDS_MOST]; /* all of them */
    uint32_t count;
    const char *bench; /* NULL: the devices of the host */
    bool json;
    bool remember, fresh;
    uint32_t seconds;         /* 0: no limit */
    struct option_said *said; /* all that was, in its order */
    uint32_t says;
    const struct option_row *rows; /* all that there are */
    size_t row_count;
    struct slate_goal goal;
    struct slate_ask *ask; /* of each partition */
    uint32_t asks;         /* at least 1 */
    bool asked;            /* anything was, of the goal or of a partition */
    bool loose;            /* something for one partition, ahead of --part */
    bool divided;          /* --part was given */
    const char *keep;      /* "all", or numbers with commas between them */
    const char *bad;       /* blocks: 812,900-911 */
    const char *bad_list;  /* a file of such */
    bool scan, scan_writes;
    uint64_t scan_from;      /* block */
    const char *files;       /* a folder whose files are placed */
    const char *files_first; /* names in it, with commas between them */
    const char *start_code;  /* a file */
    bool has_seed;
    uint8_t seed[16];
    uint32_t block_bytes; /* 0: find out */
    const char *output;
    const char *picture; /* FILE.svg, .png or .pdf */
    const char *consent;
    const char *lift;     /* "all", or kinds with commas between them */
    const char *clear;    /* attributes with commas between them */
    const char *mend;     /* "all", or kinds with commas between them */
    const char *expect;   /* of what kind and size devices are: card,32GB */
    const char *put_back; /* blocks where volumes begin, with commas */
    uint64_t every;       /* bytes from one place of a search to the next; 0:
                             as it fits */
    uint64_t from_block;  /* where a search begins */
    const char *relabel;  /* the label for a volume that is there; "": none */
    uint32_t partition;   /* by its number; 0: the only volume */
    uint32_t empty;       /* the partition that is overwritten; 0: none */
    const char *failed_list; /* a file for blocks that failed */
    const char *password;
    const char *journal;  /* a file for what is replaced; NULL: our own place */
    const char *then;     /* what becomes of the device afterwards */
    const char *then_run; /* a command of the user's */
    const char *evidence; /* NAME of .html, .json and .svg */
    const char *within;   /* "proved", or a size: no more of it is used */
    const char *way;      /* in which the device erases itself */
    const char *drive[DRIVE_WORDS]; /* NULL: not said */
    bool same;                      /* a low-level format with all as it is */
    bool forget_grown; /* what the device has found bad itself counts no more */
    bool unlooked;     /* nothing is read ahead of a low-level format */
    bool erase;        /* a password goes with all content */
    bool replace;      /* an output file may replace any other regular file */
    bool give_up;      /* what an earlier probe never put back */
    bool no_rewind;    /* nothing is kept */
    bool unheld;       /* what no partition holds is overwritten */
    bool anyway;       /* what was written since is lost */
    enum from from;    /* of two copies of a table that differ */
    bool drop;         /* journals are let go of */
    bool compare;      /* and compared with their devices */
    bool writes;       /* a scan writes, and restores */
    bool full;         /* every block is written and read back */
    bool whole_drive;  /* also where that reaches all namespaces */
    bool read_all;     /* every block is read afterwards */
    bool afresh;       /* an unfinished renewal is not gone on with */
    bool probe;        /* the size is tried first, of disks as well */
    bool no_probe;     /* of nothing */
};

struct verb {
    const char *name;
    const char *operand; /* as the help names it; NULL for none */
    const enum takes *takes;
    const char *summary; /* one line */
    const char *help;    /* more, with one example */
    int (*run)(const struct options *options);
};

bool verb_takes(const struct verb *verb, enum takes what);

/* Says an option as if it stood on the command line. */
void options_say(struct options *options, const char *name, const char *word);

/* What was said of the goal goes over one; and what was said of partitions
 * without --part, over what is asked of one. What nobody said stays. */
void options_revise_goal(const struct options *options,
                         struct slate_goal *goal);
void options_revise_ask(const struct options *options, struct slate_ask *ask);

/* Takes an option with its word; ends the program with exit code 2 where that
 * makes no sense. */
void options_take(struct options *options, const struct option_row *row,
                  const char *word);

void options_forget(struct options *options);

/* The options that there are: a row each. A new one is a row, and where its
 * word is of a new kind, a setter. */

/* Where the value of an option goes. */
enum option_place {
    OPTION_OWN,  /* struct options: of this run alone */
    OPTION_WISH, /* struct options: of what the device shall become */
    OPTION_GOAL, /* struct slate_goal */
    OPTION_ASK,  /* struct slate_ask of the partition that it stands behind */
    OPTION_PART  /* the same, of one that it begins */
};

/* What an option is said of. */
struct setting {
    struct options *options;
    struct slate_goal *goal;
    struct slate_ask *ask;
};

/* Sets it; NULL, or what was expected in place of the word. Once more with the
 * same word, it changes nothing. word: NULL for one without an argument */
typedef const char *(*option_setter)(const struct option_row *row,
                                     const struct setting *setting,
                                     const char *word);

/* Words with commas between them, "or" ahead of the last. */
typedef const char *(*option_list)(void);

struct option_row {
    const char *name;
    int letter; /* short form; 0: none */
    int group;  /* of the help: 1 what it becomes, 2 how, 3 where */
    const enum takes *takes;
    const char *argument; /* as the help names it; NULL: none */
    const char *doc;      /* "{}" stands for the list */
    option_setter set;
    enum option_place place;
    size_t at;        /* of the field */
    const char *once; /* what is expected in place of a second one; NULL: it
                         may be said again */
    option_list list;
};

/* The words behind options, as values. Each returns false for a word that makes
 * no sense. */

bool word_use(const char *word, enum slate_use *use);
bool word_cylinders(const char *word, struct slate_goal *goal); /* 16x63, fit */
bool word_format(const char *word, enum slate_volume_kind *kind); /* exfat */
bool word_from(const char *word, enum from *from);
bool word_table(const char *word, struct slate_goal *goal);
bool word_number(const char *word, uint32_t *number); /* 4096, 4K, 4KiB */
bool word_number64(const char *word, uint64_t *number);
bool word_distance(const char *word, uint64_t *bytes); /* also 64MiB */
bool word_cluster(const char *word, uint32_t *cluster_bytes);
bool word_label(const char *word, struct slate_ask *ask);
bool word_type(const char *word, struct slate_ask *ask); /* 0C, or a GUID */
bool word_name(const char *word, struct slate_ask *ask); /* 36 characters */
bool word_attributes(const char *word, uint64_t *bits);  /* gpt-hidden,... */

/* The size of a partition: "8GB", "1.5TiB", "12.5%", "rest". */
bool word_size(const char *word, struct slate_ask *ask);

/* "1,3", without a zero, or "all" */
bool word_numbers(const char *word);

/* Is each of "a,b,c", of which there is one at least, a name? */
bool word_list(const char *list, bool (*is_name)(const char *name));

/* A seed has the form of a GUID without its dashes. */
bool word_seed(const char *word, uint8_t seed[16]);

/* Is this name one of the list "a,b,c"? */
bool word_is_in(const char *list, const char *name);

/* Text from elsewhere on the screen, and words for copying into a shell. */

/* As it may be shown; cut to the room. Returns shown. */
const char *plain_shown(const char *raw, char *shown, size_t room);

/* As one word of a command line that a shell takes as it is: bare where
 * nothing needs quoting. Returns quoted; "" when there is no room. */
const char *plain_quoted(const char *raw, char *quoted, size_t room);

/* The same in a buffer of its own, one of four in turn. */
const char *plain_word(const char *raw);

/* Sizes within a call: in_both(bytes).words. */

struct size_words {
    char words[SLATE_SIZE_TEXT];
};

struct size_words in_both(uint64_t bytes);
struct size_words in_decimal(uint64_t bytes);
struct size_words in_binary(uint64_t bytes);

/* Since some moment, ms. */
uint64_t clock_ms(void);

/* Errors for people: one line on stderr, and the exit code that goes with it.
 */

/* The next step, where all went well so far. */
#define THEN(code, call) ((code) = (code) == 0 ? (call) : (code))

/* Returns from the function with an exit code that is not 0. */
#define TRY(call)                                                              \
    do {                                                                       \
        int tried_ = (call);                                                   \
        if (tried_ != 0)                                                       \
            return tried_;                                                     \
    } while (0)

/* Exit codes are the classes of slate_status (docs/exit-codes in the manual).
 */
int exit_code(enum slate_status status);

/* Prints "trueslate: ..." and gives the exit code of the status. */
LIKE_PRINTF(2, 3)
int fail(enum slate_status status, const char *format, ...);

/* What this thread has said last; "" for nothing. */
const char *say_last(void);

/* How to go on after an error: "words:", and below it a command. */
void say_how(const char *words, const char *command);

/* As fail, with the sentence of the status behind "subject: ". */
int fail_plainly(enum slate_status status, const char *subject);

/* As fail, with why a draft was refused behind "subject: ", and more behind
 * that. */
int fail_refused(const struct slate_draft *draft, enum slate_status status,
                 const char *subject, const char *more);

/* As fail, with where the device failed and what it answered. */
/* A device that does not answer any more; an image is not there any more. */
bool is_pulled(enum slate_status status, const struct slate_media *media);
#define SAY_PULLED "it was pulled, or lost its power: plug it in again"
int fail_with_fault(enum slate_status status, const struct slate_media *media,
                    const char *subject);

/* The host's time as a time stamp. */

/* parts: NULL, or beyond what a volume can tell: not known */
void stamp_take(const struct tm *parts, struct slate_stamp *stamp);

/* What the tool keeps between runs. */

/* ~/.local/state/trueslate, or below XDG_STATE_HOME; made when not there. */
bool state_folder(char *path, size_t room);

/* Where a file of a device is, named by its tag and what tells it from others.
 */
bool state_path(const char *tag, const uint8_t digest[8], const char *ending,
                char *path, size_t room);

/* The files that are kept of one device, by its tag and what their names end
 * with. */
#define STATE_PATH_ROOM 4200

struct state_files {
    uint32_t count;
    char (*path)[STATE_PATH_ROOM];
};

/* Finds them, in the order of their names; false: there is no folder. Forget
 * them either way. */
bool state_find(struct state_files *files, const char *tag, const char *ending);
void state_forget(struct state_files *files);

/* The three standard streams, whatever the caller has made of them. */

/* Ahead of everything else: descriptors 0 to 2 are open afterwards, so that no
 * device or file gets one of them; what was closed answers as such. From now on
 * a broken pipe is an error of a write, and the end of the program tells when
 * not all that was said could be written. */
void streams_begin(void);

#endif
