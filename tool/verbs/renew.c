/* SPDX-License-Identifier: MIT */
/* renew: assess, draft, ask, enact and prove in one go; of one device, or of
 * several side by side. */
#include <stdio.h>

#include "renewal.h"
#include "report/report.h"
#include "verbs/several.h"
#include "verbs/verbs.h"

static int renew_one(const struct options *options)
{
    struct renewal renewal;
    int code;

    renewal_begin(&renewal, options, options->operand);
    code = renewal_prepare(&renewal);
    if (code == 0)
        code = renewal_ask(&renewal);
    if (code == 0 && !options->json)
        putchar('\n');
    if (code == 0)
        code = renewal_run(&renewal);
    if (code == 0 && options->json)
        code = report_print(renewal_report(&renewal));
    else if (code == 0)
        renewal_tell(&renewal);
    renewal_end(&renewal);
    return code;
}

int verb_renew(const struct options *options)
{
    return options->count > 1 ? renew_several(options) : renew_one(options);
}
