/* SPDX-License-Identifier: MIT */
/* The command line, parsed. */
#ifndef TOOL_OPTIONS_H
#define TOOL_OPTIONS_H

#include <trueslate/trueslate.h>

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
    TAKES_WAY /* in which a device erases itself */
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
    bool drop;         /* journals are let go of */
    bool writes;       /* a scan writes, and restores */
    bool full;         /* every block is written and read back */
    bool whole_drive;  /* also where that reaches all namespaces */
    bool read_all;     /* every block is read afterwards */
    bool afresh;       /* an unfinished renewal is not gone on with */
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

#endif
