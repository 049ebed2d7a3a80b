/* SPDX-License-Identifier: MIT */
/* tray: devices are renewed as they are plugged in, one after the other or
 * several at a time. */
#include <poll.h>
#include <unistd.h>

#include "device/device.h"
#include "look/look.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"
#include "term/term.h"
#include "view/view.h"

#define POLL_MS 250u
#define MEDIA_S 2u
#define JOBS_MOST 256u
#define PLACES_MOST 256u

/* A place where a device is, or a reader: then its medium is what matters. */
struct place {
    char address[160];
    bool there;
    bool removable, empty; /* as it was seen last */
    uint8_t digest[SLATE_DIGEST_BYTES];
    struct job *job; /* what goes on there; NULL: nothing */
};

enum stage {
    STAGE_WAITS, /* for consent */
    STAGE_RUNS,
    STAGE_OVER
};

struct tray {
    const struct options *options;
    struct place place[PLACES_MOST];
    uint32_t places;
    struct job *job[JOBS_MOST];
    enum stage stage[JOBS_MOST];
    uint32_t jobs;
    struct lanes lanes;
    bool asks;      /* a person types tags */
    bool closed;    /* no more devices are taken */
    uint64_t moved; /* s, when something happened last */
};

static bool is_quiet(const struct tray *tray)
{
    return tray->options->json;
}

/* Consent that was given beforehand counts once: what was renewed may come
 * back, by a hand or by itself. */
static bool was_renewed(const struct tray *tray, const char *tag)
{
    for (uint32_t i = 0; i < tray->jobs; i++) {
        if (tray->job[i]->renewed && strcmp(tray->job[i]->name, tag) == 0)
            return true;
    }
    return false;
}

/* Is a device meant at all, that was looked at? */
static bool is_meant(const struct tray *tray, const struct target *target,
                     char *why, size_t room)
{
    const char *given = tray->options->consent;
    char picked[64];

    if (target->facts.opened != SLATE_OK) {
        snprintf(why, room, "%.200s",
                 target->why[0] == '\0' ? "it does not answer" : target->why);
        return false;
    }
    if (!expected_fits(tray->options->expect, target, why, room))
        return false;
    if (target->system) {
        snprintf(why, room, "the running system stands on it");
        return false;
    }
    if (given == NULL)
        return true;
    snprintf(why, room, "its tag is not among those of --consent");
    if (!consent_pick(target, given, picked))
        return false;
    snprintf(why, room, "it was renewed already, and consent counts once");
    return !was_renewed(tray, target->media.tag);
}

/* Who is it, and is there a medium? Reads nothing of that. Give the target
 * back. */
static struct target *peek(const struct tray *tray, struct place *place)
{
    struct target *target = calloc(1, sizeof *target);

    if (target == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    place->empty =
        target_at(target, place->address, tray->options->bench, 0) != SLATE_OK;
    place->removable = target->media.removable;
    memcpy(place->digest, target->media.digest, sizeof place->digest);
    return target;
}

static void give_back(struct target *target)
{
    target_close(target);
    free(target);
}

/* Ahead of everything else that is done to it. */
static bool is_expected(const struct tray *tray, struct place *place,
                        struct job *job, char *why, size_t room)
{
    struct target *target = peek(tray, place);
    bool fits = false;

    snprintf(why, room, "it does not answer");
    if (target_take(target, SLATE_DEPTH_GLANCE))
        fits = is_meant(tray, target, why, room);

