/* SPDX-License-Identifier: MIT */
/* The progress line: how far, how fast, how long. It appears when the work has
 * lasted a second; without a terminal a line of its own every ten seconds. */
#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "lane.h"
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

bool progress_is_interrupted(void)
{
    return interrupted != 0;
}

void progress_begin(struct progress *progress, const char *doing)
{
    if (lane_here() != NULL)
        lane_progress(lane_here(), doing);
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

/* Behind what is done so far and how fast: how long it will take. */
static void show_line(const struct progress *progress, uint64_t done,
                      uint64_t total, const char *so_far, uint64_t rate)
{
    char wait[32], line[LANE_ROOM];

    time_words(rate == 0 ? 0 : (total - done + rate - 1) / rate, wait);
    snprintf(line, sizeof line, "%.24s %3u %%, %.90s, %s", progress->doing,
             total == 0 ? 100 : (unsigned)((double)done * 100 / (double)total),
             so_far, wait);
    if (lane_here() != NULL) {
        lane_progress(lane_here(), line);
        return;
    }
    fflush(stdout); /* keeps the order where both go to one file */
    fprintf(stderr, progress->screen ? "\r\033[K%s" : "%s\n", line);
    fflush(stderr);
}

/* Is it time to show how far it is? */
static bool is_due(struct progress *progress, uint64_t *elapsed)
{
    uint64_t now = now_ms();
    bool drawn = progress->screen || lane_here() != NULL;
    uint64_t every = drawn ? REDRAW_MS : LOG_MS;

    *elapsed = now - progress->started;
    if (*elapsed < (lane_here() != NULL ? REDRAW_MS : PATIENCE_MS) ||
        (progress->shown != 0 && now - progress->shown < every))
        return false;
    progress->shown = now;
    return true;
}

bool progress_bytes(struct progress *progress, uint64_t done, uint64_t total)
{
    char so_far[SLATE_SIZE_TEXT], all[SLATE_SIZE_TEXT], speed[SLATE_SIZE_TEXT];
    char words[3 * SLATE_SIZE_TEXT + 16];
    uint64_t elapsed;

    if (is_due(progress, &elapsed)) {
        slate_size_decimal(done, so_far);
        slate_size_decimal(total, all);
        slate_size_decimal(done * 1000 / elapsed, speed);
        snprintf(words, sizeof words, "%s of %s, %s/s", so_far, all, speed);
        show_line(progress, done, total, words, done * 1000 / elapsed);
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
    char words[100];
    uint64_t elapsed;

    if (is_due(progress, &elapsed)) {
        uint64_t rate = done * 1000 / elapsed;

        snprintf(words, sizeof words, "%llu of %llu %s, %llu/s",
                 (unsigned long long)done, (unsigned long long)total, things,
                 (unsigned long long)rate);
        show_line(progress, done, total, words, rate);
    }
    return interrupted == 0;
}

void progress_end(struct progress *progress)
{
    if (progress->screen && progress->shown != 0 && lane_here() == NULL)
        fputs("\r\033[K", stderr);
    progress->shown = 0;
}
