/* SPDX-License-Identifier: MIT */
/* enact and prove: a draft from a file meets its device. */

#include "draft/draft.h"
#include "device/device.h"
#include "report/report.h"
#include "work/work.h"
#include "verbs/verbs.h"
#include "look/look.h"
#include "view/view.h"

/* A draft from its file, and its device. */
static int load_and_open(const struct options *options,
                         struct slate_draft *draft, struct target *target)
{
    char address[ADDRESS_ROOM];
    int code = draft_file_load(options->operand, draft, address);

    if (code == 0 && options->files != NULL && draft->files.count == 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "--files %s: that draft places no files",
                    plain_word(options->files));
    if (code == 0 && options->files != NULL)
        folder_at(draft, options->files);
    THEN(code, open_device_of(draft, address, options->bench, target));
    /* without a serial number, elsewhere, it may be another one of its kind */
    target->by_address = code == 0 && !target->is_file &&
                         target->media.identity.serial[0] == '\0' &&
                         strcmp(address, target->address) != 0;
    return code;
}

static const char *what_will_be(const struct slate_draft *draft)
{
    return slate_draft_is_change(draft)
               ? "What the draft names will be changed in place."
           : draft->switched
               ? "What goes will be lost; what stays is not touched."
               : "Everything on this device will be lost.";
}

/* A draft that its device refuses is refused whoever agrees. */
static int check(void *context, bool changed)
{
    struct undertaking *work = context;

    (void)changed; /* the draft's own evidence decides */
    return enact_check(work->target, work->draft, &work->enact);
}

static int look_and_show(struct undertaking *work)
{
    int code = check(work, false);

    THEN(code, target_look(work->target));
    if (code == 0 && !work->enact.resumed)
        code = ledger_make(work->target, work->options, work->draft);
    work->target->tries =
        code == 0 && !work->enact.resumed &&
        trying_is_due(work->target, work->options, work->draft);
    if (code == 0 && !work->options->json) {
        view_device(work->target);
        putchar('\n');
        view_draft(work->target, work->draft);
        journals_announce(work->options, work->draft);
    }
    return code;
}

static int pass_the_door(struct undertaking *work)
{
    int code;

    work->passage =
        (struct passage){.options = work->options,
                         .target = work->target,
                         .loss = what_will_be(work->draft),
                         .shown = true,
                         .ends = work->enact.resumed ||
                                 unfinished_is(work->target, work->draft->seal),
                         .ready = check,
                         .context = work};
    code = door_agree(&work->passage);
    if (code == 0 && !work->options->json)
        putchar('\n');
    return code == 0 ? door_pass(&work->passage) : code;
}

/* What was tried is put back; what an earlier probe had left, and is put back
 * now, makes another device of it than the draft was made from. */
static int try_size(struct undertaking *work)
{
    bool changed = false;
    int code = trying_do(work->options, work->target, &changed);

    return code == 0 && changed ? check(work, true) : code;
}

/* The rounds are done; a volume that comes over what failed is not made. */
static int fail_around(const struct target *target,
                       const struct slate_draft *draft,
                       const struct options *options)
{
    (void)overwriting_end(options, target, draft);
    return fail(SLATE_ERR_BAD_BLOCK,
                "%s: it is overwritten, and no volume was made over the blocks "
                "that failed: draft one anew with --bad-list, and --afresh",
                target->address);
}

static void tell(const struct undertaking *work)
{
    struct slate_draft *draft = work->draft;

    tell_enacted(draft, &work->enact);
    regions_tell(work->target, TARGET_WRITTEN);
    overwriting_tell(&draft->goal.overwrite, draft, &work->enact, NULL);
    printf("\nTo prove it:\n  trueslate prove %s%s\n",
           plain_word(work->options->operand), work->target->also);
    journals_tell(work->journal, work->target);
}

int verb_enact(const struct options *options)
{
    struct target target = {0};
    struct undertaking work = {
        .options = options, .target = &target, .draft = drafted_new()};
    int code = load_and_open(options, work.draft, &target);

    THEN(code, check_release(&target));
    THEN(code, bad_may_write(options, &target));
    THEN(code, look_and_show(&work));
    THEN(code, pass_the_door(&work));
    if (code == 0 && target.tries)
        code = try_size(&work);
    THEN(code,
         carry_out(&target, work.draft, options, &work.enact, work.journal));
    if (code != 0 && work.enact.pass.status == SLATE_ERR_BAD_BLOCK)
        code = fail_around(&target, work.draft, options);
    if (code == 0 && options->json)
        code =
            report_print(report_enact(work.draft, &work.enact, work.journal));
    else if (code == 0)
        tell(&work);
    THEN(code, overwriting_end(options, &target, work.draft));
    target_close(&target);
    drafted_free(work.draft);
    return code;
}

int verb_prove(const struct options *options)
{
    struct slate_draft *draft = drafted_new();
    struct target target = {0};
    struct slate_prove prove = {0};
    int code = load_and_open(options, draft, &target);

    if (code == 0) {
        code = read_back(&target, draft, &prove);
        if (options->json && prove.pass.finished)
            (void)report_print(report_prove(draft, &prove));
        else if (code == 0)
            tell_proved(draft, &prove);
        THEN(code, overwriting_end(options, &target, draft));
    }
    target_close(&target);
    drafted_free(draft);
    return code;
}
