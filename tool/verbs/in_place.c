/* SPDX-License-Identifier: MIT */
/* Changes in place, from consent to proof: what the verbs for them share. */
#include "verbs/verbs.h"

#include "base/base.h"
#include "work/work.h"
#include "device/device.h"

static int ask(const struct undertaking *work, const char *what)
{
    const struct target *target = work->target;
    char wanted[64];

    consent_words(target, wanted);
    if (work->options->consent == NULL)
        return fail(SLATE_ERR_CONSENT,
                    "%s %s will be changed in place; to agree, add --consent "
                    "%s",
                    what, target->media.tag, wanted);
    return check_consent(target, work->options->consent);
}

int in_place_do(struct undertaking *work, const char *what)
{
    int code = ask(work, what);

    if (code == 0)
        code = refuse_used(work->target);
    if (code != 0)
        return code;
    snprintf(work->consent, sizeof work->consent, "%.63s",
             work->options->consent);
    code = undertaking_keep(work);
    if (code == 0)
        code = undertaking_do(work);
    return undertaking_end(work, code);
}

void in_place_tell(const struct undertaking *work)
{
    tell_enacted(work->draft, &work->enact);
    tell_proved(work->draft, &work->prove);
    journals_tell(work->journal, work->target, "");
}
