/* SPDX-License-Identifier: MIT */
/* Enacting a draft in one blocking call. */
#include "trueslate/enact.h"

enum slate_status
slate_enact_run(struct slate_enact *enact, const struct slate_draft *draft,
                struct slate_media *media, const char *consent, void *work,
                size_t work_bytes, slate_progress progress, void *context)
{
    enum slate_status end,
        status =
            slate_enact_start(enact, draft, media, consent, work, work_bytes);

    if (status != SLATE_OK)
        return status;
    while (status == SLATE_OK && !enact->pass.finished) {
        status = slate_enact_step(enact);
        if (status == SLATE_OK && progress != NULL &&
            !progress(context, &enact->pass) && !enact->pass.finished)
            status = SLATE_ERR_STOPPED;
    }
    end = slate_enact_end(enact);
    return status != SLATE_OK ? status : end;
}
