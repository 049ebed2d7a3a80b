/* SPDX-License-Identifier: MIT */
/* Reading back all that a draft writes, and comparing it. */
#include <string.h>

#include "pass/round.h"

#include "trueslate/prove.h"

/* Hosts move data past their cache from such addresses only. */
#define ALIGNMENT 4096u

/* With room for three, the next blocks are read while these are compared. */
static void divide(struct slate_prove *prove, size_t work_bytes)
{
    struct slate_pass *pass = &prove->pass;
    size_t block_bytes = pass->media->geometry.block_bytes;
    size_t part = work_bytes / 3;
    size_t third =
        (part - (part > ALIGNMENT ? part % ALIGNMENT : 0)) / block_bytes;

    if (pass->media->ops.submit == NULL || third == 0)
        return;
    if (third < pass->work_blocks)
        pass->work_blocks = (uint32_t)third;
    pass->scratch = pass->work + pass->work_blocks * block_bytes;
    prove->ahead = pass->scratch + pass->work_blocks * block_bytes;
}

static enum slate_status begin(struct slate_prove *prove,
                               enum slate_status status, size_t work_bytes)
{
    if (status == SLATE_OK) {
        prove->before = prove->pass.media->fault;
        divide(prove, work_bytes);
    }
    return status;
}

enum slate_status slate_prove_start(struct slate_prove *prove,
                                    const struct slate_draft *draft,
                                    struct slate_media *media, void *work,
                                    size_t work_bytes)
{
    if (prove == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(prove, 0, sizeof *prove);
    return begin(
        prove,
        slate_pass_start(&prove->pass, draft, media, work, work_bytes, true),
        work_bytes);
}

enum slate_status slate_prove_begin(struct slate_prove *prove,
                                    const struct slate_supply *supply,
                                    struct slate_media *media, void *work,
                                    size_t work_bytes)
{
    if (prove == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(prove, 0, sizeof *prove);
    return begin(
        prove, slate_pass_begin(&prove->pass, supply, media, work, work_bytes),
        work_bytes);
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

/* Begins to read what stands behind the present blocks, which may be under way
 * themselves. */
static void read_ahead(struct slate_prove *prove, uint32_t count)
{
    struct slate_pass next = prove->pass;

    prove->ahead_blocks = 0;
    if (prove->ahead == NULL)
        return;
    slate_pass_advance(&next, count);
    if (!next.finished)
        prove->ahead_blocks = slate_pass_chunk(&next);
    prove->newest = 1 - prove->newest;
    if (prove->ahead_blocks > 0)
        slate_media_begin_read(next.media, &prove->pending[prove->newest],
                               next.extent.first, prove->ahead_blocks,
                               prove->ahead);
}

/* The present blocks, into pass->work, and those behind them, into the part of
 * the buffer that is free: the device has them before it is done with these. */
static enum slate_status fetch(struct slate_prove *prove, uint32_t count)
{
    struct slate_pass *pass = &prove->pass;
    uint8_t *work = pass->work;
    struct slate_pending *present = &prove->pending[prove->newest];
    enum slate_status status;

    if (prove->ahead_blocks > 0) {
        pass->work = prove->ahead;
        prove->ahead = work;
        read_ahead(prove, count);
        return slate_media_finish(pass->media, present);
    }
    status = slate_media_read(pass->media, pass->extent.first, count, work);
    if (status == SLATE_OK)
        read_ahead(prove, count);
    return status;
}

/* Of a round of overwriting, whose failing blocks are noted one by one? */
static bool is_tolerated(const struct slate_prove *prove)
{
    return prove->failed != NULL &&
           prove->pass.extent.part == SLATE_PART_OVERWRITTEN &&
           prove->pass.extent.moment == SLATE_MOMENT_OVERWRITE;
}

/* Blocks that failed together, each by itself. What is ahead is read again. */
static enum slate_status judge_each(struct slate_prove *prove, uint32_t count)
{
    struct slate_pass *pass = &prove->pass;
    enum slate_status status = slate_prove_end(prove);

    prove->ahead_blocks = 0;
    if (status == SLATE_ERR_READ)
        status = SLATE_OK; /* it will be told again */
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        enum slate_block_state state;

        status = slate_round_judge(pass, pass->extent.first + i, &state);
        if (status == SLATE_OK && state != SLATE_BLOCK_AS_WRITTEN)
            status = slate_round_note(prove->failed, pass->extent.first + i,
                                      state == SLATE_BLOCK_UNREADABLE
                                          ? &prove->unreadable
                                          : &prove->altered);
    }
    if (status == SLATE_OK)
        pass->media->fault = prove->before; /* it is in the list */
    return status;
}

/* Are the present blocks, which could be read or not, as they should be? */
static enum slate_status judge(struct slate_prove *prove, uint32_t count,
                               enum slate_status fetched)
{
    struct slate_difference found = {0};
    enum slate_status status = fetched;

    if (!is_tolerated(prove))
        return status == SLATE_OK ? count_different(prove, count) : status;
    if (status == SLATE_OK)
        status = slate_pass_compare(&prove->pass, count, &found);
    return status == SLATE_ERR_READ || (status == SLATE_OK && found.blocks > 0)
               ? judge_each(prove, count)
               : status;
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
    pass->status = judge(prove, count, fetch(prove, count));
    if (pass->status == SLATE_OK)
        slate_pass_advance(pass, count);
    return pass->status;
}

enum slate_status slate_prove_end(struct slate_prove *prove)
{
    struct slate_media *media = prove->pass.media;
    struct slate_fault first = media->fault;
    enum slate_status status = SLATE_OK;

    if (prove->ahead_blocks > 0)
        status = slate_media_finish(media, &prove->pending[prove->newest]);
    if (prove->pass.status != SLATE_OK)
        media->fault = first; /* it ended the proof */
    return status;
}

enum slate_status slate_prove_complete(struct slate_prove *prove,
                                       slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK, end;

    while (status == SLATE_OK && !prove->pass.finished) {
        status = slate_prove_step(prove);
        if (status == SLATE_OK && progress != NULL &&
            !progress(context, &prove->pass) && !prove->pass.finished)
            status = SLATE_ERR_STOPPED;
    }
    end = slate_prove_end(prove);
    status = status == SLATE_OK ? end : status;
    if (status == SLATE_OK && prove->different > 0)
        status = SLATE_ERR_UNPROVED;
    return status;
}

enum slate_status slate_prove_run(struct slate_prove *prove,
                                  const struct slate_draft *draft,
                                  struct slate_media *media, void *work,
                                  size_t work_bytes, slate_progress progress,
                                  void *context)
{
    enum slate_status status =
        slate_prove_start(prove, draft, media, work, work_bytes);

    return status == SLATE_OK ? slate_prove_complete(prove, progress, context)
                              : status;
}
