/* SPDX-License-Identifier: MIT */
/* A device that erases itself: finding its ways, sending the command, waiting,
 * and looking what came of it. */
#include "work/work.h"

#include "term/term.h"

/* How long a device is left alone between two questions, ms: the longer it
 * takes, the less often it is asked. */
#define WAIT_LEAST 20u
#define WAIT_MOST 2000u
#define WAIT_SHARE 50u

int erasing_find(struct erasing *erasing, struct target *target)
{
    enum slate_status status =
        slate_erase_find(&target->media, erasing->way, &erasing->ways);

    erasing->chosen = erasing->ways;
    if (status == SLATE_OK)
        status = slate_erase_ask(&target->media, &erasing->state);
    return status == SLATE_OK ? 0 : fail_plainly(status, target->address);
}

/* "sanitize-block, format-unit" */
static void list_ways(const struct erasing *erasing, char *words, size_t room)
{
    struct slate_text text;

    slate_text_start(&text, words, room);
    for (uint32_t i = 0; i < erasing->ways; i++) {
        slate_text_add(&text, i == 0 ? "" : ", ");
        slate_text_add(&text, slate_erase_name(erasing->way[i].kind));
    }
}

int erasing_choose(struct erasing *erasing, const struct options *options,
                   const struct target *target)
{
    char words[400];
    const struct slate_erase_way *way;

    erasing->chosen = 0;
    while (erasing->chosen < erasing->ways &&
           strcmp(slate_erase_name(erasing->way[erasing->chosen].kind),
                  options->way) != 0)
        erasing->chosen++;
    list_ways(erasing, words, sizeof words);
    if (erasing->ways == 0)
        return fail(SLATE_ERR_COMMAND,
                    "%s names no way to erase itself; 'trueslate overwrite "
                    "%s%s' overwrites it",
                    target->address, target->name, target->also);
    if (erasing->chosen == erasing->ways)
        return fail(SLATE_ERR_ARGUMENT,
                    "--way %s: expected one that %s has: %s", options->way,
                    target->address, words);
    way = &erasing->way[erasing->chosen];
    if (way->reaches_units && !options->whole_drive)
        return fail(SLATE_ERR_PARTS,
                    "%s erases all %u namespaces of this drive, not this one "
                    "alone; to mean that, add --whole-drive",
                    options->way, target->media.units);
    return 0;
}

static void wait_a_little(uint64_t since)
{
    uint64_t ms = (progress_now_ms() - since) / WAIT_SHARE;
    struct timespec pause;

    ms = ms < WAIT_LEAST ? WAIT_LEAST : ms < WAIT_MOST ? ms : WAIT_MOST;
    pause.tv_sec = (time_t)(ms / 1000);
    pause.tv_nsec = (long)(ms % 1000) * 1000000;
    nanosleep(&pause, NULL);
}

static const char *doing(enum slate_erase_phase phase)
{
    return phase == SLATE_ERASE_LOOKING ? "Looking"
           : phase == SLATE_ERASE_PROVING || phase == SLATE_ERASE_READING
               ? "Reading back"
               : "Erasing";
}

static bool show(struct progress *progress, const struct slate_erase *erase)
{
    uint32_t block_bytes = erase->media->geometry.block_bytes;
    uint64_t total, done = slate_erase_done(erase, &total);

    if (erase->phase == SLATE_ERASE_READING ||
        (erase->phase == SLATE_ERASE_ORDERING && total > 0))
        return progress_bytes(progress, done * block_bytes,
                              total * block_bytes);
    if (erase->phase == SLATE_ERASE_WAITING)
        return progress_share(progress, done, total);
    return progress_count(progress, done, total, "places");
}

static int fail_stopped(const struct slate_erase *erase,
                        const struct target *target)
{
    if (!erase->begun)
        return fail(SLATE_ERR_STOPPED, "%s: stopped; nothing was sent",
                    target->address);
    if (erase->phase == SLATE_ERASE_WAITING)
        return fail(SLATE_ERR_STOPPED,
                    "%s goes on erasing itself; 'trueslate erase %s%s' shows "
                    "how far it is, and proves it",
                    target->address, target->name, target->also);
    if (erase->phase == SLATE_ERASE_ORDERING)
        return fail(SLATE_ERR_STOPPED,
                    "%s: stopped; %llu of %llu blocks are erased, the others "
                    "are as they were",
                    target->address, (unsigned long long)erase->next,
                    (unsigned long long)target->media.geometry.block_count);
    return fail(SLATE_ERR_STOPPED,
                "%s: it has erased itself; reading it back was stopped",
                target->address);
}

static bool sets_password(const struct slate_erase *erase)
{
    return !erase->joined && (erase->way.kind == SLATE_ERASE_ATA_SECURITY ||
                              erase->way.kind == SLATE_ERASE_ATA_ENHANCED);
}

