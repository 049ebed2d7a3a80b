/* SPDX-License-Identifier: MIT */
/* draft: what renewing a device would do. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "lifts.h"
#include "paint.h"
#include "plain.h"
#include "report.h"
#include "say.h"
#include "verbs.h"
#include "view.h"

/* Local time; with SOURCE_DATE_EPOCH set, that moment in UTC, so that output
 * can be repeated byte for byte. */
static void take_stamp(struct slate_stamp *stamp)
{
    const char *epoch = getenv("SOURCE_DATE_EPOCH");
    time_t now = epoch == NULL ? time(NULL) : (time_t)strtoll(epoch, NULL, 10);
    struct tm parts;

    memset(stamp, 0, sizeof *stamp);
    if ((epoch == NULL ? localtime_r(&now, &parts) : gmtime_r(&now, &parts)) ==
            NULL ||
        parts.tm_year < 80 || parts.tm_year > 207)
        return;
    stamp->year = (uint16_t)(parts.tm_year + 1900);
    stamp->month = (uint8_t)(parts.tm_mon + 1);
    stamp->day = (uint8_t)parts.tm_mday;
    stamp->hour = (uint8_t)parts.tm_hour;
    stamp->minute = (uint8_t)parts.tm_min;
    stamp->second = (uint8_t)(parts.tm_sec > 59 ? 59 : parts.tm_sec);
}

/* What a command lifts, though it is not lifted without being asked. */
static void add_agreement(const struct options *options,
                          const struct slate_basis *basis,
                          struct slate_text *text)
{
    uint32_t kind = slate_draft_obstacle(&options->goal, basis);

    if (kind == SLATE_GUARD_KINDS ||
        slate_guard_usual_lift((enum slate_guard_kind)kind) >
            SLATE_LIFT_PASSWORD)
        return;
    slate_text_add(text, " To agree, add --lift ");
    slate_text_add(text, slate_guard_name((enum slate_guard_kind)kind));
}

static int explain_refusal(const struct target *target,
                           const struct options *options,
                           const struct slate_basis *basis,
                           enum slate_status status)
{
    char words[400];
    struct slate_text text;

    slate_text_start(&text, words, sizeof words);
    slate_draft_refusal_words(status, &options->goal, basis, &text);
    add_agreement(options, basis, &text);
    return fail(status, "%s cannot be renewed so: %s", target->address, words);
}

int make_draft(struct target *target, const struct options *options,
               struct slate_draft *draft)
{
    struct slate_choices choices = {0};
    struct slate_basis basis;
    enum slate_status status = SLATE_OK;

    if (target->is_file && target->facts.read_only)
        return fail(SLATE_ERR_PROTECTED,
                    "%s is write-protected by its permissions: allow yourself "
                    "to write to the file",
                    target->address);
    if (options->has_seed)
        memcpy(choices.seed, options->seed, sizeof choices.seed);
    else
        status = slate_media_random(&target->media, choices.seed,
                                    sizeof choices.seed);
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    take_stamp(&choices.stamp);
    slate_basis_from(&target->facts, &basis);
    status = slate_draft_make(&options->goal, &basis, &choices, draft);
    return status == SLATE_OK
               ? 0
               : explain_refusal(target, options, &basis, status);
}

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

int verb_draft(const struct options *options)
{
    struct target target;
    struct slate_draft draft;
    int code = target_open(&target, options->operand, options->bench,
                           options->block_bytes);

    if (code == 0)
        code = target_look(&target);
    if (code == 0 && options->output != NULL)
        code = refuse_used(&target); /* it changes as long as that lasts */
    if (code == 0 && options->output != NULL)
        code = draft_file_may_write(options->output, &target, options->replace);
    if (code == 0)
        code = refuse_concealed(&target, options);
    if (code == 0)
        code = make_draft(&target, options, &draft);
    if (code == 0 && options->output != NULL)
        code = draft_file_save(options->output, &target, &draft);
    if (code == 0 && options->json) {
        code = report_print(draft_file_shape(&target, &draft));
    } else if (code == 0) {
        view_device(&target);
        putchar('\n');
        view_draft(&target.facts, &draft);
        tell_next(options, &target);
    }
    target_close(&target);
    return code;
}
