/* SPDX-License-Identifier: MIT */
/* survey, assess and bench: looking, and laying out what can be looked at. */
#include <stdio.h>

#include "paint.h"
#include "report.h"
#include "say.h"
#include "verbs.h"
#include "view.h"

struct survey {
    const struct options *options;
    json_t *devices; /* NULL when people read */
    unsigned count;
    int code; /* of the first device that could not be looked at */
};

static void add_to_report(struct survey *survey, const struct target *target)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];
    char words[512];
    struct slate_text text;
    json_t *device = report_device(target);

    slate_text_start(&text, words, sizeof words);
    content_words(&target->facts, &text);
    (void)slate_assess_judge(&target->facts, findings);
    json_object_set_new(device, "content", report_made(json_string(words)));
    json_object_set_new(
        device, "severity",
        report_made(json_string(slate_severity_name(findings[0].severity))));
    json_array_append_new(survey->devices, device);
}

static void survey_one(void *context, const char *name)
{
    struct survey *survey = context;
    struct target target;
    char word[80];
    int code;

    snprintf(word, sizeof word, "sim:%.64s", name);
    code = target_open(&target, word, survey->options->bench, 0);
    if (code == 0)
        code = target_look(&target);
    if (code == 0 && survey->devices != NULL)
        add_to_report(survey, &target);
    if (code == 0 && survey->devices == NULL) {
        if (survey->count > 0)
            putchar('\n');
        view_survey_entry(&target);
    }
    survey->count++;
    if (survey->code == 0)
        survey->code = code;
    target_close(&target);
}

static int no_bench(const char *bench)
{
    return fail(SLATE_ERR_NO_DEVICE,
                "no device: there is no bench in %s; lay one out with "
                "'trueslate bench DIR', or name it with --bench",
                bench);
}

int verb_survey(const struct options *options)
{
    struct survey survey = {options, NULL, 0, 0};

    if (options->json)
        survey.devices = report_made(json_array());
    if (slate_sim_list(options->bench, survey_one, &survey) != SLATE_OK) {
        json_decref(survey.devices);
        return no_bench(options->bench);
    }
    if (options->json) {
        int code = report_print(
            report_made(json_pack("{s:s, s:o}", "shape", "trueslate.survey/1",
                                  "devices", survey.devices)));

        return survey.code != 0 ? survey.code : code;
    }
    if (survey.count == 0)
        printf("The bench in %s is empty.\n", options->bench);
    return survey.code;
}

/* The command for the remedy, where renewing is the remedy. */
static void tell_command(const struct slate_facts *facts)
{
    struct slate_finding findings[SLATE_FINDINGS_MAX];

    (void)slate_assess_judge(facts, findings);
    if (findings[0].severity == SLATE_SEVERITY_TROUBLE &&
        findings[0].id != SLATE_FINDING_UNFINISHED && !facts->read_only)
        printf("\nTo see what renewing would do, and to do it:\n"
               "  trueslate draft %s\n  trueslate renew %s\n",
               facts->tag, facts->tag);
}

int verb_assess(const struct options *options)
{
    struct target target;
    int code = target_open(&target, options->operand, options->bench,
                           options->block_bytes);

    if (code == 0)
        code = target_look(&target);
    if (code == 0 && options->json) {
        code = report_print(report_assess(&target));
    } else if (code == 0) {
        view_device(&target);
        putchar('\n');
        view_content(&target.facts);
        view_findings(&target.facts);
        tell_command(&target.facts);
    }
    target_close(&target);
    return code;
}

int verb_bench(const struct options *options)
{
    char why[SLATE_SIM_WHY_ROOM];
    enum slate_status status =
        slate_sim_lay(options->operand, options->bench, why);

    if (status != SLATE_OK)
        return fail(status, "the bench in %s cannot be laid out: %s",
                    options->bench, why);
    printf("A fresh bench lies in %s.\n", options->bench);
    return 0;
}
