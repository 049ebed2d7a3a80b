/* SPDX-License-Identifier: MIT */
/* enact and prove: a draft from a file meets its device. */

#include "draft/draft.h"
#include "device/device.h"
#include "report/report.h"
#include "work/work.h"
#include "verbs/verbs.h"
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
    return code == 0 ? open_device_of(draft, address, options->bench, target)
                     : code;
}

static int no_consent(const struct target *target,
                      const struct slate_draft *draft, const char *file)
{
    char wanted[64];

    consent_words(target, wanted);
    return fail(
        SLATE_ERR_CONSENT,
        "%s on %s will be %s; to agree, say: trueslate enact %s --consent %s%s",
        slate_draft_is_change(draft) ? "what the draft names"
        : draft->switched            ? "what does not stay"
                                     : "everything",
        target->media.tag,
        slate_draft_is_change(draft) ? "changed in place" : "lost",
        plain_word(file), wanted, target->also);
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

int verb_enact(const struct options *options)
{
    struct slate_draft *draft = drafted_new();
    struct target target = {0};
    struct slate_enact enact = {0};
    char journal[STATE_PATH_ROOM];
    int code = load_and_open(options, draft, &target);

    THEN(code, bad_may_write(options, &target));
    if (code == 0 && options->consent == NULL)
        code = no_consent(&target, draft, options->operand);
    THEN(code,
         carry_out(&target, draft, options->consent, options, &enact, journal));
    if (code != 0 && enact.pass.status == SLATE_ERR_BAD_BLOCK)
        code = fail_around(&target, draft, options);
    if (code == 0 && options->json) {
        code = report_print(report_enact(draft, &enact, journal));
    } else if (code == 0) {
        tell_enacted(draft, &enact);
        regions_tell(&target, TARGET_WRITTEN);
        overwriting_tell(&draft->goal.overwrite, draft, &enact, NULL);
        printf("\nTo prove it:\n  trueslate prove %s%s\n",
               plain_word(options->operand), target.also);
        journals_tell(journal, &target, drafted_path(draft));
    }
    THEN(code, overwriting_end(options, &target, draft));
    target_close(&target);
    drafted_free(draft);
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