    if (target->media.tag[0] != '\0')
        snprintf(job->name, sizeof job->name, "%s", target->media.tag);
    give_back(target);
    return fits;
}

static void tell(const struct tray *tray, const struct job *job,
                 const char *label)
{
    if (is_quiet(tray))
        return;
    job_tell(job, label);
    fflush(stdout);
}

static void leave(struct tray *tray, uint32_t at, const char *why)
{
    job_leave(tray->job[at], why);
    tray->stage[at] = STAGE_OVER;
    tell(tray, tray->job[at], "Left alone");
}

/* A draft that cannot be made is the device's own matter: the next one may do.
 */
static void fail_job(struct tray *tray, uint32_t at)
{
    job_let_go(tray->job[at]);
    tray->stage[at] = STAGE_OVER;
    tell(tray, tray->job[at], "Failed");
}

static void start(struct tray *tray, uint32_t at)
{
    struct job *job = tray->job[at];

    job_ask(job);
    if (job->code != 0) {
        fail_job(tray, at);
        return;
    }
    job->ejects = true;
    tray->stage[at] = STAGE_RUNS;
    job_start(job);
}

static void ask(const struct job *job)
{
    char wanted[64];

    consent_words(&job->renewal.target, wanted);
    fflush(stdout);
    fprintf(stderr,
            "%s: to agree that everything on it is lost, type its tag, %s; an "
            "empty line leaves it alone\n",
            job->name, wanted);
}

/* Consent was given beforehand, or is to be typed. */
static void get_consent(struct tray *tray, uint32_t at)
{
    if (tray->options->consent == NULL)
        ask(tray->job[at]);
    else
        start(tray, at);
}

static void begin(struct tray *tray, struct place *place)
{
    uint32_t at = tray->jobs;
    struct job *job;
    char why[300];

    job = at == JOBS_MOST ? NULL : job_new(tray->options, place->address);
    if (job == NULL) {
        (void)fail(SLATE_ERR_BUFFER,
                   "%s: no more than %u devices are taken in one go",
                   place->address, JOBS_MOST);
        tray->closed = true;
        return;
    }
    tray->job[tray->jobs++] = job;
    tray->stage[at] = STAGE_WAITS;
    tray->moved = clock_ms() / 1000;
    place->job = job;
    if (!is_expected(tray, place, job, why, sizeof why)) {
        leave(tray, at, why);
        return;
    }
    job_prepare(job);
    if (job->code != 0)
        fail_job(tray, at);
    else
        get_consent(tray, at);
}

static struct place *find_place(struct tray *tray, const char *address)
{
    for (uint32_t i = 0; i < tray->places; i++) {
        if (strcmp(tray->place[i].address, address) == 0)
            return &tray->place[i];
    }
    return NULL;
}

static void note(void *context, const char *address)
{
    struct tray *tray = context;
    struct place *place = find_place(tray, address);

    if (place == NULL && tray->places < PLACES_MOST) {
        place = &tray->place[tray->places++];
        memset(place, 0, sizeof *place);
        snprintf(place->address, sizeof place->address, "%s", address);
    }
    if (place != NULL)
        place->there = true;
}

static bool is_under_way(const struct tray *tray, const struct job *job)
{
    for (uint32_t i = 0; job != NULL && i < tray->jobs; i++) {
        if (tray->job[i] == job)
            return tray->stage[i] != STAGE_OVER;
    }
    return false;
}

/* What has gone is forgotten, so that it counts when it comes back; one that
 * was not consented to yet is left alone then. */
static void forget_gone(struct tray *tray)
{
    uint32_t kept = 0;

    for (uint32_t i = 0; i < tray->places; i++) {
        struct place *place = &tray->place[i];

        for (uint32_t j = 0; j < tray->jobs && !place->there; j++) {
            if (tray->job[j] == place->job && tray->stage[j] == STAGE_WAITS)
                leave(tray, j, "it was unplugged");
        }
        if (place->there || is_under_way(tray, place->job))
            tray->place[kept++] = *place;
    }
    tray->places = kept;
}

static bool list(struct tray *tray)
{
    for (uint32_t i = 0; i < tray->places; i++)
        tray->place[i].there = false;
    return attached_each(tray->options->bench, note, tray);
}

/* What is there already is known, with the media in readers. */
static bool list_first(struct tray *tray)
{
    if (!list(tray))
        return false;
    for (uint32_t i = 0; tray->options->bench == NULL && i < tray->places; i++)
        give_back(peek(tray, &tray->place[i]));
    return true;
}

/* Another medium in a reader, or one where there was none. */
static bool has_changed(const struct tray *tray, struct place *place)
{
    const struct place before = *place;

    if ((!before.removable && !before.empty) || is_under_way(tray, before.job))
        return false;
    give_back(peek(tray, place));
    return !place->empty &&
           (before.empty ||
            memcmp(before.digest, place->digest, sizeof before.digest) != 0);
}

static void look(struct tray *tray)
{
    uint32_t known = tray->places;

    if (!list(tray))
        return;
    for (uint32_t i = 0; i < tray->places && !tray->closed; i++) {
        struct place *place = &tray->place[i];

        if (i >= known || (tray->options->bench == NULL && place->there &&
                           has_changed(tray, place)))
            begin(tray, place);
    }
    forget_gone(tray);
}

static void end_those_that_are_over(struct tray *tray)
{
    for (uint32_t i = 0; i < tray->jobs; i++) {
        struct job *job = tray->job[i];

        if (tray->stage[i] != STAGE_RUNS || !job_is_over(job))
            continue;
        job_join(job);
        tray->stage[i] = STAGE_OVER;
        tray->moved = clock_ms() / 1000;
        tell(tray, job, job->renewed ? "Done" : "Failed");
        (void)jobs_ticket(tray->job, tray->jobs, tray->options, 0);
    }
}

/* Lines now and then: a person may be typing. */
static void show_progress(struct tray *tray)
{
    tray->lanes.count = 0;
    tray->lanes.screen = false;
    for (uint32_t i = 0; i < tray->jobs; i++) {
        if (tray->stage[i] == STAGE_RUNS)
            lanes_add(&tray->lanes, tray->job[i]->name, &tray->job[i]->lane);
    }
    lanes_draw(&tray->lanes);
}

static uint32_t count(const struct tray *tray, enum stage stage)
{
    uint32_t those = 0;

    for (uint32_t i = 0; i < tray->jobs; i++)
        those += tray->stage[i] == stage ? 1 : 0;
    return those;
}

/* A tag agrees for the device that has it; an empty line leaves the one alone
 * that has waited longest. */
static void take_line(struct tray *tray, const char *line)
{
    for (uint32_t i = 0; i < tray->jobs; i++) {
        struct target *target = &tray->job[i]->renewal.target;
        char picked[64];

        if (tray->stage[i] != STAGE_WAITS)
            continue;
        if (line[0] == '\0') {
            leave(tray, i, "nobody agreed");
            return;
        }
        if (!consent_pick(target, line, picked))
            continue;
        memcpy(target->agreed, target->media.tag, sizeof target->agreed);
        start(tray, i);
        return;
    }
    if (line[0] != '\0')
        (void)fail(SLATE_ERR_CONSENT, "no device that waits has the tag '%s'",
                   line);
}

static void read_line(struct tray *tray)
{
    struct pollfd ready = {.fd = STDIN_FILENO, .events = POLLIN};
    char line[256];

    if (!tray->asks || tray->closed || poll(&ready, 1, 0) != 1)
        return;
    tray->moved = clock_ms() / 1000;
    if (fgets(line, sizeof line, stdin) == NULL) {
        tray->closed = true; /* Ctrl-D */
        for (uint32_t i = 0; i < tray->jobs; i++) {
            if (tray->stage[i] == STAGE_WAITS)
                leave(tray, i, "nobody agreed");
        }
        return;
    }
    line[strcspn(line, "\r\n")] = '\0';
    take_line(tray, line);
}

static bool goes_on(struct tray *tray)
{
    const struct options *options = tray->options;

    if (count(tray, STAGE_RUNS) > 0)
        return true;
    if (tray->closed || progress_is_interrupted())
        return false;
    return options->seconds == 0 ||
           clock_ms() / 1000 - tray->moved < options->seconds;
}

static void run(struct tray *tray)
{
    struct slate_linux_watch *watch =
        tray->options->bench == NULL ? slate_linux_watch_open() : NULL;
    uint64_t looked = clock_ms() / 1000;
    bool news;

    while (goes_on(tray)) {
        /* not every host tells of a medium that comes into a reader */
        news = slate_linux_watch_wait(watch, POLL_MS) || watch == NULL ||
               clock_ms() / 1000 - looked >= MEDIA_S;
        if (news && !tray->closed && !progress_is_interrupted()) {
            look(tray);
            looked = clock_ms() / 1000;
        }
        progress_pause();
        read_line(tray);
        end_those_that_are_over(tray);
        show_progress(tray);
    }
    slate_linux_watch_close(watch);
}

static int tally(struct tray *tray)
{
    int code = 0;

    for (uint32_t i = 0; i < tray->jobs; i++) {
        if (tray->stage[i] == STAGE_WAITS)
            leave(tray, i, "nobody agreed");
    }
    if (tray->jobs == 0)
        code = fail(SLATE_ERR_NO_DEVICE, "no device came");
    else
        code = jobs_tell(tray->job, tray->jobs, tray->options->json,
                         "trueslate.tray/1");
    code = jobs_ticket(tray->job, tray->jobs, tray->options, code);
    ticket_tell(tray->options);
    for (uint32_t i = 0; i < tray->jobs; i++)
        job_free(tray->job[i]);
    return code;
}

int verb_tray(const struct options *options)
{
    struct tray *tray = calloc(1, sizeof *tray);
    int code;

    if (tray == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    tray->options = options;
    tray->asks = options->consent == NULL;
    tray->moved = clock_ms() / 1000;
    lanes_begin(&tray->lanes);
    if (tray->asks && isatty(STDIN_FILENO) != 1)
        code = fail(SLATE_ERR_CONSENT,
                    "there is no terminal to ask for consent at; expected "
                    "--consent with the tags of all devices that may be "
                    "renewed, with commas between them");
    else if (!list_first(tray))
        code = fail(SLATE_ERR_NO_DEVICE,
                    "the devices cannot be listed; name a bench with --bench");
    else
        code = 0;
    if (code == 0) {
        fprintf(stderr, "Plug the devices in now. Ctrl-%s ends it.\n",
                tray->asks ? "D" : "C");
        progress_catch_interrupts();
        setvbuf(stdin, NULL, _IONBF, 0); /* poll tells of each line */
        run(tray);
        code = tally(tray);
    }
    free(tray);
    return code;
}
