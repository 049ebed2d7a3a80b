/* SPDX-License-Identifier: MIT */
/* renew: assess, draft, ask, enact and prove in one go; of one device, or of
 * several side by side. */

#include "draft/draft.h"
#include "work/work.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"

static int write_ticket(const struct options *options, struct renewal *renewal,
                        int code)
{
    json_t *jobs = report_made(json_array());

    json_array_append_new(jobs, renewal_ticket(renewal, code, say_last()));
    code = ticket_write(options, jobs, code);
    ticket_tell(options);
    return code;
}

static int renew_one(const struct options *options)
{
    struct renewal renewal;
    int code;

    renewal_begin(&renewal, options, options->operand);
    code = renewal_prepare(&renewal);
    THEN(code, renewal_ask(&renewal));
    if (code == 0 && !options->json)
        putchar('\n');
    THEN(code, renewal_run(&renewal));
    if (code == 0 && options->json)
        code = report_print(renewal_report(&renewal));
    else if (code == 0)
        renewal_tell(&renewal);
    THEN(code, overwriting_end(options, &renewal.target, renewal.work.draft));
    if (renewal.begun && options->evidence != NULL)
        code = write_ticket(options, &renewal, code);
    if (renewal.begun)
        code = then_do(&renewal.target, options, code);
    renewal_end(&renewal);
    return code;
}

/* A renewal that leaves nothing, or nothing of what is named. */
int verb_overwrite(const struct options *options)
{
    struct options wanted = *options;

    if (options->unheld && options->empty > 0)
        return fail(SLATE_ERR_ARGUMENT,
                    "overwrite: expected --partition or --unheld, not both");
    if (wanted.goal.overwrite.rounds == 0)
        options_say(&wanted, "with", "zero");
    if (options->unheld)
        options_say(&wanted, "keep", "all");
    if (!options->unheld && options->empty == 0) {
        options_say(&wanted, "table", "none");
        options_say(&wanted, "bare", NULL);
    }
    return verb_renew(&wanted);
}

int verb_renew(const struct options *options)
{
    return options->count > 1 ? renew_several(options) : renew_one(options);
}
