/* SPDX-License-Identifier: MIT */
/* assess: what is on a device, and what is wrong with it. */
#include <stdio.h>

#include "paint.h"
#include "report.h"
#include "say.h"
#include "verbs.h"
#include "view.h"

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
        view_size(&target);
        putchar('\n');
        view_content(&target.facts);
        view_findings(&target.facts);
        tell_command(&target.facts);
    }
    target_close(&target);
    return code;
}
