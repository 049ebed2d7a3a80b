/* SPDX-License-Identifier: MIT */
/* Blocks of a round of overwriting, judged one by one. */
#include "pass/round.h"

#include "volume/bad.h"

enum slate_status slate_round_judge(struct slate_pass *pass, uint64_t block,
                                    enum slate_block_state *state)
{
    struct slate_fault before = pass->media->fault;
    struct slate_difference difference = {0};
    enum slate_status status =
        slate_media_read(pass->media, block, 1, pass->work);

    *state = SLATE_BLOCK_UNREADABLE;
    if (status == SLATE_ERR_READ) {
        pass->media->fault = before;
        return SLATE_OK;
    }
    if (status == SLATE_OK)
        status = slate_supply_compare(
            &pass->supply, pass->media->geometry.block_bytes, &pass->extent,
            block, 1, pass->work, pass->scratch, &difference);
    *state =
        difference.blocks > 0 ? SLATE_BLOCK_ALTERED : SLATE_BLOCK_AS_WRITTEN;
    return status;
}

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
    return status == SLATE_ERR_BUFFER ? SLATE_ERR_BAD_LIST : status;
}
