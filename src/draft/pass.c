/* SPDX-License-Identifier: MIT */
/* A pass over all extents of a draft, a bounded amount of work at a time. */
#include <string.h>

#include "trueslate/pass.h"

enum slate_status slate_pass_start(struct slate_pass *pass,
                                   const struct slate_draft *draft,
                                   struct slate_media *media, void *work,
                                   size_t work_bytes, bool final)
{
    const struct slate_geometry *geometry;
    size_t blocks;

    if (pass == NULL || draft == NULL || media == NULL)
        return SLATE_ERR_ARGUMENT;
    if (work == NULL || work_bytes < slate_draft_work_bytes(draft))
        return SLATE_ERR_BUFFER;
    geometry = &draft->basis.geometry;
    if (memcmp(media->digest, draft->basis.identity, SLATE_DIGEST_BYTES) != 0 ||
        media->geometry.block_bytes != geometry->block_bytes ||
        media->geometry.block_count != geometry->block_count)
        return SLATE_ERR_OTHER_DEVICE;
    memset(pass, 0, sizeof *pass);
    pass->draft = draft;
    pass->media = media;
    pass->work = work;
    blocks = work_bytes / 2 / geometry->block_bytes;
    pass->work_blocks = blocks > UINT16_MAX ? UINT16_MAX : (uint32_t)blocks;
    pass->scratch =
        pass->work + (size_t)pass->work_blocks * geometry->block_bytes;
    pass->final = final;
    pass->total = slate_draft_blocks(draft, final);
    return SLATE_OK;
}

uint32_t slate_pass_chunk(struct slate_pass *pass)
{
    while (pass->extent.count == 0) {
        if (!slate_draft_next(pass->draft, &pass->walk, &pass->extent)) {
            pass->finished = true;
            return 0;
        }
        if (pass->final && pass->extent.moment <= SLATE_MOMENT_DROP)
            pass->extent.count = 0;
    }
    return pass->extent.count < pass->work_blocks ? (uint32_t)pass->extent.count
                                                  : pass->work_blocks;
}

void slate_pass_advance(struct slate_pass *pass, uint32_t blocks)
{
    pass->extent.first += blocks;
    pass->extent.count -= blocks;
    pass->done += blocks;
    pass->finished = pass->done == pass->total;
}
