/* SPDX-License-Identifier: MIT */
/* A pass over extents, a bounded amount of work at a time. */
#include <string.h>

#include "pass/pass.h"
#include "draft/place/place.h"
#include "base/base.h"
#include "volume/common/common.h"

enum slate_status slate_pass_begin(struct slate_pass *pass,
                                   const struct slate_supply *supply,
                                   struct slate_media *media, void *work,
                                   size_t work_bytes)
{
    uint32_t block_bytes;
    size_t blocks;

    if (pass == NULL || supply == NULL || media == NULL)
        return SLATE_ERR_ARGUMENT;
    block_bytes = media->geometry.block_bytes;
    if (work == NULL || work_bytes < SLATE_WORK_MIN ||
        work_bytes < 2 * (size_t)block_bytes)
        return SLATE_ERR_BUFFER;
    memset(pass, 0, sizeof *pass);
    pass->supply = *supply;
    pass->media = media;
    pass->work = work;
    blocks = work_bytes / 2 / block_bytes;
    pass->work_blocks = blocks > UINT16_MAX ? UINT16_MAX : (uint32_t)blocks;
    if (media->ops.submit != NULL &&
        pass->work_blocks > media->largest_transfer)
        pass->work_blocks = media->largest_transfer; /* one goes on meanwhile */
    pass->scratch = pass->work + (size_t)pass->work_blocks * block_bytes;
    pass->total =
        supply->blocks > 0 ? supply->blocks : slate_supply_blocks(supply);
    pass->finished = pass->total == 0;
    return SLATE_OK;
}

enum slate_status slate_pass_start(struct slate_pass *pass,
                                   const struct slate_draft *draft,
                                   struct slate_media *media, void *work,
                                   size_t work_bytes, bool final)
{
    const struct slate_geometry *geometry;
    struct slate_supply supply;
    enum slate_status status;

    if (pass == NULL || draft == NULL || media == NULL)
        return SLATE_ERR_ARGUMENT;
    if (work == NULL || work_bytes < slate_draft_work_bytes(draft))
        return SLATE_ERR_BUFFER;
    geometry = &draft->basis.geometry;
    if (memcmp(media->digest, draft->basis.identity, SLATE_DIGEST_BYTES) != 0 ||
        media->geometry.block_bytes != geometry->block_bytes ||
        media->geometry.block_count != slate_draft_claimed(draft))
        return SLATE_ERR_OTHER_DEVICE;
    slate_draft_supply(draft, final, &supply);
    status = slate_pass_begin(pass, &supply, media, work, work_bytes);
    if (status == SLATE_OK)
        pass->draft = draft;
    return status;
}

uint32_t slate_pass_chunk(struct slate_pass *pass)
{
    if (pass->extent.count == 0 &&
        !pass->supply.next(pass->supply.context, &pass->walk, &pass->extent)) {
        pass->finished = true;
        return 0;
    }
    return pass->extent.count < pass->work_blocks ? (uint32_t)pass->extent.count
                                                  : pass->work_blocks;
}

static void note(struct slate_pass *pass, uint64_t blocks)
{
    uint64_t now = slate_media_milliseconds(pass->media);

    if (pass->clock != 0)
        slate_surface_note(pass->surface, pass->extent.first, blocks,
                           (now - pass->clock) * 1000);
    pass->clock = now;
}

void slate_pass_advance(struct slate_pass *pass, uint64_t blocks)
{
    if (pass->surface != NULL)
        note(pass, blocks);
    pass->extent.first += blocks;
    pass->extent.count -= blocks;
    pass->done += blocks;
    pass->finished = pass->done == pass->total;
}

enum slate_status slate_pass_compare(const struct slate_pass *pass,
                                     uint32_t count,
                                     struct slate_difference *difference)
{
    return slate_supply_compare(
        &pass->supply, pass->media->geometry.block_bytes, &pass->extent,
        pass->extent.first, count, pass->work, pass->scratch, difference);
}

/* Blocks of a round of overwriting, judged one by one. */

enum slate_status slate_round_note(struct slate_ranges *failed, uint64_t block,
                                   uint64_t *count)
{
    const struct slate_range one = {block, 1};
    enum slate_status status;
    uint64_t found;

    if (slate_bad_first(failed, &one, &found))
        return SLATE_OK;
    status = slate_bad_add(failed, block, 1);
    ++*count;
    return status == SLATE_ERR_ROOM ? SLATE_ERR_BAD_LIST : status;
}

/* Reads a block of the current extent, compares it, and notes it if it fails.
 */
static enum slate_status judge(struct slate_pass *pass, uint64_t block,
                               struct slate_ranges *failed,
                               uint64_t *unreadable, uint64_t *altered)
{
    struct slate_fault before = pass->media->fault;
    struct slate_difference difference = {0};
    enum slate_status status =
        slate_media_read(pass->media, block, 1, pass->work);

    if (status == SLATE_ERR_READ) {
        pass->media->fault = before;
        return slate_round_note(failed, block, unreadable);
    }
    SLATE_THEN(status, slate_supply_compare(&pass->supply,
                                            pass->media->geometry.block_bytes,
                                            &pass->extent, block, 1, pass->work,
                                            pass->scratch, &difference));
    return status == SLATE_OK && difference.blocks > 0
               ? slate_round_note(failed, block, altered)
               : status;
}

enum slate_status
slate_round_judge_each(struct slate_pass *pass, struct slate_ahead *reading,
                       uint32_t count, struct slate_ranges *failed,
                       uint64_t *unreadable, uint64_t *altered)
{
    enum slate_status status = slate_ahead_end(reading, pass->media);

    if (status == SLATE_ERR_READ)
        status = SLATE_OK; /* it will be told again */
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++)
        status =
            judge(pass, pass->extent.first + i, failed, unreadable, altered);
    if (status == SLATE_OK)
        pass->media->fault = reading->before; /* it is in the list */
    return status;
}
