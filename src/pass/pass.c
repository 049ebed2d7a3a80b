/* SPDX-License-Identifier: MIT */
/* A pass over extents, a bounded amount of work at a time. */
#include <string.h>

#include "pass/pass.h"
#include "draft/place/place.h"

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
    pass->total = slate_supply_blocks(supply);
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
