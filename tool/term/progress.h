/* SPDX-License-Identifier: MIT */
/* The progress line, and stopping on Ctrl-C. */
#ifndef TOOL_PROGRESS_H
#define TOOL_PROGRESS_H

#include <trueslate/trueslate.h>

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
