/* SPDX-License-Identifier: MIT */
/* mend and convert: tables and first blocks made right in place, and another
 * table over the same partitions. */

#include "draft/draft.h"
#include "report/report.h"
#include "work/work.h"
#include "verbs/verbs.h"
#include "view/view.h"
#include "look/look.h"

/* What is mended where nobody says what. */
static const char *list_of(const struct options *options)
{
    return options->mend == NULL ? "all" : options->mend;
}

static int make(struct undertaking *work)
{
    const struct options *options = work->options;

    return options->put_back != NULL
               ? searching_draft(work->target, options, work->draft)
               : mending_draft(work->target, options, list_of(options),
                               work->draft);
}

/* Is it a draft of what is asked for? */
static bool is_asked(const struct slate_draft *draft,
                     const struct options *options)
{
    const struct slate_change *change = &draft->change;
    bool converts =
        change->mends > 0 && (change->mend[0].kind == SLATE_MEND_TO_GPT ||
                              change->mend[0].kind == SLATE_MEND_TO_MBR);

    if (change->renamed.wanted || change->clears > 0)
        return false;
    if (options->put_back != NULL || !options->goal.table_given)
        return (change->mends > 0) == (options->put_back == NULL) && !converts;
    return converts &&
           strcmp(slate_mend_name(change->mend[0].kind), options->mend) == 0;
}

static int open_and_look(struct undertaking *work)
{
    int code = target_named(work->target, work->options);

    work->target->from = work->options->from;
    if (work->options->output == NULL)
        THEN(code, check_release(work->target));
    return code == 0 ? target_look(work->target) : code;
}

static int look_and_draft(struct undertaking *work)
{
    const struct options *options = work->options;
    struct target *target = work->target;
    int code = 0;

    if (target->is_file && target->facts.read_only)
        code = fail_plainly(SLATE_ERR_PROTECTED, target->address);
    if (code == 0 && options->put_back == NULL && options->goal.table_given &&
        target->facts.layout.kind == options->goal.table)
        code = fail(SLATE_ERR_ALREADY, "%s: has the table of that kind already",
                    target->address);
    if (code == 0 && options->output != NULL)
        code = draft_file_may_write(options->output, target, options->replace);
    THEN(code, make(work));
    if (code == 0 && !options->json) {
        view_device(target);
        putchar('\n');
        if (options->put_back != NULL)
            searching_tell(target);
        view_draft(target, work->draft);
        journals_announce(options, work->draft);
    }
    return code;
}

/* What is seen now; that hosts may have looked at it before is theirs. */
static void tell_after(const struct target *target)
{
    putchar('\n');
    view_content(&target->facts);
    view_findings(target);
}

static int report_result(const struct undertaking *work)
{
    const struct target *target = work->target;

    return report_print(report_pack(
        "{s:s, s:s, s:o, s:o, s:o, s:o, s:o}", "shape", "trueslate.mend/1",
        "tag", target->facts.tag, "device", report_device(target), "mended",
        mending_report(work->draft), "enact",
        report_enact(work->draft, &work->enact, work->journal), "prove",
        report_prove(work->draft, &work->prove), "findings_after",
        report_findings(target)));
}

static int mend(const struct options *options)
{
    struct target target = {0};
    struct undertaking work = {
        .options = options, .target = &target, .draft = drafted_new()};
    int code = open_and_look(&work);

    if (code == 0 && !in_place_found(&work, is_asked, &code)) {
        code = look_and_draft(&work);
        THEN(code, in_place_do(&work,
                               "The table, or first blocks of volumes, will be "
                               "changed in place.",
                               make));
    }
    if (code == 0 && options->json) {
        code = report_result(&work);
    } else if (code == 0) {
        in_place_tell(&work);
        tell_after(&target);
    }
    target_close(&target);
    drafted_free(work.draft);
    return code;
}

int verb_mend(const struct options *options)
{
    if (options->put_back != NULL && options->mend != NULL)
        return fail(SLATE_ERR_ARGUMENT,
                    "mend: expected --only or --put-back, not both");
    if (options->put_back == NULL && options->goal.table_given)
        return fail(
            SLATE_ERR_ARGUMENT,
            "mend: expected --table beside --put-back alone; 'trueslate "
            "convert' makes another table of one that is there");
    return mend(options);
}

int verb_convert(const struct options *options)
{
    struct options wanted = *options;

    if (!options->goal.table_given || options->goal.table == SLATE_TABLE_NONE)
        return fail(SLATE_ERR_ARGUMENT,
                    "convert: expected --table gpt or --table mbr");
    if (options->loose && !options->divided)
        return fail(SLATE_ERR_ARGUMENT, "convert: expected --part SIZE ahead "
                                        "of what is said of a new partition");
    wanted.mend = slate_mend_name(options->goal.table == SLATE_TABLE_GPT
                                      ? SLATE_MEND_TO_GPT
                                      : SLATE_MEND_TO_MBR);
    return mend(&wanted);
}
