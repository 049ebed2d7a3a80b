/* SPDX-License-Identifier: MIT */
/* The progress line: how far, how fast, how long. It appears when the work has
 * lasted a second; without a terminal a line of its own every ten seconds. */
#include <signal.h>
#include <stdatomic.h>
#include <unistd.h>

#include "term/term.h"

#define PATIENCE_MS 1000u
#define REDRAW_MS 100u
#define LOG_MS 10000u

/* So long the rate of now is measured. */
#define RATE_MS 3000u

/* Of all threads, and of what interrupts them. */
static atomic_bool interrupted, pause_wanted;
static _Atomic uint64_t paused; /* ms, in all */

static void note_pause(int signal_number)
{
    (void)signal_number;
    atomic_store(&pause_wanted, true);
}

static void note_interrupt(int signal_number)
{
    (void)signal_number;
    atomic_store(&interrupted, true);
}

/* Nothing goes on that would have to come to an end. */
static void leave(int signal_number)
{
    static const char said[] = "\ntrueslate: interrupted\n";

    (void)signal_number;
    if (write(STDERR_FILENO, said, sizeof said - 1) < 0)
        _exit((int)SLATE_CLASS_STOPPED);
    _exit((int)SLATE_CLASS_STOPPED);
}

static void leave_and_report(int signal_number)
{
    static const char report[] = "{\n  \"shape\": \"trueslate.error/1\",\n"
                                 "  \"exit_code\": 6,\n"
                                 "  \"error\": \"interrupted\"\n}\n";

    if (write(STDOUT_FILENO, report, sizeof report - 1) > 0)
        leave(signal_number);
    leave(signal_number);
}

/* What the caller has chosen to ignore stays ignored. */
static void catch_one(int signal_number, int flags, void (*handler)(int))
{
    struct sigaction action, before;

    memset(&action, 0, sizeof action);
    action.sa_handler = handler;
    action.sa_flags = flags;
    if (sigaction(signal_number, NULL, &before) == 0 &&
        before.sa_handler == SIG_IGN && signal_number != SIGPIPE)
        return;
    sigaction(signal_number, &action, NULL);
}

/* Ctrl-Z waits for the transfer that goes on. */
static void catch_pause(void)
{
    struct sigaction action, before;

    memset(&action, 0, sizeof action);
    action.sa_handler = note_pause;
    action.sa_flags = SA_RESTART;
    if (sigaction(SIGTSTP, NULL, &before) != 0 || before.sa_handler != SIG_IGN)
        sigaction(SIGTSTP, &action, NULL);
}

/* A terminal that is closed, or a reader that has gone, is as good a reason to
 * stop as Ctrl-C. A second Ctrl-C ends the program. */
void progress_catch_interrupts(void)
{
    catch_one(SIGINT, (int)SA_RESETHAND, note_interrupt);
    catch_one(SIGTERM, (int)SA_RESETHAND, note_interrupt);
    catch_one(SIGHUP, 0, note_interrupt);
    catch_pause();
    catch_one(SIGPIPE, 0, note_interrupt);
}

void progress_guard(bool json)
{
    void (*handler)(int) = json ? leave_and_report : leave;

    catch_one(SIGINT, 0, handler);
    catch_one(SIGTERM, 0, handler);
    catch_one(SIGHUP, 0, handler);
}

uint64_t progress_now_ms(void)
{
    return clock_ms() - paused;
}

void progress_pause(void)
{
    uint64_t began = progress_now_ms();

    if (!atomic_exchange(&pause_wanted, false))
        return;
    fprintf(stderr, "%sPaused; 'fg' goes on\n",
            isatty(STDERR_FILENO) == 1 ? "\r\033[K" : "");
    fflush(stderr);
    raise(SIGSTOP);
    paused += progress_now_ms() - began;
}

bool progress_is_interrupted(void)
{
    return atomic_load(&interrupted);
}

void progress_begin(struct progress *progress, const char *doing)
{
    if (lane_here() != NULL)
        lane_progress(lane_here(), doing);
    progress->doing = doing;
    progress->started = progress_now_ms();
    progress->shown = 0;
    progress->based = progress->rounds = false;
    progress->round[0] = '\0';
    progress->rate = 0;
    progress->screen = isatty(STDERR_FILENO) == 1;
}

void progress_time_words(uint64_t seconds, char words[48])
{
    if (seconds < 60)
        snprintf(words, 48, "%u s", (unsigned)seconds);
    else if (seconds < 3600)
        snprintf(words, 48, "%u min %02u s", (unsigned)(seconds / 60),
                 (unsigned)(seconds % 60));
    else
        snprintf(words, 48, "%llu h %02u min",
                 (unsigned long long)(seconds / 3600),
                 (unsigned)(seconds / 60 % 60));
}

static void put_line(const struct progress *progress, const char *line)
{
    if (lane_here() != NULL) {
        lane_progress(lane_here(), line);
        return;
    }
    fflush(stdout); /* keeps the order where both go to one file */
    fprintf(stderr, progress->screen ? "\r\033[K%s" : "%s\n", line);
    fflush(stderr);
}

/* Behind what is done so far and how fast: how long it will take. */
static void show_line(const struct progress *progress, uint64_t done,
                      uint64_t total, const char *so_far, uint64_t rate)
{
    char wait[48], line[LANE_ROOM];

    progress_time_words(rate == 0 ? 0 : (total - done + rate - 1) / rate, wait);
    snprintf(line, sizeof line, "%.30s %3u %%, %.90s, %s left",
             progress->round[0] != '\0' ? progress->round : progress->doing,
             total == 0 ? 100 : (unsigned)((double)done * 100 / (double)total),
             so_far, wait);
    put_line(progress, line);
}