/* By what the device said, not by the way alone. */
static const char *what_helps(const struct slate_erase *erase,
                              enum slate_status status)
{
    if (erase->joined)
        return "Let it erase itself again.";
    if (erase->state.activity == SLATE_ERASE_FAILED)
        return "Let it erase itself again, this way or another: until that has "
               "come to its end, it takes nothing else.";
    if (status == SLATE_ERR_UNERASED)
        return "Let it erase itself again, this way or another, or overwrite "
               "it.";
    if (status == SLATE_ERR_COMMAND)
        return "It refused the command: 'trueslate assess' tells whether it "
               "can be read as before.";
    return slate_erase_words(erase->way.kind, SLATE_ERASE_CUT);
}

static int fail_step(const struct slate_erase *erase,
                     const struct target *target, enum slate_status status)
{
    const char *name = slate_erase_name(erase->way.kind);

    if (status == SLATE_ERR_GUARD)
        return fail(status,
                    "%s: its password is not ours, or its security settings "
                    "are frozen until the next power-on; nothing was erased; "
                    "'trueslate guards %s%s' tells which",
                    target->address, target->name, target->also);
    if (erase->begun && sets_password(erase))
        return fail(status,
                    "%s: %s did not end: %s; the disk may be locked with the "
                    "password \"%s\": plug it in anew and erase it the same "
                    "way again, which unlocks it",
                    target->address, name, slate_status_sentence(status),
                    SLATE_ERASE_PASSWORD);
    if (!erase->begun && status == SLATE_ERR_COMMAND)
        return fail(status, "%s refuses %s; nothing was erased",
                    target->address, name);
    if (!erase->begun || status == SLATE_ERR_PROTECTED)
        return fail_plainly(status, target->address);
    return fail(status, "%s: %s. What is left on it is not known. %s",
                target->address,
                status == SLATE_ERR_NO_DEVICE ? "it does not answer any more"
                                              : slate_status_sentence(status),
                what_helps(erase, status));
}

/* Some commands return when they have ended, and tell of nothing before. */
static void say_patience(const struct slate_erase *erase)
{
    char words[80] = "it does not tell how long it takes";

    if (erase->phase != SLATE_ERASE_ORDERING || erase->next > 0 ||
        slate_erase_tells(erase->way.kind))
        return;
    if (erase->way.minutes > 0)
        snprintf(words, sizeof words, "it tells of %u minutes",
                 erase->way.minutes);
    fprintf(stderr,
            "Erasing: the device answers when it is done, and cannot be "
            "stopped; %s\n",
            words);
}

static int run(struct slate_erase *erase, const struct target *target)
{
    enum slate_erase_phase phase = erase->phase;
    enum slate_status status = SLATE_OK;
    struct progress progress;
    bool go_on = true;

    progress_catch_interrupts();
    progress_begin(&progress, doing(phase));
    while (status == SLATE_OK && go_on && erase->phase != SLATE_ERASE_OVER) {
        say_patience(erase);
        status = slate_erase_step(erase);
        if (erase->phase != phase) {
            progress_end(&progress);
            phase = erase->phase;
            progress_begin(&progress, doing(phase));
        }
        go_on = show(&progress, erase);
        if (status == SLATE_OK && go_on && phase == SLATE_ERASE_WAITING)
            wait_a_little(progress.started);
    }
    progress_end(&progress);
    if (status != SLATE_OK)
        return fail_step(erase, target, status);
    return erase->phase == SLATE_ERASE_OVER ? 0 : fail_stopped(erase, target);
}

static int erase(struct erasing *erasing, struct target *target, bool read_all)
{
    struct slate_erase *erase = &erasing->erase;
    enum slate_status status =
        erasing->chosen < erasing->ways
            ? slate_erase_start(erase, &target->media,
                                &erasing->way[erasing->chosen], erasing->place,
                                ERASING_PLACES, target->work, SLATE_ERASE_WORK)
            : slate_erase_join(erase, &target->media, erasing->place,
                               ERASING_PLACES, target->work, SLATE_ERASE_WORK);

    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    erase->read_all = read_all;
    erasing->begun = true;
    return run(erase, target);
}

int erasing_do(struct erasing *erasing, struct target *target, bool read_all)
{
    int code;

    if (erasing->chosen == erasing->ways) /* one that goes on by itself */
        return erase(erasing, target, read_all);
    code = door_enter(target);
    return code == 0 ? door_leave(target, erase(erasing, target, read_all))
                     : code;
}

int erasing_judge(const struct erasing *erasing, const struct target *target)
{
    const struct slate_erase *erase = &erasing->erase;
    enum slate_erased erased = slate_erase_verdict(erase);

    if (!slate_erased_is_bad(erased))
        return 0;
    if (erased == SLATE_ERASED_KEPT)
        return fail(
            SLATE_ERR_UNPROVED,
            "%s says that it erased itself, but %u of %u places hold what they "
            "held, the first at block %llu: overwrite it, and do not trust it",
            target->media.tag, erase->kept, erase->held,
            (unsigned long long)erase->first_kept);
    return fail(SLATE_ERR_UNPROVED, "%s: %s", target->media.tag,
                slate_erased_words(erased));
}
