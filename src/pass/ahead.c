/* SPDX-License-Identifier: MIT */
/* Reading the next blocks while the present ones are compared. */
#include "pass/ahead.h"

/* Hosts move data past their cache from such addresses only. */
#define ALIGNMENT 4096u

void slate_ahead_divide(struct slate_ahead *ahead, struct slate_pass *pass,
                        size_t work_bytes)
{
    size_t block_bytes = pass->media->geometry.block_bytes;
    size_t part = work_bytes / 3;
    size_t third =
        (part - (part > ALIGNMENT ? part % ALIGNMENT : 0)) / block_bytes;

    if (pass->media->ops.submit == NULL || third == 0)
        return;
    if (third < pass->work_blocks)
        pass->work_blocks = (uint32_t)third;
    pass->scratch = pass->work + pass->work_blocks * block_bytes;
    ahead->work = pass->scratch + pass->work_blocks * block_bytes;
}

/* Begins to read what stands behind the present blocks, which may be under way
 * themselves. */
static void begin(struct slate_ahead *ahead, const struct slate_pass *pass,
                  uint32_t count)
{
    struct slate_pass next = *pass;

    ahead->blocks = 0;
    if (ahead->work == NULL)
        return;
    next.surface = NULL; /* none of it is done */
    slate_pass_advance(&next, count);
    if (!next.finished)
        ahead->blocks = slate_pass_chunk(&next);
    if (next.extent.deed != pass->extent.deed)
        ahead->blocks = 0;
    ahead->newest = 1 - ahead->newest;
    if (ahead->blocks > 0)
        slate_media_begin_read(next.media, &ahead->pending[ahead->newest],
                               next.extent.first, ahead->blocks, ahead->work);
}

enum slate_status slate_ahead_fetch(struct slate_ahead *ahead,
                                    struct slate_pass *pass, uint32_t count)
{
    uint8_t *work = pass->work;
    struct slate_pending *present = &ahead->pending[ahead->newest];
    enum slate_status status;

    if (ahead->blocks > 0) {
        pass->work = ahead->work;
        ahead->work = work;
        begin(ahead, pass, count);
        return slate_media_finish(pass->media, present);
    }
    ahead->before = pass->media->fault;
    status = slate_media_read(pass->media, pass->extent.first, count, work);
    if (status == SLATE_OK)
        begin(ahead, pass, count);
    return status;
}

enum slate_status slate_ahead_end(struct slate_ahead *ahead,
                                  struct slate_media *media)
{
    enum slate_status status = SLATE_OK;

    if (ahead->blocks > 0)
        status = slate_media_finish(media, &ahead->pending[ahead->newest]);
    ahead->blocks = 0;
    return status;
}
