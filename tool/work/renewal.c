/* SPDX-License-Identifier: MIT */
/* The renewal of one device. */
#include "work/work.h"

#include "draft/draft.h"
#include "device/device.h"
#include "ticket/ticket.h"
#include "term/term.h"
#include "view/view.h"
#include "report/report.h"
#include "look/look.h"

static void view_before(struct renewal *renewal)
{
    struct target *target = &renewal->target;

    json_decref(renewal->before);
    renewal->before = report_findings(target);
    if (renewal->options->json)
        return;
    view_device(target);
    if (!renewal->brief)
        view_findings(target);
    putchar('\n');
}

static bool is_quiet(const struct renewal *renewal)
{
    return renewal->options->json || renewal->brief;
}

/* The draft, with the same choices, for what is there by now. */
static int base_anew(struct renewal *renewal)
{
    struct target *target = &renewal->target;
    enum slate_status status =
        slate_draft_base(renewal->work.draft, &target->facts);

    if (status == SLATE_OK)
        status = slate_draft_keep(renewal->work.draft, &target->facts,
                                  &target->media, target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(renewal->work.draft);
    return status == SLATE_OK ? 0 : fail_plainly(status, target->address);
}

/* What was shown is what is there still, but a host that lets go of a volume
 * still writes to it: then the draft is made anew. It is kept before anything
 * is unmounted, so that a full disk is told before. */
static int make_ready(void *context, bool changed)
{
    struct renewal *renewal = context;
    int code = 0;

    if (renewal->work.resumed)
        return 0;
    undertaking_drop(&renewal->work);
    if (changed)
        code = base_anew(renewal);
    return code == 0 ? undertaking_keep(&renewal->work) : code;
}

/* With what is concealed lifted, the device is looked at anew: it has another
 * capacity, and another tag then. */
static int reveal(struct renewal *renewal)
{
    struct passage *passage = &renewal->work.passage;
    int code;

    passage->loss = "What is concealed will be lifted, and then everything on "
                    "this device will be lost.";
    passage->ready = NULL; /* there is no draft yet */
    code = door_agree(passage);
    THEN(code, door_pass(passage));
    passage->ready = make_ready;
    THEN(code, lifts_reveal(&renewal->target, renewal->options));
    if (code == 0 && !renewal->options->json)
        putchar('\n');
    if (code == 0)
        view_before(renewal);
    return code;
}

static int show_going_on(struct renewal *renewal)
{
    renewal->work.resumed = true;
    renewal->work.passage.ends = true;
    if (!renewal->options->json) {
        view_draft(&renewal->target, renewal->work.draft);
        print_line("Goes on", PAINT_GOOD,
                   "this draft is unfinished on the device; what is in place "
                   "already is left alone");
    }
    return 0;
}

/* An unfinished renewal is gone on with, by its own draft, or left alone. */
static int go_on(struct renewal *renewal)
{
    struct target *target = &renewal->target;
    int code = unfinished_load(target, renewal->options, renewal->work.draft,
                               renewal->work.file, sizeof renewal->work.file);

    return code == 0 ? show_going_on(renewal) : code;
}

/* The same of overwriting beside partitions; -1: there is none. */
static int go_on_beside(struct renewal *renewal)
{
    if (renewal->options->afresh || renewal->options->output != NULL ||
        !unfinished_beside(&renewal->target, renewal->options,
                           renewal->work.draft, renewal->work.file,
                           sizeof renewal->work.file))
        return -1;
    return show_going_on(renewal);
}

static const char *what_will_be(const struct renewal *renewal)
{
    const struct slate_draft *draft = renewal->work.draft;

    if (renewal->work.resumed)
        return "The unfinished renewal will go on.";
    if (draft->table_stays)
        return overwriting_emptied(draft) != 0
                   ? "What is in this partition will be lost; nothing else is "
                     "touched."
                   : "What no partition holds will be lost; no partition is "
                     "touched.";
    return draft->switched
               ? "What goes will be lost; what stays is not touched."
               : "Everything on this device will be lost.";
}

/* Consent that cannot be had is told ahead of hours of reading. */
static int scan_by_reading(struct renewal *renewal)
{
    int code;

    renewal->work.passage.loss = what_will_be(renewal);
    code = door_check(&renewal->work.passage);

    return code == 0 ? scan_take(renewal->options, &renewal->target,
                                 renewal->work.draft, false, &renewal->scanned)
                     : code;
}

/* A device that erases itself keeps nothing. */
static int choose_way(struct renewal *renewal)
{
    int code = 0;

    if (renewal->options->keep != NULL || renewal->options->empty != 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "--way erases all of the device: nothing can be kept with "
                    "--keep or --empty");
    code = erasing_find(&renewal->erasing, &renewal->target);
    return code == 0 ? erasing_choose(&renewal->erasing, renewal->options,
                                      &renewal->target)
                     : code;
}

/* What is unfinished goes on, and is not erased by the way. */
static int refuse_way(const struct target *target)
{
    return fail(SLATE_ERR_ARGUMENT,
                "%s: its renewal is unfinished, and --way would erase it; to "
                "begin anew with that, add --afresh",
                target->address);
}

/* Whatever it costs is told ahead of consent, in short where it is one of
 * several. */
static void show_draft(struct renewal *renewal)
{
    const struct slate_draft *draft = renewal->work.draft;

    if (renewal->brief)
        view_draft_brief(&renewal->target, draft);
    else
        view_draft(&renewal->target, draft);
    pace_tell(&renewal->target, draft);
    scan_tell(&renewal->scanned, draft);
    if (renewal->options->way != NULL && !renewal->work.resumed)
        erasing_tell_chosen(&renewal->erasing);
    journals_announce(renewal->options, draft);
    if (renewal->brief)
        putchar('\n');
}

int renewal_prepare(struct renewal *renewal)
{
    const struct options *options = renewal->options;
    struct target *target = &renewal->target;
    int code = scan_check(options);

    renewal->opened = code == 0;
    THEN(code, target_open(target, renewal->device, options->bench,
                           options->block_bytes));
    THEN(code, check_release(target));
    THEN(code, target_look(target));
    if (code == 0)
        count_free(target);
    if (code == 0)
        view_before(renewal);
    if (code == 0 && options->output != NULL && !target->facts.marked)
        code = draft_file_may_write(options->output, target, options->replace);
    THEN(code, bad_may_write(options, target));
    THEN(code, ticket_may_write(options, target));
    if (code == 0 && target->facts.marked && !options->afresh)
        return options->way == NULL ? go_on(renewal) : refuse_way(target);
    if (code == 0 && go_on_beside(renewal) == 0)
        return 0;
    if (code == 0 && lifts_has_concealed(target, options))
        code = reveal(renewal);
    THEN(code, make_draft(target, options, NULL, renewal->work.draft));
    if (code == 0 && options->way != NULL)
        code = choose_way(renewal);
    if (code == 0 && options->scan && !renewal->brief)
        code = scan_by_reading(renewal);
    if (code == 0 && !options->json)
        show_draft(renewal);
    if (code == 0 && options->scan_writes)
        code = scan_announce(renewal->work.draft, options->json);
    if (code == 0)
        renewal->lost = report_lost(target, renewal->work.draft);
    if (code == 0 && options->evidence != NULL)
        renewal->picture = picture_text_of_draft(target, renewal->work.draft);
    return code;
}

/* Writing and reading all of the device: what was shown of it holds no more,
 * and the draft gets to know of what is bad. */
static int scan_by_writing(struct renewal *renewal)
{
    int code = scan_take(renewal->options, &renewal->target,
                         renewal->work.draft, true, &renewal->scanned);

    if (code == 0)
        undertaking_drop(&renewal->work);
    THEN(code, target_look(&renewal->target));
    THEN(code, base_anew(renewal));
    if (code == 0 && !is_quiet(renewal))
        scan_tell(&renewal->scanned, renewal->work.draft);
    return code == 0 ? undertaking_keep(&renewal->work) : code;
}

/* The device erases itself ahead of all else: then it is another one. */
static int erase_first(struct renewal *renewal)
{
    struct target *target = &renewal->target;
    int code =
        erasing_do(&renewal->erasing, target, renewal->options->read_all);

    THEN(code, erasing_judge(&renewal->erasing, target));
    undertaking_drop(&renewal->work);
    THEN(code, target_look(target));
    THEN(code, base_anew(renewal));
    return code == 0 ? undertaking_keep(&renewal->work) : code;
}

/* The rounds are over, and what failed in them is known: the volume comes
 * around it. */
static int draft_around(struct renewal *renewal)
{
    struct slate_draft *draft = renewal->work.draft;
    const struct slate_ranges *failed = drafted_failed(draft);
    enum slate_status status = SLATE_OK;
    int code = read_back_round(&renewal->target, draft, &renewal->over_prove);

    TRY(code);
    memset(&draft->goal.overwrite, 0, sizeof draft->goal.overwrite);
    for (uint32_t i = 0; i < failed->count && status == SLATE_OK; i++)
        status = slate_draft_bad(draft, failed->range[i].first,
                                 failed->range[i].count);
    if (status != SLATE_OK)
        return fail_plainly(SLATE_ERR_BAD_LIST, renewal->target.address);
    undertaking_drop(&renewal->work);
    code = target_look(&renewal->target);
    THEN(code, base_anew(renewal));
    THEN(code, undertaking_keep(&renewal->work));
    return code == 0 ? undertaking_do(&renewal->work) : code;
}

static int try_size(struct renewal *renewal)
{
    bool changed = false;
    int code = trying_do(renewal->options, &renewal->target, &changed);

    return code == 0 && changed ? make_ready(renewal, true) : code;
}

int renewal_run(struct renewal *renewal)
{
    int code = 0;

    renewal->begun = true;
    renewal->began = ticket_now();
    if (renewal->brief && renewal->options->scan && !renewal->work.resumed)
        code = scan_take(renewal->options, &renewal->target,
                         renewal->work.draft, false, &renewal->scanned);
    THEN(code, door_pass(&renewal->work.passage));
    if (code == 0 && renewal->target.tries && !renewal->work.resumed)
        code = try_size(renewal);
    if (code == 0 && renewal->options->way != NULL && !renewal->work.resumed)
        code = erase_first(renewal);
    if (code == 0 && renewal->options->scan_writes && !renewal->work.resumed)
        code = scan_by_writing(renewal);
    THEN(code, undertaking_do(&renewal->work));
    renewal->how = renewal->work.draft->goal.overwrite;
    renewal->over = renewal->work.enact;
    renewal->over_prove = renewal->work.prove;
    if (renewal->work.around)
        code = draft_around(renewal);
    renewal->enacted = code == 0;
    return undertaking_end(&renewal->work, code);
}

int renewal_ask(struct renewal *renewal)
{
    renewal->work.passage.loss = what_will_be(renewal);
    return door_agree(&renewal->work.passage);
}

void renewal_begin(struct renewal *renewal, const struct options *options,
                   const char *device)
{
    memset(renewal, 0, sizeof *renewal);
    renewal->options = options;
    renewal->device = device;
    renewal->work.options = options;
    renewal->work.target = &renewal->target;
    renewal->work.draft = drafted_new();
    renewal->work.passage = (struct passage){.options = options,
                                             .target = &renewal->target,
                                             .shown = true,
                                             .ready = make_ready,
                                             .context = renewal};
}

void renewal_end(struct renewal *renewal)
{
    json_decref(renewal->before);
    json_decref(renewal->lost);
    free(renewal->picture);
    if (renewal->opened)
        target_close(&renewal->target);
    drafted_free(renewal->work.draft);
}
