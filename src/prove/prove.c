/* SPDX-License-Identifier: MIT */
/* Reading back all that a draft writes, and comparing it. */
#include <string.h>

#include "trueslate/prove.h"

enum slate_status slate_prove_start(struct slate_prove *prove,
                                    const struct slate_draft *draft,
                                    struct slate_media *media, void *work,
                                    size_t work_bytes)
{
    if (prove == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(prove, 0, sizeof *prove);
    return slate_pass_start(&prove->pass, draft, media, work, work_bytes, true);
}

enum slate_status slate_prove_begin(struct slate_prove *prove,
                                    const struct slate_supply *supply,
                                    struct slate_media *media, void *work,
                                    size_t work_bytes)
{
    if (prove == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(prove, 0, sizeof *prove);
    return slate_pass_begin(&prove->pass, supply, media, work, work_bytes);
}

/* Counts every block of the chunk that differs. */
static enum slate_status count_different(struct slate_prove *prove,
                                         uint32_t count)
{
    const struct slate_pass *pass = &prove->pass;
    struct slate_difference found;
    enum slate_status status = slate_pass_compare(pass, count, &found);

    if (status == SLATE_OK && prove->different == 0 && found.blocks > 0) {
        prove->first_different = found.first;
        prove->first_step =
            pass->supply.step(pass->supply.context, &pass->extent);
    }
    prove->different += found.blocks;
    return status;
}

enum slate_status slate_prove_step(struct slate_prove *prove)
{
    struct slate_pass *pass = &prove->pass;
    uint32_t count;

    if (pass->status != SLATE_OK || pass->finished)
        return pass->status;
    count = slate_pass_chunk(pass);
    if (count == 0)
        return SLATE_OK;
    pass->status =
        slate_media_read(pass->media, pass->extent.first, count, pass->work);
    if (pass->status == SLATE_OK)
        pass->status = count_different(prove, count);
    if (pass->status == SLATE_OK)
        slate_pass_advance(pass, count);
    return pass->status;
}

enum slate_status slate_prove_run(struct slate_prove *prove,
                                  const struct slate_draft *draft,
                                  struct slate_media *media, void *work,
                                  size_t work_bytes, slate_progress progress,
                                  void *context)
{
    enum slate_status status =
        slate_prove_start(prove, draft, media, work, work_bytes);

    while (status == SLATE_OK && !prove->pass.finished) {
        status = slate_prove_step(prove);
        if (status == SLATE_OK && progress != NULL &&
            !progress(context, &prove->pass) && !prove->pass.finished)
            status = SLATE_ERR_STOPPED;
    }
    if (status == SLATE_OK && prove->different > 0)
        status = SLATE_ERR_UNPROVED;
    return status;
}
