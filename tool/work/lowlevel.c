/* SPDX-License-Identifier: MIT */
/* A low-level format: planned from the options, and carried out. */
#include "work/work.h"

#include "draft/draft.h"
#include "term/term.h"

/* Between two questions, ms. */
#define WAIT_MS 50
#define INTERLEAVES 10u

int lowlevel_find(struct lowlevel *job)
{
    struct target *target = job->target;
    struct slate_erase_state state;
    enum slate_status status = slate_erase_ask(&target->media, &state);

    if (status == SLATE_OK && state.activity == SLATE_ERASE_WORKING)
        return fail(SLATE_ERR_BUSY,
                    "%s is formatting or erasing itself; 'trueslate erase "
                    "%s%s' waits for it",
                    target->address, target->name, target->also);
    if (status == SLATE_OK)
        status = slate_lowlevel_look(&target->media, &job->facts);
    snprintf(job->tag, sizeof job->tag, "%s", job->target->media.tag);
    return status == SLATE_OK ? 0 : fail_plainly(status, job->target->address);
}

static int refuse_kind(struct lowlevel *job)
{
    struct target *target = job->target;
    struct slate_erase_way way[SLATE_ERASE_WAYS_MAX];
    uint32_t count = 0;
    bool erases =
        slate_erase_find(&target->media, way, &count) == SLATE_OK && count > 0;

    return fail(SLATE_ERR_COMMAND,
                "%s: nothing below its blocks can be reached: %s%s%s%s",
                target->address, lowlevel_unreached(&target->media),
                erases ? "; how it can erase itself: trueslate erase " : "",
                erases ? target->name : "", erases ? target->also : "");
}

static bool is_about_tracks(const struct options *options)
{
    for (int i = 0; i < DRIVE_BLOCKS; i++) {
        if (options->drive[i] != NULL)
            return true;
    }
    return false;
}

static int plan_drive(struct lowlevel *job)
{
    const struct slate_lowlevel_facts *facts = &job->facts;
    int code = drive_take(job->options, &facts->drive, &job->work.drive,
                          &job->measured);

    job->work.has_drive = code == 0;
    THEN(code,
         drive_take_split(job->options, &job->work.drive, &job->first_blocks));
    return code == 0 ? drive_take_sticker(job->options, &job->work.drive,
                                          &job->sticker, &job->stickers)
                     : code;
}

/* "512, 4096" */
static void list_formats(const struct slate_lowlevel_facts *facts, char *words,
                         size_t room)
{
    struct slate_text text;

    slate_text_start(&text, words, room);
    for (uint32_t i = 0; i < facts->formats; i++) {
        if (facts->format[i].extra_bytes != 0)
            continue;
        slate_text_add(&text, words[0] == '\0' ? "" : ", ");
        slate_text_number(&text, facts->format[i].block_bytes);
    }
}

static int plan_blocks(struct lowlevel *job)
{
    char words[200];

    (void)word_number(job->options->drive[DRIVE_BLOCKS], &job->block_bytes);
    if (job->facts.kind == SLATE_LOWLEVEL_SCSI)
        return job->block_bytes >= 128 && job->block_bytes <= 8192
                   ? 0
                   : fail(SLATE_ERR_ARGUMENT,
                          "--blocks %u: expected 128 to 8192, mostly 512 or "
                          "4096",
                          job->block_bytes);
    for (uint32_t i = 0; i < job->facts.formats; i++) {
        if (job->facts.format[i].block_bytes == job->block_bytes &&
            job->facts.format[i].extra_bytes == 0)
            return 0;
    }
    list_formats(&job->facts, words, sizeof words);
    return fail(SLATE_ERR_ARGUMENT,
                "--blocks %u: expected a size that %s has: %s",
                job->block_bytes, job->target->address, words);
}

