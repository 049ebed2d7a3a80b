/* SPDX-License-Identifier: MIT */
/* Blocks of a round of overwriting, judged one by one. */
#include "base/base.h"
#include "pass/pass.h"

#include "volume/common/common.h"

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