/* Is it time to show how far it is? */
static bool is_due(struct progress *progress, uint64_t *elapsed)
{
    uint64_t now;
    bool drawn = progress->screen || lane_here() != NULL;
    uint64_t every = drawn ? REDRAW_MS : LOG_MS;

    if (lane_here() == NULL)
        progress_pause();
    now = progress_now_ms();
    *elapsed = now - progress->started;
    if (*elapsed < (lane_here() != NULL ? REDRAW_MS : PATIENCE_MS) ||
        (progress->shown != 0 && now - progress->shown < every))
        return false;
    progress->shown = now;
    return true;
}

/* What a run that goes on finds done already does not make it fast. */
static void measure(struct progress *progress, uint64_t done)
{
    uint64_t now = progress_now_ms();

    if (!progress->based) {
        progress->based = true;
        progress->base = progress->since_done = done;
        progress->since = now;
    }
    if (now - progress->since < RATE_MS || done < progress->since_done)
        return;
    progress->rate =
        (done - progress->since_done) * 1000 / (now - progress->since);
    progress->since = now;
    progress->since_done = done;
}

/* The mean rate, per second. */
static uint64_t mean_rate(const struct progress *progress, uint64_t done,
                          uint64_t elapsed)
{
    uint64_t merit = done > progress->base ? done - progress->base : done;

    return elapsed == 0 ? 0 : merit * 1000 / elapsed;
}

/* "31 MB/s", and where that is another one, the mean. */
static void rate_words(const struct progress *progress, uint64_t mean,
                       char *words, size_t room)
{
    char now[SLATE_SIZE_TEXT], all[SLATE_SIZE_TEXT];

    slate_size_decimal(progress->rate == 0 ? mean : progress->rate, now);
    slate_size_decimal(mean, all);
    if (strcmp(now, all) == 0 || (progress->screen && paint_columns() < 110))
        snprintf(words, room, "%s/s", now);
    else
        snprintf(words, room, "%s/s now, %s/s in the mean", now, all);
}

bool progress_bytes(struct progress *progress, uint64_t done, uint64_t total)
{
    char so_far[SLATE_SIZE_TEXT];
    char speed[2 * SLATE_SIZE_TEXT + 24], words[4 * SLATE_SIZE_TEXT + 40];
    uint64_t elapsed, mean;

    measure(progress, done);
    if (is_due(progress, &elapsed)) {
        mean = mean_rate(progress, done, elapsed);
        slate_size_decimal(done, so_far);
        rate_words(progress, mean, speed, sizeof speed);
        snprintf(words, sizeof words, "%s of %s, %s", so_far,
                 in_decimal(total).words, speed);
        show_line(progress, done, total, words, mean);
    }
    return interrupted == 0;
}

/* "Round 2 of 3 41 %, all", while rounds go on. */
static void name_round(struct progress *progress, const struct slate_pass *pass)
{
    const struct slate_extent *extent = &pass->extent;
    uint64_t blocks = pass->media->geometry.block_count;
    double share = (double)extent->first * 100 / (double)blocks;

    if (extent->moment != SLATE_MOMENT_OVERWRITE ||
        extent->part != SLATE_PART_OVERWRITTEN ||
        extent->deed == SLATE_DEED_DISCARD || !progress->rounds)
        return;
    snprintf(progress->round, sizeof progress->round, "%s %u of %u %2u %%, all",
             extent->deed == SLATE_DEED_CHECK ? "Check" : "Round",
             extent->role + 1u, pass->draft->goal.overwrite.rounds,
             (unsigned)share);
}

bool progress_step(void *context, const struct slate_pass *pass)
{
    struct progress *progress = context;
    uint32_t block_bytes = pass->media->geometry.block_bytes;

    progress->round[0] = '\0';
    if (pass->draft != NULL)
        name_round(progress, pass);
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

bool progress_share(struct progress *progress, uint64_t done, uint64_t total)
{
    char so_far[48], wait[48], line[LANE_ROOM];
    uint64_t elapsed;

    if (!is_due(progress, &elapsed))
        return interrupted == 0;
    progress_time_words(elapsed / 1000, so_far);
    progress_time_words(done == 0 ? 0 : elapsed * (total - done) / done / 1000,
                        wait);
    if (total == 0)
        snprintf(line, sizeof line,
                 "%s, %s so far; the device does not tell how far it is",
                 progress->doing, so_far);
    else
        snprintf(line, sizeof line, "%s %3u %%, %s so far, %s left",
                 progress->doing, (unsigned)(done * 100 / total), so_far,
                 done == 0 ? "not known how much is" : wait);
    put_line(progress, line);
    return interrupted == 0;
}

bool progress_place(struct progress *progress, uint64_t done, uint64_t total,
                    const char *place, uint64_t ms)
{
    char wait[48], line[LANE_ROOM];
    uint64_t elapsed;

    if (!is_due(progress, &elapsed))
        return interrupted == 0;
    progress_time_words(done == 0 ? 0 : ms * (total - done) / done / 1000,
                        wait);
    snprintf(line, sizeof line, "%s %3u %%, %.60s, %s left", progress->doing,
             (unsigned)(total == 0 ? 0 : done * 100 / total), place,
             done == 0 ? "not known how much is" : wait);
    put_line(progress, line);
    return interrupted == 0;
}

void progress_end(struct progress *progress)
{
    if (progress->screen && progress->shown != 0 && lane_here() == NULL)
        fputs("\r\033[K", stderr);
    progress->shown = 0;
}
