/* SPDX-License-Identifier: MIT */
/* Changes in place, from consent to proof: what the verbs for them share. */
#include "verbs/verbs.h"

#include "work/work.h"
#include "device/device.h"

int in_place_do(struct undertaking *work, const char *what)
{
    int code =
        consent_ask(work->target, work->options, NULL,
                    "%s %s will be changed in place; to agree, add --consent",
                    what, work->target->media.tag);

    THEN(code, refuse_used(work->target));
    TRY(code);
    snprintf(work->consent, sizeof work->consent, "%.63s",
             work->options->consent);
    code = undertaking_keep(work);
    THEN(code, undertaking_do(work));
    return undertaking_end(work, code);
}

void in_place_tell(const struct undertaking *work)
{
    tell_enacted(work->draft, &work->enact);
    tell_proved(work->draft, &work->prove);
    journals_tell(work->journal, work->target, "");
}
