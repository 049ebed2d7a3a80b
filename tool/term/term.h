/* SPDX-License-Identifier: MIT */
/* What a terminal shows: paint, columns, progress. */
#ifndef TOOL_TERM_H
#define TOOL_TERM_H

#include "base/base.h"

/* How wide text is on a screen: letters may have several bytes, and take two
 * columns, or none. */

/* Columns that the first bytes of a text take, which is UTF-8. */
int columns_of(const char *words, size_t bytes);

/* How many of its bytes fit into so many columns. */
size_t columns_fit(const char *words, int columns);

/* Prints it, with spaces behind it up to so many columns. */
void print_padded(const char *words, int columns);

/* Jobs that go on side by side, a line each: drawn over on a terminal; else in
 * lines of their own, now and then. */

#define LANES_MOST 64u

struct lanes {
    struct lane *lane[LANES_MOST];
    const char *name[LANES_MOST];
    uint32_t count;
    bool screen;     /* stderr is a terminal */
    uint32_t drawn;  /* lines that stand there */
    uint64_t logged; /* ms of the last lines without a terminal */
};

void lanes_begin(struct lanes *lanes);

/* One more. The name is kept by reference. */
void lanes_add(struct lanes *lanes, const char *name, struct lane *lane);

/* Shows how far they are. */
void lanes_draw(struct lanes *lanes);

/* Takes the lines away. */
void lanes_end(struct lanes *lanes);

/* What the terminal can show: colours and fill characters. */

/* What a stretch of text or of a map stands for. */
enum paint {
    PAINT_PLAIN,
    PAINT_STRONG,  /* headings, tags */
    PAINT_FAINT,   /* remarks */
    PAINT_VOLUME,  /* a volume that hosts can use */
    PAINT_UNKNOWN, /* a partition or content without a known volume */
    PAINT_FREE,    /* belongs to nothing */
    PAINT_GOOD,
    PAINT_BAD
};

/* Looks at stdout, NO_COLOR, TERM and the locale; call once. */
void paint_begin(void);

/* Prints to stdout in the paint, where the terminal has colours. */
LIKE_PRINTF(2, 3)
void painted(enum paint paint, const char *format, ...);

/* Where a stretch begins beside one of the same paint. */
const char *paint_edge(void);

/* The fill character of a map, one column wide; it differs by paint, so that
 * the map reads without colours too. */
const char *paint_fill(enum paint paint);

/* The frame at both ends of a map. */
const char *paint_frame(void);

/* Columns of the output, 60 to 160: those of the terminal; 80 where it is none.
 */
int paint_columns(void);

/* Prints a paragraph: an indented label column, then words wrapped to the
 * columns. */
LIKE_PRINTF(3, 4)
void print_line(const char *label, enum paint paint, const char *format, ...);

/* The progress line, and stopping on Ctrl-C. */

struct progress {
    const char *doing; /* "Writing" */
    uint64_t started;  /* ms */
    uint64_t shown;    /* ms of the last line; 0: none yet */
    bool screen;       /* stderr is a terminal: one line, drawn over */
    bool based;        /* once something was told: */
    uint64_t base;     /* what was done before; that is no merit of this run */
    uint64_t since, since_done; /* the rate of now is that from here on */
    uint64_t rate;              /* per second; 0: not known yet */
    bool rounds;                /* those of overwriting are told */
    char round[40];             /* which of them goes on; "": none */
};

/* Of a clock that only goes forward. */
uint64_t progress_now_ms(void);

/* From now on Ctrl-C makes progress_step return false; so do a request to end,
 * a terminal that is closed, and a reader of the output that has gone. */
void progress_catch_interrupts(void);

/* Ahead of all work: until then an interruption ends the program at once, and
 * with the same exit code. json: programs are told of it on stdout. */
void progress_guard(bool json);

/* "12 s", "3 min 05 s", "2 h 10 min" */
void progress_time_words(uint64_t seconds, char words[48]);

/* Stops the program when Ctrl-Z was typed meanwhile, until it is told to go on.
 * Done by progress_step and its like where one device is worked on. */
void progress_pause(void);

/* Has any of that happened? */
bool progress_is_interrupted(void);

void progress_begin(struct progress *progress, const char *doing);

/* A slate_progress; context is a struct progress. */
bool progress_step(void *context, const struct slate_pass *pass);

/* The same for work that is counted in bytes. */
bool progress_bytes(struct progress *progress, uint64_t done, uint64_t total);

/* The same for work that is counted in "transfers", or other things. */
bool progress_count(struct progress *progress, uint64_t done, uint64_t total,
                    const char *things);

/* The same for a share; total 0: it is not told. */
bool progress_share(struct progress *progress, uint64_t done, uint64_t total);

/* The same for work that is told by the place where it is: "cylinder 31, head
 * 2"; ms: that it has taken so far, by the device's own clock. */
bool progress_place(struct progress *progress, uint64_t done, uint64_t total,
                    const char *place, uint64_t ms);

/* Clears the line. */
void progress_end(struct progress *progress);

#endif
