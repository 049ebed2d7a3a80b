/* SPDX-License-Identifier: MIT */
/* evidence: is a report as it was written? */

#include "ticket/ticket.h"
#include "verbs/verbs.h"

static const char *words_of(enum ticket_state state, const struct given *given)
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
        return given->why;
    }
}

static enum slate_status status_of(enum ticket_state state,
                                   const struct given *given)
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
        return given->status;
    }
}

int verb_evidence(const struct options *options)
{
    struct given given;
    enum ticket_state state = ticket_check(options->operand, &given);
    const char *words = words_of(state, &given);

    if (options->json)
        (void)report_print(report_pack(
            "{s:s, s:o, s:b, s:s}", "shape", "trueslate.evidence-check/1",
            "file", report_shown(options->operand), "as_written",
            state == TICKET_AS_WRITTEN, "text", words));
    else if (state == TICKET_AS_WRITTEN)
        printf("%s: %s\n", options->operand, words);
    return state == TICKET_AS_WRITTEN ? 0
                                      : fail(status_of(state, &given), "%s: %s",
                                             options->operand, words);
}
