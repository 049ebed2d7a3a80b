/* SPDX-License-Identifier: MIT */
/* Errors for people: one line on stderr, or in the lane of a thread, and the
 * exit code that goes with it. */
#include <stdarg.h>

#include "base/base.h"

int exit_code(enum slate_status status)
{
    return (int)slate_status_class(status);
}

/* To the lane of this thread, or to stderr. */
static void say_line(const char *mark, const char *line)
{
    struct lane *lane = lane_here();

    if (lane != NULL) {
        lane_say(lane, line);
        return;
    }
    fflush(stdout);
    fprintf(stderr, "%s%s\n", mark, line);
}

static _Thread_local char last[1000];

const char *say_last(void)
{
    return last;
}

int fail(enum slate_status status, const char *format, ...)
{
    static _Thread_local char said[20000], shown[40000];
    va_list arguments;

    va_start(arguments, format);
    vsnprintf(said, sizeof said, format, arguments);
    va_end(arguments);
    (void)plain_shown(said, shown, sizeof shown);
    snprintf(last, sizeof last, "%.999s", shown);
    say_line("trueslate: ", shown);
    return exit_code(status);
}

void say_how(const char *words, const char *command)
{
    char line[8600];

    snprintf(line, sizeof line, "%s:\n  %s", words, command);
    say_line("trueslate: ", line);
}

int fail_plainly(enum slate_status status, const char *subject)
{
    return fail(status, "%s: %s", subject, slate_status_sentence(status));
}

bool is_pulled(enum slate_status status, const struct slate_media *media)
{
    return status == SLATE_ERR_NO_DEVICE &&
           media->identity.transport != SLATE_TRANSPORT_IMAGE;
}

int fail_with_fault(enum slate_status status, const struct slate_media *media,
                    const char *subject)
{
    char words[256];
    struct slate_text text;

    if (is_pulled(status, media))
        return fail(status, "%s: %s", subject, SAY_PULLED);
    if (media->fault.status != status)
        return fail_plainly(status, subject);
    slate_text_start(&text, words, sizeof words);
    slate_fault_words(&media->fault, &text);
    return fail(status, "%s: %s", subject, words);
}

int fail_refused(const struct slate_draft *draft, enum slate_status status,
                 const char *subject, const char *more)
{
    char words[400] = "";
    struct slate_text text = SLATE_TEXT(words);

    slate_draft_refusal_words(draft, status, &text);
    return fail(status, "%s: %s%s", subject, words, more);
}

struct size_words in_both(uint64_t bytes)
{
    struct size_words size = {""};

    slate_size_both(bytes, size.words);
    return size;
}

struct size_words in_decimal(uint64_t bytes)
{
    struct size_words size = {""};

    slate_size_decimal(bytes, size.words);
    return size;
}

struct size_words in_binary(uint64_t bytes)
{
    struct size_words size = {""};

    slate_size_binary(bytes, size.words);
    return size;
}

/* What one of several jobs tells that go on side by side. */

static _Thread_local struct lane *here;

void lane_open(struct lane *lane)
{
    memset(lane, 0, sizeof *lane);
    pthread_mutex_init(&lane->lock, NULL);
}

void lane_close(struct lane *lane)
{
    pthread_mutex_destroy(&lane->lock);
}

void lane_enter(struct lane *lane)
{
    here = lane;
}

struct lane *lane_here(void)
{
    return here;
}

void lane_progress(struct lane *lane, const char *line)
{
    pthread_mutex_lock(&lane->lock);
    snprintf(lane->line, sizeof lane->line, "%s", line);
    pthread_mutex_unlock(&lane->lock);
}

void lane_say(struct lane *lane, const char *line)
{
    size_t used;

    pthread_mutex_lock(&lane->lock);
    used = strlen(lane->said);
    snprintf(lane->said + used, sizeof lane->said - used, "%s%s",
             used == 0 ? "" : "\n", line);
    pthread_mutex_unlock(&lane->lock);
}

void lane_get(struct lane *lane, char line[LANE_ROOM])
{
    pthread_mutex_lock(&lane->lock);
    memcpy(line, lane->line, LANE_ROOM);
    pthread_mutex_unlock(&lane->lock);
}
