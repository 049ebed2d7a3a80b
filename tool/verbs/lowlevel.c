/* SPDX-License-Identifier: MIT */
/* lowlevel: sectors for a drive with tracks, another size of blocks for newer
 * ones. */
#include "work/work.h"

#include "draft/draft.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"
#include "term/term.h"
#include "view/view.h"
#include "device/device.h"
#include "look/look.h"

/* Blocks that nobody can use are what it is for. */
static int open_it(struct target *target, const struct options *options)
{
    enum slate_status status =
        target_try(target, options->operand, options->bench, 0);

    if (status == SLATE_OK)
        return target_look(target);
    if (status == SLATE_ERR_GEOMETRY && target_take(target, SLATE_DEPTH_FULL))
        return 0;
    return fail(status, "%s", target->why);
}

static int check_files(const struct lowlevel *job)
{
    int code = ticket_may_write(job->options, job->target);

    return code == 0 ? bad_may_write(job->options, job->target) : code;
}

static int finish(const struct lowlevel *job)
{
    const struct options *options = job->options;
    int code = 0;

    if (options->json)
        code = report_print(lowlevel_report(job));
    else
        lowlevel_tell(job);
    if (code == 0 && options->failed_list != NULL && job->work.after.done)
        code =
            bad_write(options->failed_list, job->target, &job->work.after.bad);
    return code == 0 ? lowlevel_judge(job) : code;
}

static int write_ticket(const struct lowlevel *job, time_t began, int code)
{
    struct ticket_job ticket = {.verb = job->options->verb->name,
                                .target = job->target,
                                .began = began,
                                .code = code,
                                .outcome =
                                    "The low-level format was carried out."};

    if (job->options->evidence == NULL)
        return code;
    if (code != 0)
        ticket.outcome = say_last();
    else if (job->work.after.done)
        ticket.outcome =
            slate_drive_verdict_words(slate_drive_judge(&job->work.seen));
    ticket.report = lowlevel_report(job);
    return ticket_write_one(job->options, &ticket);
}

static int carry_it_out(struct lowlevel *job)
{
    time_t began;
    int code = lowlevel_plan(job);

    TRY(code);
    if (!job->options->json)
        lowlevel_tell_plan(job);
    code = check_files(job);
    THEN(code, door_through(job->target, job->options,
                            "Everything on this device will be lost.", true));
    TRY(code);
    began = ticket_now();
    code = lowlevel_do(job);
    THEN(code, finish(job));
    code = write_ticket(job, began, code);
    return then_do(job->target, job->options, code);
}

/* No format: only these blocks lose what they held. */
static int reassign(struct lowlevel *job)
{
    int code;

    for (int i = 0; i < DRIVE_WORDS; i++) {
        if (i != DRIVE_REASSIGN && job->options->drive[i] != NULL)
            return fail(SLATE_ERR_ARGUMENT,
                        "--reassign: expected without --%s: it formats nothing",
                        drive_word_name((enum drive_word)i));
    }
    TRY(lowlevel_take_blocks(job));
    if (!job->options->json)
        print_line("LOST", PAINT_BAD, "what these blocks hold, if anything");
    code = door_through(job->target, job->options,
                        "What these blocks hold will be lost.", true);
    THEN(code, lowlevel_reassign(job));
    TRY(code);
    if (job->options->json)
        return report_print(lowlevel_report(job));
    print_line("Done", PAINT_GOOD, "%llu block%s put elsewhere",
               (unsigned long long)job->reassigned,
               job->reassigned == 1 ? " was" : "s were");
    return 0;
}

static int tell(const struct lowlevel *job)
{
    if (job->options->json)
        return report_print(lowlevel_report(job));
    lowlevel_tell_facts(job);
    return 0;
}

int verb_lowlevel(const struct options *options)
{
    static struct target target;
    static struct lowlevel job;
    int code = open_it(&target, options);

    job.options = options;
    job.target = &target;
    THEN(code, lowlevel_find(&job));
    if (code == 0 && !options->json)
        view_device(&target);
    if (code == 0 && options->drive[DRIVE_REASSIGN] != NULL)
        code = reassign(&job);
    else if (code == 0)
        code = drive_is_asked(options) ? carry_it_out(&job) : tell(&job);
    lowlevel_end(&job);
    target_close(&target);
    return code;
}