int lowlevel_plan(struct lowlevel *job)
{
    const struct options *options = job->options;
    const struct target *target = job->target;
    int code = 0;

    if (job->facts.kind == SLATE_LOWLEVEL_NONE)
        return refuse_kind(job);
    if (is_about_tracks(options) && !job->facts.settable)
        return fail(SLATE_ERR_ARGUMENT,
                    "%s: its controller takes no other cylinders, heads and "
                    "sectors; expected --blocks or --same",
                    target->address);
    if (job->facts.reaches_units && !options->whole_drive)
        return fail(SLATE_ERR_PARTS,
                    "%s: a format reaches all %u namespaces of this drive, not "
                    "this one alone; to mean that, add --whole-drive",
                    target->address, target->media.units);
    job->block_bytes = job->facts.block_bytes;
    if (options->drive[DRIVE_BLOCKS] != NULL)
        code = plan_blocks(job);
    if (code == 0 && job->facts.settable)
        code = plan_drive(job);
    return code;
}

bool lowlevel_is_readable(const struct lowlevel *job)
{
    return job->target->status == SLATE_OK &&
           (slate_finding_follows(job->target->finding[0].id) &
            SLATE_FOLLOW_UNREADABLE) == 0;
}

static void say_place(const struct slate_drive *drive, uint64_t track,
                      char words[60])
{
    snprintf(words, 60, "cylinder %llu of %u, head %llu",
             (unsigned long long)(track / drive->heads), drive->cylinders,
             (unsigned long long)(track % drive->heads));
}

static void wait_a_little(void)
{
    const struct timespec pause = {0, WAIT_MS * 1000000L};

    nanosleep(&pause, NULL);
}

static int fail_measured(const struct lowlevel *job)
{
    return fail(
        SLATE_ERR_STOPPED,
        "%s: stopped; it has one track now, and needs a low-level format again",
        job->target->address);
}

static int fail_format(const struct lowlevel *job, enum slate_status status)
{
    const struct target *target = job->target;
    bool changed = slate_reformat_has_changed(&job->work);

    if (status == SLATE_ERR_COMMAND && !changed)
        return fail(status,
                    "%s takes no such geometry, or no such blocks; nothing was "
                    "formatted",
                    target->address);
    if (status == SLATE_ERR_COMMAND)
        return fail(status, "%s refuses to be formatted so%s", target->address,
                    job->work.measure.finished
                        ? "; it has one track now, and needs a low-level format"
                        : "");
    if (status == SLATE_ERR_UNPROVED)
        return fail(status,
                    "%s says that it is done, but it is not as was wished: "
                    "%llu blocks of %u bytes",
                    target->address,
                    (unsigned long long)target->media.geometry.block_count,
                    target->media.geometry.block_bytes);
    if (!changed)
        return fail_plainly(status, target->address);
    return fail(status, "%s: %s. It needs a low-level format again: %s",
                target->address,
                status == SLATE_ERR_NO_DEVICE ? "it does not answer any more"
                                              : slate_status_sentence(status),
                slate_lowlevel_cut(job->facts.kind));
}

static int fail_stopped(const struct lowlevel *job)
{
    const struct target *target = job->target;
    const struct slate_reformat *own = &job->work;

    if (own->phase == SLATE_REFORMAT_LOOK || own->phase == SLATE_REFORMAT_READ)
        return fail(
            SLATE_ERR_STOPPED, "%s: reading it was stopped%s", target->address,
            own->phase == SLATE_REFORMAT_READ ? "; it is formatted"
                                              : "; nothing was changed");
    if (!slate_reformat_has_changed(own))
        return fail(SLATE_ERR_STOPPED, "%s: stopped; nothing was formatted",
                    target->address);
    if (!own->format.begun)
        return fail_measured(job);
    return fail(
        SLATE_ERR_STOPPED,
        "%s goes on by itself; 'trueslate assess %s%s' tells when it is done",
        target->address, target->name, target->also);
}

/* Where the format is, as cylinder and head, or a share of it. */
static bool show_format(struct progress *progress, const struct lowlevel *job,
                        uint64_t took)
{
    const struct slate_lowlevel *format = &job->work.format;
    const struct slate_drive *drive = &job->work.drive;
    uint32_t share = slate_lowlevel_progress(format);
    char place[60] = "";

    if (format->phase < SLATE_LOWLEVEL_WAITING)
        return !progress_is_interrupted();
    if (!job->work.has_drive)
        return progress_share(progress, share, format->state.told ? 65536 : 0);
    say_place(drive, (uint64_t)drive->cylinders * drive->heads * share >> 16,
              place);
    return progress_place(progress, share, 65536, place, took);
}

