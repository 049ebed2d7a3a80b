/* SPDX-License-Identifier: MIT */
/* The progress line: how far, how fast, how long. It appears when the work has
 * lasted a second; without a terminal a line of its own every ten seconds. */
#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "view/progress.h"

#define PATIENCE_MS 1000u
#define REDRAW_MS 100u
#define LOG_MS 10000u

static volatile sig_atomic_t interrupted;

static void note_interrupt(int signal_number)
{
    (void)signal_number;
    interrupted = 1;
}

/* What the caller has chosen to ignore stays ignored. */
static void catch_one(int signal_number, int flags)
{
    struct sigaction action, before;

    memset(&action, 0, sizeof action);
    action.sa_handler = note_interrupt;
    action.sa_flags = flags;
    if (sigaction(signal_number, NULL, &before) == 0 &&
        before.sa_handler == SIG_IGN && signal_number != SIGPIPE)
        return;
    sigaction(signal_number, &action, NULL);
}

/* A terminal that is closed, or a reader that has gone, is as good a reason to
 * stop as Ctrl-C. A second Ctrl-C ends the program. */
void progress_catch_interrupts(void)
{
    catch_one(SIGINT, (int)SA_RESETHAND);
    catch_one(SIGTERM, (int)SA_RESETHAND);
    catch_one(SIGHUP, 0);
    catch_one(SIGPIPE, 0);
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

static void begin_line(const struct progress *progress, uint64_t done,
                       uint64_t total)
{
    fflush(stdout); /* keeps the order where both go to one file */
    fprintf(stderr, "%s%s %3u %%, ", progress->screen ? "\r\033[K" : "",
            progress->doing,
            total == 0 ? 100 : (unsigned)((double)done * 100 / (double)total));
}

static void end_line(const struct progress *progress, uint64_t left,
                     uint64_t rate)
{
    char wait[32];

    time_words(rate == 0 ? 0 : (left + rate - 1) / rate, wait);
    fprintf(stderr, "%s%s", wait, progress->screen ? "" : "\n");
    fflush(stderr);
}

/* Is it time to show how far it is? */
static bool is_due(struct progress *progress, uint64_t *elapsed)
{
    uint64_t now = now_ms();
    uint64_t every = progress->screen ? REDRAW_MS : LOG_MS;

    *elapsed = now - progress->started;
    if (*elapsed < PATIENCE_MS ||
        (progress->shown != 0 && now - progress->shown < every))
        return false;
    progress->shown = now;
    return true;
}

bool progress_bytes(struct progress *progress, uint64_t done, uint64_t total)
{
    char so_far[SLATE_SIZE_TEXT], all[SLATE_SIZE_TEXT], speed[SLATE_SIZE_TEXT];
    uint64_t elapsed;

    if (is_due(progress, &elapsed)) {
        slate_size_decimal(done, so_far);
        slate_size_decimal(total, all);
        slate_size_decimal(done * 1000 / elapsed, speed);
        begin_line(progress, done, total);
        fprintf(stderr, "%s of %s, %s/s, ", so_far, all, speed);
        end_line(progress, total - done, done * 1000 / elapsed);
    }
    return interrupted == 0;
}

bool progress_step(void *context, const struct slate_pass *pass)
{
    uint32_t block_bytes = pass->media->geometry.block_bytes;

    return progress_bytes(context, pass->done * block_bytes,
                          pass->total * block_bytes);
}

bool progress_count(struct progress *progress, uint64_t done, uint64_t total,
                    const char *things)
{
    uint64_t elapsed;

    if (is_due(progress, &elapsed)) {
        uint64_t rate = done * 1000 / elapsed;

        begin_line(progress, done, total);
        fprintf(stderr, "%llu of %llu %s, %llu/s, ", (unsigned long long)done,
                (unsigned long long)total, things, (unsigned long long)rate);
        end_line(progress, total - done, rate);
    }
    return interrupted == 0;
}

void progress_end(struct progress *progress)
{
    if (progress->screen && progress->shown != 0)
        fputs("\r\033[K", stderr);
    progress->shown = 0;
}
