/* SPDX-License-Identifier: MIT */
/* draft: what renewing a device would do. */

#include "draft/draft.h"
#include "device/device.h"
#include "work/work.h"
#include "verbs/verbs.h"
#include "view/view.h"
#include "look/look.h"
#include "report/report.h"

/* A draft is made for what the device shows, and that would be another thing
 * by the time it is enacted. */
static int refuse_concealed(const struct target *target,
                            const struct options *options)
{
    if (!lifts_has_concealed(target, options))
        return 0;
    return fail(SLATE_ERR_ARGUMENT,
                "draft: what '--lift %s' lifts changes what %s shows; lift it "
                "first with 'trueslate guards', or use 'trueslate renew'",
                options->lift, target->facts.tag);
}

static void tell_next(const struct options *options,
                      const struct target *target)
{
    char wanted[64];

    if (options->output == NULL) {
        puts("\nNothing was written. Keep the draft with -o FILE, to enact.");
        return;
    }
    consent_words(target, wanted);
    printf("\nNothing was written to the device. To carry it out:\n"
           "  trueslate enact %s --consent %s%s\n",
           plain_word(options->output), wanted, target->also);
}

/* A device, or an earlier draft, which is revised for the device that it is
 * of. */
static int open_operand(const struct options *options,
                        struct slate_draft *former, bool *revised,
                        struct target *target)
{
    char address[ADDRESS_ROOM];

    *revised = durable_exists(options->operand) &&
               draft_file_read(options->operand, former, address) == SLATE_OK;
    return *revised ? open_device_of(former, address, options->bench, target)
                    : target_named(target, options);
}

static int draft_it(const struct options *options, struct target *target,
                    const struct slate_draft *former, struct slate_draft *draft,
                    struct scanned *scanned)
{
    int code = target_look(target);

    if (code == 0)
        count_free(target);
    if (code == 0 && options->output != NULL)
        code = refuse_used(target); /* it changes as long as that lasts */
    if (code == 0 && options->output != NULL)
        code = draft_file_may_write(options->output, target, options->replace);
    THEN(code, refuse_concealed(target, options));
    THEN(code, make_draft(target, options, former, draft));
    if (code == 0 && options->scan)
        code = scan_take(options, target, draft, false, scanned);
    if (code == 0 && options->picture != NULL)
        code = durable_may_write(options->picture, target, false, "picture",
                                 options->replace);
    if (code == 0 && options->picture != NULL)
        code = picture_draft(options->picture, target, draft);
    if (code == 0 && options->output != NULL)
        code = draft_file_save(options->output, target, draft);
    return code;
}

int verb_draft(const struct options *options)
{
    struct target target = {0};
    struct slate_draft *draft = drafted_new(), *former = drafted_new();
    struct scanned scanned = {0};
    bool revised = false;
    int code = scan_check(options);

    THEN(code, open_operand(options, former, &revised, &target));
    THEN(code,
         draft_it(options, &target, revised ? former : NULL, draft, &scanned));
    if (code == 0 && options->json) {
        code = report_print(draft_file_shape(&target, draft));
    } else if (code == 0) {
        view_device(&target);
        putchar('\n');
        if (options->put_back != NULL)
            searching_tell(&target);
        view_draft(&target, draft);
        pace_tell(&target, draft);
        scan_tell(&scanned, draft);
        journals_announce(options, draft);
        tell_next(options, &target);
    }
    target_close(&target);
    drafted_free(former);
    drafted_free(draft);
    return code;
}