static bool show_reading(struct progress *progress, const struct lowlevel *job,
                         enum slate_reformat_phase phase, uint64_t took)
{
    const struct slate_scan *scan = &job->work.scan;
    const struct slate_drive *drive =
        phase == SLATE_REFORMAT_LOOK ? job->work.former : &job->work.drive;
    char place[60];

    say_place(drive, scan->done / (drive->sectors - drive->spares), place);
    return progress_place(progress, scan->done, scan->total, place, took);
}

/* Places alone are read too fast to be shown. */
static bool is_shown(const struct lowlevel *job,
                     enum slate_reformat_phase phase)
{
    return phase != SLATE_REFORMAT_READ || job->work.has_drive;
}

static bool show(struct progress *progress, const struct lowlevel *job,
                 enum slate_reformat_phase phase, uint64_t took)
{
    const struct slate_interleave *measure = &job->work.measure;

    if (!is_shown(job, phase))
        return true;
    if (phase == SLATE_REFORMAT_MEASURE)
        return progress_count(progress, measure->value - 1, measure->most,
                              "values");
    return phase == SLATE_REFORMAT_FORMAT
               ? show_format(progress, job, took)
               : show_reading(progress, job, phase, took);
}

static int fail_work(const struct lowlevel *job, enum slate_status status)
{
    struct target *target = job->target;
    const struct slate_reformat *own = &job->work;

    if (own->phase == SLATE_REFORMAT_FORMAT)
        return fail_format(job, status);
    if (own->phase == SLATE_REFORMAT_MEASURE && status == SLATE_ERR_READ &&
        own->measure.finished)
        return fail(status,
                    "%s: the first track cannot be read with any interleave",
                    target->address);
    if (own->phase == SLATE_REFORMAT_MEASURE)
        return fail_format(job, status);
    if (status == SLATE_ERR_BAD_LIST)
        return fail(status,
                    "%s: more than %u ranges of bad blocks: it is at its end",
                    target->address, DRAFTED_BAD);
    return fail_with_fault(status, &target->media, target->address);
}

/* It has been opened anew. */
static void take_tag(struct lowlevel *job)
{
    struct target *target = job->target;

    target->status = SLATE_OK;
    if (strcmp(target->name, job->tag) == 0)
        snprintf(target->name, sizeof target->name, "%s", target->media.tag);
}

/* All steps of a phase. */
static enum slate_status do_phase(struct lowlevel *job, bool *go_on)
{
    static const char *const doing[] = {"Looking", "Measuring", "Formatting",
                                        "Reading it all"};
    struct slate_reformat *own = &job->work;
    const enum slate_reformat_phase phase = own->phase;
    uint64_t began = slate_media_milliseconds(own->media);
    enum slate_status status = SLATE_OK;
    struct progress progress;

    if (phase == SLATE_REFORMAT_READ)
        take_tag(job);
    if (is_shown(job, phase))
        progress_begin(&progress, doing[phase]);
    while (status == SLATE_OK && *go_on && own->phase == phase) {
        status = slate_reformat_step(own);
        *go_on = show(&progress, job, phase,
                      slate_media_milliseconds(own->media) - began);
        if (status == SLATE_OK && *go_on && phase == SLATE_REFORMAT_FORMAT &&
            own->format.phase == SLATE_LOWLEVEL_WAITING)
            wait_a_little();
    }
    if (is_shown(job, phase))
        progress_end(&progress);
    return status;
}

static struct slate_ranges room_for_bad(void)
{
    struct slate_ranges bad = {calloc(DRAFTED_BAD, sizeof *bad.range),
                               DRAFTED_BAD, 0};

