/* SPDX-License-Identifier: MIT */
/* Enacting, keeping and looking in one blocking call each. */
#include "trueslate/journal.h"

enum slate_status slate_enact_complete(struct slate_enact *enact,
                                       slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK, end;

    while (status == SLATE_OK && !enact->pass.finished) {
        status = slate_enact_step(enact);
        if (status == SLATE_OK && progress != NULL &&
            !progress(context, &enact->pass) && !enact->pass.finished)
            status = SLATE_ERR_STOPPED;
    }
    end = slate_enact_end(enact);
    return status != SLATE_OK ? status : end;
}

enum slate_status
slate_enact_run(struct slate_enact *enact, const struct slate_draft *draft,
                struct slate_media *media, const char *consent, void *work,
                size_t work_bytes, slate_progress progress, void *context)
{
    enum slate_status status =
        slate_enact_start(enact, draft, media, consent, work, work_bytes);

    return status == SLATE_OK ? slate_enact_complete(enact, progress, context)
                              : status;
}

enum slate_status slate_saving_run(struct slate_saving *saving,
                                   slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK;

    while (status == SLATE_OK && !saving->finished) {
        status = slate_saving_step(saving);
        if (status == SLATE_OK && progress != NULL &&
            !progress(context, &saving->pass) && !saving->finished)
            status = SLATE_ERR_STOPPED;
    }
    return status;
}

enum slate_status slate_rewind_find(struct slate_rewind *rewind,
                                    slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK;

    while (status == SLATE_OK && !rewind->look.finished) {
        status = slate_rewind_look(rewind);
        if (status == SLATE_OK && progress != NULL &&
            !progress(context, &rewind->look) && !rewind->look.finished)
            status = SLATE_ERR_STOPPED;
    }
    return status;
}
