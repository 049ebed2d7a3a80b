/* SPDX-License-Identifier: MIT */
/* draft: what renewing a device would do. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "drafted.h"
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
static void add_agreement(const struct slate_draft *draft,
                          struct slate_text *text)
{
    uint32_t kind = slate_draft_obstacle(draft);

    if (kind == SLATE_GUARD_KINDS ||
        slate_guard_usual_lift((enum slate_guard_kind)kind) >
            SLATE_LIFT_PASSWORD)
        return;
    slate_text_add(text, " To agree, add --lift ");
    slate_text_add(text, slate_guard_name((enum slate_guard_kind)kind));
}

static int explain_refusal(const struct target *target,
                           const struct slate_draft *draft,
                           enum slate_status status)
{
    char words[400];
    struct slate_text text;

    slate_text_start(&text, words, sizeof words);
    slate_draft_refusal_words(draft, status, &text);
    add_agreement(draft, &text);
    return fail(status, "%s cannot be renewed so: %s", target->address, words);
}

static enum slate_status ask_to_keep(struct slate_draft *draft,
                                     unsigned long number)
{
    struct slate_ask ask = {.keep = number > UINT32_MAX ? UINT32_MAX
                                                        : (uint32_t)number};

    return slate_draft_ask(draft, &ask);
}

/* Logical partitions stay with their container. */
static enum slate_status keep_all(const struct slate_facts *facts,
                                  struct slate_draft *draft)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < facts->layout.count && status == SLATE_OK; i++) {
        if (facts->partition[i].role != SLATE_ROLE_LOGICAL)
            status = ask_to_keep(draft, facts->partition[i].number);
    }
    return status;
}

static enum slate_status keep_listed(const char *list,
                                     struct slate_draft *draft)
{
    enum slate_status status = SLATE_OK;
    char *end = NULL;

    for (; *list != '\0' && status == SLATE_OK; list = end) {
        status = ask_to_keep(draft, strtoul(list, &end, 10));
        end += *end == ',' ? 1 : 0;
    }
    return status;
}

/* Goal, parts and choices as the command line has them. */
static enum slate_status ask_for(struct target *target,
                                 const struct options *options,
                                 struct slate_draft *draft)
{
    /* where partitions stay, none is added without being asked for */
    uint32_t asks =
        options->keep != NULL && !options->divided ? 0 : options->asks;
    enum slate_status status = SLATE_OK;

    draft->goal = options->goal;
    draft->parts = 0;
    if (options->keep != NULL)
        status = strcmp(options->keep, "all") == 0
                     ? keep_all(&target->facts, draft)
                     : keep_listed(options->keep, draft);
    for (uint32_t i = 0; i < asks && status == SLATE_OK; i++)
        status = slate_draft_ask(draft, &options->ask[i]);
    if (status == SLATE_OK && options->has_seed)
        memcpy(draft->choices.seed, options->seed, sizeof options->seed);
    else if (status == SLATE_OK)
        status = slate_media_random(&target->media, draft->choices.seed,
                                    sizeof draft->choices.seed);
    take_stamp(&draft->choices.stamp);
    return status;
}

int make_draft(struct target *target, const struct options *options,
               struct slate_draft *draft)
{
    enum slate_status status;

    if (target->is_file && target->facts.read_only)
        return fail(SLATE_ERR_PROTECTED,
                    "%s is write-protected by its permissions: allow yourself "
                    "to write to the file",
                    target->address);
    status = ask_for(target, options, draft);
    if (status == SLATE_OK)
        status = slate_draft_base(draft, &target->facts);
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    status =
        slate_draft_keep(draft, &target->facts, &target->media, target->work);
    if (status == SLATE_OK)
        status = slate_draft_make(draft);
    return status == SLATE_OK ? 0 : explain_refusal(target, draft, status);
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
    struct slate_draft *draft = drafted_new();
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
        code = make_draft(&target, options, draft);
    if (code == 0 && options->output != NULL)
        code = draft_file_save(options->output, &target, draft);
    if (code == 0 && options->json) {
        code = report_print(draft_file_shape(&target, draft));
    } else if (code == 0) {
        view_device(&target);
        putchar('\n');
        view_draft(&target.facts, draft);
        tell_next(options, &target);
    }
    target_close(&target);
    drafted_free(draft);
    return code;
}
