/* SPDX-License-Identifier: MIT */
/* The progress line: how far, how fast, how long. It appears when the work has
 * lasted a second; without a terminal a line of its own every ten seconds. */
#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "progress.h"

#define PATIENCE_MS 1000u
#define REDRAW_MS 100u
#define LOG_MS 10000u

static volatile sig_atomic_t interrupted;

static void note_interrupt(int signal_number)
{
    (void)signal_number;
    interrupted = 1;
}

void progress_catch_interrupts(void)
{
    struct sigaction action;

    memset(&action, 0, sizeof action);
    action.sa_handler = note_interrupt;
    action.sa_flags = (int)SA_RESETHAND; /* a second Ctrl-C ends the program */
    sigaction(SIGINT, &action, NULL);
    sigaction(SIGTERM, &action, NULL);
}

static uint64_t now_ms(void)
{
    struct timespec now;

    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000 + (uint64_t)now.tv_nsec / 1000000;
}

void progress_begin(struct progress *progress, const char *doing)
{
    progress->doing = doing;
    progress->started = now_ms();
    progress->shown = 0;
    progress->screen = isatty(STDERR_FILENO) == 1;
}

static void time_words(uint64_t seconds, char words[32])
{
    if (seconds < 60)
        snprintf(words, 32, "%u s left", (unsigned)seconds);
    else if (seconds < 3600)
        snprintf(words, 32, "%u min %02u s left", (unsigned)(seconds / 60),
                 (unsigned)(seconds % 60));
    else
        snprintf(words, 32, "%u h %02u min left", (unsigned)(seconds / 3600),
                 (unsigned)(seconds / 60 % 60));
}

static void draw(const struct progress *progress, const struct slate_pass *pass,
                 uint64_t elapsed)
{
    uint32_t block_bytes = pass->draft->basis.geometry.block_bytes;
    uint64_t bytes = pass->done * block_bytes;
    uint64_t rate = bytes * 1000 / elapsed;
    uint64_t left = (pass->total - pass->done) * block_bytes;
    char done[SLATE_SIZE_TEXT], total[SLATE_SIZE_TEXT];
    char speed[SLATE_SIZE_TEXT], wait[32];

    fflush(stdout); /* keeps the order where both go to one file */
    slate_size_decimal(bytes, done);
    slate_size_decimal(pass->total * block_bytes, total);
    slate_size_decimal(rate, speed);
    time_words(rate == 0 ? 0 : (left + rate - 1) / rate, wait);
    fprintf(stderr, "%s%s %3u %%, %s of %s, %s/s, %s%s",
            progress->screen ? "\r\033[K" : "", progress->doing,
            (unsigned)(pass->done * 100 / pass->total), done, total, speed,
            wait, progress->screen ? "" : "\n");
    fflush(stderr);
}

bool progress_step(void *context, const struct slate_pass *pass)
{
    struct progress *progress = context;
    uint64_t now = now_ms();
    uint64_t every = progress->screen ? REDRAW_MS : LOG_MS;

    if (now - progress->started >= PATIENCE_MS &&
        (progress->shown == 0 || now - progress->shown >= every)) {
        draw(progress, pass, now - progress->started);
        progress->shown = now;
    }
    return interrupted == 0;
}

void progress_end(struct progress *progress)
{
    if (progress->screen && progress->shown != 0)
        fputs("\r\033[K", stderr);
    progress->shown = 0;
}
