/* SPDX-License-Identifier: MIT */
/* The command line, parsed. */
#ifndef TOOL_OPTIONS_H
#define TOOL_OPTIONS_H

#include <trueslate/trueslate.h>

/* What a verb takes; bits, so that its parser knows which options to offer. */
enum takes {
    TAKES_BENCH = 1,
    TAKES_JSON = 2,
    TAKES_GOAL = 4,
    TAKES_BLOCK_SIZE = 8,
    TAKES_OUTPUT = 16,
    TAKES_CONSENT = 32,
    TAKES_MEMORY = 64,
    TAKES_SECONDS = 128,
    TAKES_SEVERAL = 256, /* any number of operands, also none */
    TAKES_PICTURE = 512,
    TAKES_LIFT = 1024,
    TAKES_PASSWORD = 2048,
    TAKES_GIVE_UP = 4096,
    TAKES_AFRESH = 8192,
    TAKES_CLEAR = 16384,
    TAKES_LABEL = 32768,
    TAKES_FILES = 65536,
    TAKES_SCAN = 131072, /* by reading */
    TAKES_SCAN_WRITES = 262144,
    TAKES_JOURNAL = 524288, /* what is replaced is kept */
    TAKES_ANYWAY = 1048576,
    TAKES_DROP = 2097152,
    TAKES_MEND = 4194304,
    TAKES_ONLY = 8388608,
    TAKES_TABLE = 16777216,
    TAKES_PARTS = 33554432, /* new ones beside what stays */
    TAKES_SEARCH = 67108864,
    TAKES_EXPECT = 134217728,
    TAKES_REWIND = 268435456, /* what is replaced is kept in our own place */
    TAKES_OVERWRITE = 536870912,
    TAKES_FAILED = 1073741824 /* a list of what could not be overwritten */
};

/* An enum has room for no more. */
#define TAKES_FROM (UINT64_C(1) << 31)
#define TAKES_WAY (UINT64_C(1) << 32) /* in which a device erases itself */
#define TAKES_EVIDENCE (UINT64_C(1) << 33)
#define TAKES_LOWLEVEL (UINT64_C(1) << 35)
#define TAKES_SWEEP (UINT64_C(1) << 34) /* a scan writes and restores */

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

/* Devices that one command takes. */
#define OPERANDS_MOST 64

struct verb;

struct options {
    const struct verb *verb;
    const char *operand; /* DEVICE or FILE; NULL where a verb takes none */
    const char *more[OPERANDS_MOST]; /* all of them */
    uint32_t count;
    const char *bench; /* NULL: the devices of the host */
    bool json;
    bool remember, fresh;
    uint32_t seconds; /* 0: no limit */
    struct slate_goal goal;
    struct slate_ask *ask; /* of each partition */
    uint32_t asks;         /* at least 1 */
    bool for_given;        /* --for was */
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
    uint64_t takes;
    const char *summary; /* one line */
    const char *help;    /* more, with one example */
    int (*run)(const struct options *options);
};

/* Parses what stands behind the verb. Ends the program with exit code 2 and
 * one line when the words make no sense, and after --help. */
void parse_options(const struct verb *verb, int count, char **words,
                   struct options *options);

#endif
