/* SPDX-License-Identifier: MIT */
/* A low-level format: planned from the options, and carried out. */
#include "work/lowlevel.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "draft/bad.h"
#include "draft/drafted.h"
#include "work/drive_words.h"
#include "draft/lifts.h"
#include "base/option_words.h"
#include "base/say.h"
#include "term/progress.h"
#include "work/lifting.h"

/* Between two questions, ms. */
#define WAIT_MS 50
#define INTERLEAVES 10u
#define PLACES 64u

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

static int refuse_kind(const struct lowlevel *job)
{
    const struct target *target = job->target;

    if (target->media.identity.transport == SLATE_TRANSPORT_SD)
        return fail(SLATE_ERR_COMMAND,
                    "%s: nothing below the blocks of a card can be reached; it "
                    "can erase itself: trueslate erase %s%s",
                    target->address, target->name, target->also);
    return fail(
        SLATE_ERR_COMMAND,
        "%s: nothing below its blocks can be reached; a dock keeps such "
        "commands from a disk, which then has to be attached directly",
        target->address);
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
    int code =
        drive_take(job->options, &facts->drive, &job->drive, &job->measured);

    job->has_drive = code == 0;
    if (code == 0)
        code = drive_take_split(job->options, &job->drive, &job->first_blocks);
    return code == 0 ? drive_take_sticker(job->options, &job->drive,
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

/* A cylinder at a time, so that progress is seen, and can be told as one. */
static uint32_t bytes_of_cylinder(const struct slate_drive *drive)
{
    uint64_t bytes =
        (uint64_t)drive->heads * drive->sectors * drive->block_bytes;

    if (bytes < SLATE_WORK_MIN)
        return SLATE_WORK_MIN;
    return bytes < WORK_BYTES ? (uint32_t)bytes : WORK_BYTES;
}

static void say_place(const struct slate_drive *drive, uint64_t track,
                      char words[60])
{
    snprintf(words, 60, "cylinder %llu of %u, head %llu",
             (unsigned long long)(track / drive->heads), drive->cylinders,
             (unsigned long long)(track % drive->heads));
}

static int read_steps(struct lowlevel *job, struct slate_scan *scan,
                      const struct slate_drive *drive, const char *doing)
{
    struct slate_media *media = &job->target->media;
    uint64_t began = slate_media_milliseconds(media);
    enum slate_status status = SLATE_OK, end;
    struct progress progress;
    bool go_on = true;

    progress_begin(&progress, doing);
    while (status == SLATE_OK && go_on && scan->phase != SLATE_SCAN_DONE) {
        char place[60];

        say_place(drive, scan->done / (drive->sectors - drive->spares), place);
        status = slate_scan_step(scan);
        go_on = progress_place(&progress, scan->done, scan->total, place,
                               slate_media_milliseconds(media) - began);
    }
    progress_end(&progress);
    end = slate_scan_end(scan);
    status = status == SLATE_OK ? end : status;
    if (status == SLATE_ERR_BAD_LIST)
        return fail(status,
                    "%s: more than %u ranges of bad blocks: it is at its end",
                    job->target->address, DRAFTED_BAD);
    if (status != SLATE_OK)
        return fail_with_fault(status, media, job->target->address);
    return go_on ? 0
                 : fail(SLATE_ERR_STOPPED, "%s: reading it was stopped%s",
                        job->target->address,
                        job->formatted ? "; it is formatted"
                                       : "; nothing was changed");
}

static int read_all(struct lowlevel *job, const struct slate_drive *drive,
                    struct lowlevel_read *read, const char *doing)
{
    const struct slate_range all = {0, UINT64_MAX};
    struct target *target = job->target;
    struct slate_scan scan;
    enum slate_status status;
    int code;

    read->bad.range = calloc(DRAFTED_BAD, sizeof *read->bad.range);
    read->bad.room = DRAFTED_BAD;
    if (read->bad.range == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    status = slate_scan_start(&scan, &target->media, &all, &read->bad,
                              target->work, bytes_of_cylinder(drive));
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    code = read_steps(job, &scan, drive, doing);
    read->bad = scan.bad;
    read->weak = scan.weak;
    read->done = code == 0;
    return code;
}

static void wait_a_little(void)
{
    const struct timespec pause = {0, WAIT_MS * 1000000L};

    nanosleep(&pause, NULL);
}

/* Measuring formats a track; a second value is tried on what the first has
 * left.
 */
static bool has_changed(const struct lowlevel *job,
                        const struct slate_lowlevel *format)
{
    return format->begun || job->measure.finished || job->measure.value > 1;
}

static int fail_measured(const struct lowlevel *job)
{
    return fail(SLATE_ERR_STOPPED,
                "%s: stopped; it has one track now, and needs a low-level "
                "format again",
                job->target->address);
}

static int fail_step(const struct lowlevel *job,
                     const struct slate_lowlevel *format,
                     enum slate_status status)
{
    const struct target *target = job->target;

    if (status == SLATE_ERR_COMMAND && !has_changed(job, format))
        return fail(status,
                    "%s takes no such geometry, or no such blocks; nothing was "
                    "formatted",
                    target->address);
    if (status == SLATE_ERR_COMMAND)
        return fail(status, "%s refuses to be formatted so%s", target->address,
                    job->measure.finished
                        ? "; it has one track now, and needs a low-level format"
                        : "");
    if (status == SLATE_ERR_UNPROVED)
        return fail(status,
                    "%s says that it is done, but it is not as was wished: "
                    "%llu blocks of %u bytes",
                    target->address,
                    (unsigned long long)target->media.geometry.block_count,
                    target->media.geometry.block_bytes);
    if (!has_changed(job, format))
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

    if (!has_changed(job, &job->format))
        return fail(SLATE_ERR_STOPPED, "%s: stopped; nothing was formatted",
                    target->address);
    if (!job->format.begun)
        return fail_measured(job);
    return fail(SLATE_ERR_STOPPED,
                "%s goes on by itself; 'trueslate assess %s%s' tells when it "
                "is done",
                target->address, target->name, target->also);
}

/* Where the format is, as cylinder and head, or a share of it. */
static bool show(struct progress *progress, const struct lowlevel *job,
                 uint64_t began)
{
    const struct slate_lowlevel *format = &job->format;
    uint64_t now = slate_media_milliseconds(format->media);
    uint32_t share = slate_lowlevel_progress(format);
    char place[60] = "";

    if (format->phase < SLATE_LOWLEVEL_WAITING)
        return !progress_is_interrupted();
    if (job->has_drive)
        say_place(&job->drive,
                  (uint64_t)job->drive.cylinders * job->drive.heads * share >>
                      16,
                  place);
    return job->has_drive
               ? progress_place(progress, share, 65536, place, now - began)
               : progress_share(progress, share,
                                format->state.told ? 65536 : 0);
}

static int format(struct lowlevel *job)
{
    struct slate_lowlevel *own = &job->format;
    struct target *target = job->target;
    const struct slate_lowlevel_wish wish = {
        .drive = job->has_drive ? &job->drive : NULL,
        .block_bytes = job->block_bytes,
        .first_blocks = job->first_blocks,
        .form = SLATE_DEFECT_INDEX,
        .defect = job->sticker,
        .defects = job->stickers,
        .all_units = job->options->whole_drive,
        .forgets_grown = job->options->forget_grown};
    uint64_t began = slate_media_milliseconds(&target->media);
    struct progress progress;
    bool go_on = true;
    enum slate_status status = slate_lowlevel_start(own, &target->media, &wish,
                                                    target->work, WORK_BYTES);

    progress_begin(&progress, "Formatting");
    while (status == SLATE_OK && go_on && own->phase != SLATE_LOWLEVEL_OVER) {
        status = slate_lowlevel_step(own);
        go_on = show(&progress, job, began);
        if (status == SLATE_OK && go_on && own->phase == SLATE_LOWLEVEL_WAITING)
            wait_a_little();
    }
    progress_end(&progress);
    if (status != SLATE_OK)
        return fail_step(job, own, status);
    if (own->phase != SLATE_LOWLEVEL_OVER)
        return fail_stopped(job);
    job->formatted = true;
    return 0;
}

static int measure(struct lowlevel *job)
{
    struct slate_interleave *own = &job->measure;
    struct target *target = job->target;
    uint32_t most = job->drive.sectors - 1 < INTERLEAVES
                        ? job->drive.sectors - 1
                        : INTERLEAVES;
    enum slate_status status = slate_interleave_start(
        own, &target->media, &job->drive, most, target->work, WORK_BYTES);
    struct progress progress;
    bool go_on = true;

    progress_begin(&progress, "Measuring");
    while (status == SLATE_OK && go_on && !own->finished) {
        status = slate_interleave_step(own);
        go_on = progress_count(&progress, own->value - 1, own->most, "values");
    }
    progress_end(&progress);
    if (status != SLATE_OK)
        return fail_step(job, &own->format, status);
    job->drive.interleave = slate_interleave_best(own);
    if (go_on && job->drive.interleave == 0)
        return fail(SLATE_ERR_READ,
                    "%s: the first track cannot be read with any interleave",
                    target->address);
    if (go_on)
        return 0;
    return has_changed(job, &own->format)
               ? fail_measured(job)
               : fail(SLATE_ERR_STOPPED, "%s: stopped; nothing was formatted",
                      target->address);
}

/* Without tracks: some places, from the first to the last one. */
static int read_some(struct lowlevel *job)
{
    struct slate_media *media = &job->target->media;
    uint64_t last = media->geometry.block_count - 1;

    for (uint32_t i = 0; i < PLACES; i++) {
        enum slate_status status = slate_media_read(
            media,
            last / (PLACES - 1) * i + last % (PLACES - 1) * i / (PLACES - 1), 1,
            job->target->work);

        if (status != SLATE_OK)
            return fail_with_fault(status, media, job->target->address);
    }
    return 0;
}

static int check(struct lowlevel *job)
{
    struct target *target = job->target;
    int code;

    target->status = SLATE_OK; /* it has been opened anew */
    if (strcmp(target->name, job->tag) == 0)
        snprintf(target->name, sizeof target->name, "%s", target->media.tag);
    if (!job->has_drive)
        return read_some(job);
    code = read_all(job, &job->drive, &job->after, "Reading it all");
    if (code == 0)
        slate_defects_judge(
            &job->drive, job->sticker, job->stickers, &job->after.bad,
            job->before.done ? &job->before.bad : NULL, &job->seen);
    return code;
}

static int run(struct lowlevel *job)
{
    int code = 0;

    progress_catch_interrupts();
    if (job->has_drive && !job->options->unlooked && lowlevel_is_readable(job))
        code = read_all(job, &job->facts.drive, &job->before, "Looking");
    if (code == 0 && job->measured)
        code = measure(job);
    if (code == 0)
        code = format(job);
    return code == 0 ? check(job) : code;
}

int lowlevel_do(struct lowlevel *job)
{
    int code = lifts_claim(job->target);
    enum slate_status released;

    if (code != 0)
        return code;
    code = run(job);
    released = slate_media_release(&job->target->media);
    return code == 0 && released != SLATE_OK
               ? fail_plainly(released, job->target->address)
               : code;
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
            return fail(SLATE_ERR_ARGUMENT,
                        "--reassign: expected blocks of the device, which has "
                        "%llu",
                        (unsigned long long)blocks);
    }
    return 0;
}

int lowlevel_reassign(struct lowlevel *job)
{
    struct target *target = job->target;
    enum slate_status released;
    int code = lifts_claim(target);

    if (code != 0)
        return code;
    for (uint32_t i = 0; i < job->blocks.count && code == 0; i++)
        code = reassign_range(job, &job->range[i]);
    released = slate_media_release(&target->media);
    return code == 0 && released != SLATE_OK
               ? fail_plainly(released, target->address)
               : code;
}

int lowlevel_judge(const struct lowlevel *job)
{
    if (!job->after.done || slate_drive_judge(&job->seen) != SLATE_DRIVE_DYING)
        return 0;
    return fail(SLATE_ERR_UNPROVED,
                "%s: %llu of %llu bad sectors are new and came back: it is on "
                "its way out",
                job->target->address, (unsigned long long)job->seen.back,
                (unsigned long long)job->seen.bad);
}

void lowlevel_end(struct lowlevel *job)
{
    free(job->sticker);
    free(job->before.bad.range);
    free(job->after.bad.range);
}
