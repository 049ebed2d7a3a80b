/* SPDX-License-Identifier: MIT */
/* Reading the next blocks while the present ones are compared. */
#include "pass/pass.h"
#include "media/wire/wire.h"

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

/* The blocks before them may be under way themselves. */
static void begin(struct slate_ahead *ahead, struct slate_media *media,
                  const struct slate_range *next)
{
    ahead->blocks = ahead->work == NULL ? 0 : (uint32_t)next->count;
    if (ahead->blocks == 0)
        return;
    ahead->newest = 1 - ahead->newest;
    slate_media_begin_read(media, &ahead->pending[ahead->newest], next->first,
                           ahead->blocks, ahead->work);
}

enum slate_status slate_ahead_read(struct slate_ahead *ahead,
                                   struct slate_media *media,
                                   const struct slate_range *present,
                                   const struct slate_range *next,
                                   uint8_t **work)
{
    uint8_t *spare = *work;
    struct slate_pending *pending = &ahead->pending[ahead->newest];
    enum slate_status status;

    if (ahead->blocks > 0) {
        *work = ahead->work;
        ahead->work = spare;
        begin(ahead, media, next);
        return slate_media_finish(media, pending);
    }
    ahead->before = media->fault;
    status = slate_media_read(media, present->first, (uint32_t)present->count,
                              *work);
    if (status == SLATE_OK)
        begin(ahead, media, next);
    return status;
}

enum slate_status slate_ahead_fetch(struct slate_ahead *ahead,
                                    struct slate_pass *pass, uint32_t count)
{
    const struct slate_range present = {pass->extent.first, count};
    struct slate_pass next = *pass;
    struct slate_range range = {0, 0};

    next.surface = NULL; /* none of it is done */
    slate_pass_advance(&next, count);
    if (!next.finished)
        range.count = slate_pass_chunk(&next);
    range.first = next.extent.first;
    if (next.extent.deed != pass->extent.deed)
        range.count = 0;
    return slate_ahead_read(ahead, pass->media, &present, &range, &pass->work);
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
