/* SPDX-License-Identifier: MIT */
/* A draft of what a command asks for, of the device that is there. */

#include "draft/draft.h"
#include "work/work.h"

/* What a command lifts, though it is not lifted without being asked. */
static const char *agreement(const struct slate_draft *draft, char words[60])
{
    uint32_t kind = slate_draft_obstacle(draft);

    words[0] = '\0';
    if (kind != SLATE_GUARD_KINDS &&
        slate_guard_usual_lift((enum slate_guard_kind)kind) <=
            SLATE_LIFT_PASSWORD)
        snprintf(words, 60, " To agree, add --lift %s",
                 slate_guard_name((enum slate_guard_kind)kind));
    return words;
}

static int explain_refusal(const struct target *target,
                           const struct slate_draft *draft,
                           enum slate_status status)
{
    char subject[4300], more[60];

    snprintf(subject, sizeof subject, "%s cannot be renewed so",
             target->address);
    return fail_refused(draft, status, subject, agreement(draft, more));
}

/* A conversion may have new partitions beside it; a table that is made for what
 * is put back, its kind. */
static bool may_stand_beside(const struct options *options)
{
    if (options->keep != NULL)
        return false;
    if (options->put_back != NULL)
        return !options->divided && !options->loose;
    return options->mend != NULL && options->divided &&
           (strcmp(options->mend, slate_mend_name(SLATE_MEND_TO_GPT)) == 0 ||
            strcmp(options->mend, slate_mend_name(SLATE_MEND_TO_MBR)) == 0);
}

/* A change in place goes alone, and is made of what is found now. */
static int refuse_mixture(const struct options *options,
                          const struct slate_draft *former)
{
    int changes = (options->clear != NULL) + (options->mend != NULL) +
                  (options->put_back != NULL);

    if (changes > 1 ||
        (changes > 0 && options->asked && !may_stand_beside(options)))
        return fail(SLATE_ERR_ARGUMENT,
                    "draft: %s changes nothing else; expected no goal and no "
                    "partitions beside it",
                    options->clear != NULL  ? "--clear"
                    : options->mend != NULL ? "--mend"
                                            : "--put-back");
    if (changes == 0 && former != NULL && slate_draft_is_change(former))
        return fail(
            SLATE_ERR_ARGUMENT,
            "draft: that draft changes a device in place; expected --clear "
            "KINDS or --mend KINDS, or the device instead of it");
    return 0;
}

static int make_change(struct target *target, const struct options *options,
                       struct slate_draft *draft)
{
    struct attributes attributes = {0};
    enum slate_status status;

    attributes_find(&attributes, &target->facts);
    draft->goal.lift = options->goal.lift;
    draft->goal.lasting = options->goal.lasting;
    status = attributes_draft(&attributes, target, options->clear, draft);
    for (uint32_t i = 0; i < attributes.count && status == SLATE_OK; i++) {
        if (attributes.wanted[i])
            status = attributes.cleared[i];
    }
    if (status == SLATE_ERR_GUARD)
        return explain_refusal(target, draft, status);
    if (status != SLATE_OK)
        return attributes_refuse(target, status);
    return slate_draft_is_change(draft)
               ? ledger_make(target, options, draft)
               : fail(SLATE_ERR_CHANGED, "%s: nothing of '%s' is set there",
                      target->address, options->clear);
}

/* They fit; only now are they read, which may take long. */
static int seal_files(const struct target *target, struct slate_draft *draft)
{
    int code = folder_seal(draft, target->work, WORK_BYTES);
    enum slate_status status = code == 0 ? slate_draft_make(draft) : SLATE_OK;

    return status == SLATE_OK ? code : fail_plainly(status, target->address);
}

int make_draft(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft)
{
    enum slate_status status;
    int code;

    if (target->is_file && target->facts.read_only)
        return fail(SLATE_ERR_PROTECTED,
                    "%s is write-protected by its permissions: allow yourself "
                    "to write to the file",
                    target->address);
    code = options->afresh ? 0 : unfinished_refuse(target);
    THEN(code, refuse_mixture(options, former));
    if (code == 0 && options->clear != NULL)
        return make_change(target, options, draft);
    if (code == 0 && options->mend != NULL)
        return mending_draft(target, options, options->mend, draft);
    if (code == 0 && options->put_back != NULL)
        return searching_draft(target, options, draft);
    THEN(code, asked_fill(target, options, former, draft));
    TRY(code);
    status = slate_draft_base(draft, &target->facts);
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    status =
        slate_draft_keep(draft, &target->facts, &target->media, target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(draft);
    if (status != SLATE_OK)
        return explain_refusal(target, draft, status);
    TRY(ledger_make(target, options, draft));
    target->tries = trying_is_due(target, options, draft);
    return options->files == NULL ? 0 : seal_files(target, draft);
}

int remake_draft(const struct target *target, struct slate_draft *draft)
{
    enum slate_status status = slate_draft_make(draft);

    return status == SLATE_OK ? 0 : explain_refusal(target, draft, status);
}
