/* SPDX-License-Identifier: MIT */
/* The same question where data stays, and no mark tells: the evidence outside
 * of what the draft writes has to be as it was, and each block that is changed
 * as it was, or as the draft has it at some moment, or torn between. */

#include "base/base.h"
#include "enact/enact.h"
#include "media/wire/wire.h"
#include "draft/place/place.h"

struct judgement {
    bool fresh;    /* everything is as it was */
    bool outside;  /* so is what the draft does not write */
    bool former;   /* so are the blocks that are changed */
    bool known;    /* they are as the draft has them at some moment */
    bool finished; /* every block is as the draft leaves it */
};

static enum slate_status look_at_evidence(struct slate_pass *pass,
                                          struct judgement *judgement)
{
    const struct slate_evidence *evidence = &pass->draft->basis.evidence;
    struct slate_unread unread = {0};
    const struct slate_policy noting = {.unread = &unread};
    struct slate_policy before = slate_media_read_by(pass->media, &noting);
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < evidence->count && status == SLATE_OK; i++) {
        const struct slate_seen *seen = &evidence->seen[i];
        bool same;

        status = slate_seen_again(pass->media, seen, pass->work, &same);
        judgement->fresh = judgement->fresh && same;
        if (!slate_draft_touches(pass->draft, seen->first, seen->count))
            judgement->outside = judgement->outside && same;
    }
    (void)slate_media_read_by(pass->media, &before);
    return status;
}

/* Takes from the bytes that are odd those which are as in one state. */
static enum slate_status explain(struct slate_pass *pass,
                                 const struct slate_extent *extent,
                                 uint32_t state, uint64_t lba,
                                 uint8_t odd[SLATE_BLOCK_MAX / 8])
{
    struct slate_extent other = *extent;
    enum slate_status status;

    other.part = state;
    status = slate_draft_compose(pass->draft, &other, lba, 1, pass->scratch);
    for (uint32_t i = 0;
         status == SLATE_OK && i < pass->media->geometry.block_bytes; i++) {
        if (pass->work[i] == pass->scratch[i])
            odd[i / 8] &= (uint8_t) ~(1u << i % 8);
    }
    return status;
}

static bool none_is_odd(const uint8_t *odd, uint32_t bytes)
{
    for (uint32_t i = 0; i < bytes; i++) {
        if (odd[i] != 0)
            return false;
    }
    return true;
}

/* A torn write leaves some bytes of each; one that cannot be read, all. */
static enum slate_status judge_block(struct slate_pass *pass,
                                     const struct slate_extent *extent,
                                     uint64_t lba, struct judgement *judgement)
{
    static const uint32_t states[] = {SLATE_PART_FORMER, SLATE_PART_DROPPED,
                                      SLATE_PART_TABLE};
    struct slate_fault before = pass->media->fault;
    uint32_t bytes = pass->media->geometry.block_bytes / 8;
    uint8_t odd[SLATE_BLOCK_MAX / 8];
    enum slate_status status =
        slate_media_read(pass->media, lba, 1, pass->work);

    if (status == SLATE_ERR_READ) {
        pass->media->fault = before;
        judgement->former = false;
        return SLATE_OK;
    }
    memset(odd, 0xFF, sizeof odd);
    for (size_t i = 0; i < 3 && status == SLATE_OK; i++) {
        status = explain(pass, extent, states[i], lba, odd);
        if (i == 0)
            judgement->former = judgement->former && none_is_odd(odd, bytes);
    }
    judgement->known = judgement->known && none_is_odd(odd, bytes);
    return status;
}

/* All blocks of a change in place, but for new volumes beside it; else those of
 * the table. */
static enum slate_status judge_blocks(struct slate_pass *pass,
                                      struct judgement *judgement)
{
    struct slate_walk walk = {.moment = slate_draft_is_change(pass->draft)
                                            ? SLATE_MOMENT_COPIES
                                            : SLATE_MOMENT_TABLE_COPY};
    struct slate_extent extent;
    enum slate_status status = SLATE_OK;

    while (status == SLATE_OK &&
           slate_draft_next(pass->draft, &walk, &extent)) {
        for (uint64_t i = 0;
             extent.part == SLATE_PART_TABLE && i < extent.count &&
             status == SLATE_OK && judgement->known;
             i++)
            status = judge_block(pass, &extent, extent.first + i, judgement);
    }
    return status;
}

/* All that stays on the device, until something differs. */
static enum slate_status look_for_end(struct slate_pass *pass,
                                      struct judgement *judgement)
{
    struct slate_walk walk = {0};
    struct slate_supply final;
    struct slate_extent extent;
    enum slate_status status = SLATE_OK;
    bool any = false;

    slate_draft_supply(pass->draft, true, &final);
    while (status == SLATE_OK && judgement->finished &&
           final.next(final.context, &walk, &extent)) {
        while (extent.count > 0 && status == SLATE_OK && judgement->finished) {
            uint32_t count = extent.count < pass->work_blocks
                                 ? (uint32_t)extent.count
                                 : pass->work_blocks;

            status =
                slate_enact_equal(pass, &extent, count, &judgement->finished);
            extent.first += count;
            extent.count -= count;
            any = true;
        }
    }
    judgement->finished = judgement->finished && any;
    return status;
}

enum slate_status slate_enact_judge_switched(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    struct judgement judgement = {true, true, true, true, true};
    enum slate_status status = look_at_evidence(pass, &judgement);

    /* assessing has read all of a table, but not all that can be changed */
    if (status != SLATE_OK ||
        (judgement.fresh && !slate_draft_is_change(pass->draft)))
        return status;
    if (judgement.outside)
        status = judge_blocks(pass, &judgement);
    SLATE_TRY(status);
    if (!judgement.outside || !judgement.known)
        return SLATE_ERR_CHANGED;
    if (judgement.fresh && judgement.former)
        return SLATE_OK;
    SLATE_TRY(look_for_end(pass, &judgement));
    enact->resumed = true;
    return judgement.finished ? SLATE_ERR_ALREADY : SLATE_OK;
}
