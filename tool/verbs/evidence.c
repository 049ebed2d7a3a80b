/* SPDX-License-Identifier: MIT */
/* evidence: is a report as it was written? */
#include <stdio.h>

#include "report/report.h"
#include "say.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"

static const char *words_of(enum ticket_state state)
{
    switch (state) {
    case TICKET_AS_WRITTEN:
        return "as it was written";
    case TICKET_CHANGED:
        return "changed since it was written, or cut short";
    case TICKET_NONE:
        return "no evidence of True Slate";
    case TICKET_UNREADABLE:
    default:
        return "it cannot be read";
    }
}

static enum slate_status status_of(enum ticket_state state)
{
    switch (state) {
    case TICKET_AS_WRITTEN:
        return SLATE_OK;
    case TICKET_CHANGED:
        return SLATE_ERR_UNPROVED;
    case TICKET_NONE:
        return SLATE_ERR_ARGUMENT;
    case TICKET_UNREADABLE:
    default:
        return SLATE_ERR_ACCESS;
    }
}

int verb_evidence(const struct options *options)
{
    enum ticket_state state = ticket_check(options->operand);

    if (options->json)
        (void)report_print(report_made(json_pack(
            "{s:s, s:s, s:b, s:s}", "shape", "trueslate.evidence-check/1",
            "file", options->operand, "as_written", state == TICKET_AS_WRITTEN,
            "text", words_of(state))));
    else if (state == TICKET_AS_WRITTEN)
        printf("%s: as it was written\n", options->operand);
    return state == TICKET_AS_WRITTEN ? 0
                                      : fail(status_of(state), "%s: %s",
                                             options->operand, words_of(state));
}