    if (bad.range == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    return bad;
}

static void prepare(struct lowlevel *job)
{
    const struct options *options = job->options;
    struct slate_reformat *own = &job->work;

    own->wish =
        (struct slate_lowlevel_wish){.block_bytes = job->block_bytes,
                                     .first_blocks = job->first_blocks,
                                     .form = SLATE_DEFECT_INDEX,
                                     .defect = job->sticker,
                                     .defects = job->stickers,
                                     .all_units = options->whole_drive,
                                     .forgets_grown = options->forget_grown};
    if (own->has_drive && !options->unlooked && lowlevel_is_readable(job))
        own->former = &job->facts.drive;
    if (job->measured)
        own->interleaves = own->drive.sectors - 1 < INTERLEAVES
                               ? own->drive.sectors - 1
                               : INTERLEAVES;
    own->before.bad = room_for_bad();
    own->after.bad = room_for_bad();
    slate_reformat_start(own, &job->target->media, job->target->work,
                         WORK_BYTES);
}

static int run(struct lowlevel *job)
{
    struct slate_reformat *own = &job->work;
    enum slate_status status = SLATE_OK, end;
    bool go_on = true;

    progress_catch_interrupts();
    prepare(job);
    while (status == SLATE_OK && go_on && own->phase != SLATE_REFORMAT_OVER)
        status = do_phase(job, &go_on);
    job->formatted = own->phase >= SLATE_REFORMAT_READ;
    end = slate_reformat_end(own);
    status = status == SLATE_OK ? end : status;
    if (status != SLATE_OK)
        return fail_work(job, status);
    return own->phase == SLATE_REFORMAT_OVER ? 0 : fail_stopped(job);
}

int lowlevel_do(struct lowlevel *job)
{
    int code = door_enter(job->target);

    return code == 0 ? door_leave(job->target, run(job)) : code;
}

static int reassign_range(struct lowlevel *job, const struct slate_range *range)
{
    struct target *target = job->target;

    for (uint64_t i = 0; i < range->count; i++) {
        enum slate_status status =
            slate_reassign_block(&target->media, range->first + i);

        if (status == SLATE_ERR_COMMAND)
            return fail(status,
                        "%s does not put block %llu elsewhere: it knows no "
                        "such command, or has no spare sector left; %llu "
                        "blocks were put elsewhere before",
                        target->address, (unsigned long long)range->first + i,
                        (unsigned long long)job->reassigned);
        if (status != SLATE_OK)
            return fail_with_fault(status, &target->media, target->address);
        job->reassigned++;
    }
    return 0;
}

int lowlevel_take_blocks(struct lowlevel *job)
{
    uint64_t blocks = job->target->media.geometry.block_count;

    job->blocks = (struct slate_ranges){job->range, LOWLEVEL_RANGES, 0};
    if (!bad_ranges(job->options->drive[DRIVE_REASSIGN], &job->blocks))
        return fail(SLATE_ERR_ARGUMENT,
                    "--reassign: expected at most %u ranges of blocks",
                    LOWLEVEL_RANGES);
    for (uint32_t i = 0; i < job->blocks.count; i++) {
        const struct slate_range *range = &job->range[i];

        if (range->first >= blocks || range->count > blocks - range->first)
            return fail(
                SLATE_ERR_ARGUMENT,
                "--reassign: expected blocks of the device, which has %llu",
                (unsigned long long)blocks);
    }
    return 0;
}

int lowlevel_reassign(struct lowlevel *job)
{
    struct target *target = job->target;
    int code = door_enter(target);

    TRY(code);
    for (uint32_t i = 0; i < job->blocks.count && code == 0; i++)
        code = reassign_range(job, &job->range[i]);
    return door_leave(target, code);
}

int lowlevel_judge(const struct lowlevel *job)
{
    if (!job->work.after.done ||
        slate_drive_judge(&job->work.seen) != SLATE_DRIVE_DYING)
        return 0;
    return fail(SLATE_ERR_UNPROVED,
                "%s: %llu of %llu bad sectors are new and came back: it is on "
                "its way out",
                job->target->address, (unsigned long long)job->work.seen.back,
                (unsigned long long)job->work.seen.bad);
}

void lowlevel_end(struct lowlevel *job)
{
    free(job->sticker);
    free(job->work.before.bad.range);
    free(job->work.after.bad.range);
}
