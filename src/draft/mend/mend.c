/* SPDX-License-Identifier: MIT */
/* Mending in place: which blocks change for it. */
#include "base/base.h"
#include "draft/make/make.h"
#include "draft/mend/mend.h"

#include "draft/place/place.h"
#include "assess/judge/judge.h"

static const struct row {
    enum slate_status (*mend)(const struct slate_mending *mending);
    bool sparing; /* it changes a copy that counts already */
} rows[SLATE_MEND_KINDS] = {[SLATE_MEND_GPT] = {slate_mend_gpt, false},
                            [SLATE_MEND_HYBRID] = {slate_mend_hybrid, true},
                            [SLATE_MEND_REMAINS] = {slate_mend_remains, true},
                            [SLATE_MEND_START] = {slate_mend_start, false},
                            [SLATE_MEND_TYPE] = {slate_mend_type, true},
                            [SLATE_MEND_ORDER] = {slate_mend_order, true},
                            [SLATE_MEND_TO_GPT] = {slate_mend_to_gpt, false},
                            [SLATE_MEND_TO_MBR] = {slate_mend_to_mbr, false},
                            [SLATE_MEND_GROW] = {slate_mend_grow, true},
                            [SLATE_MEND_LOST] = {NULL, true}};

enum slate_status slate_mend_block(const struct slate_mending *mending,
                                   uint64_t lba, enum slate_moment moment,
                                   enum slate_patch_role role, uint8_t **block)
{
    const struct slate_patch patch = {lba, moment, (uint8_t)role};

    return slate_patch_block(&mending->patching, &patch, block);
}

/* In a copy that counts what is as it shall be is left alone; in one that is to
 * count it is written with the rest, so that it is looked at as well. */
static bool stays(const struct slate_patch *patch, const uint8_t *former,
                  size_t block)
{
    return (patch->role == SLATE_PATCH_TABLE ||
            patch->role == SLATE_PATCH_TABLE_COPY) &&
           memcmp(former, former + block, block) == 0;
}

static void leave_out_equal(struct slate_draft *draft)
{
    struct slate_change *change = &draft->change;
    size_t block = draft->basis.geometry.block_bytes;
    uint32_t kept = 0;

    for (uint32_t i = 0; i < change->patches; i++) {
        uint8_t *from = change->bytes.byte + 2 * block * i;
        uint8_t *to = change->bytes.byte + 2 * block * kept;

        if (stays(&change->patch[i], from, block))
            continue;
        if (to != from)
            memcpy(to, from, 2 * block);
        change->patch[kept++] = change->patch[i];
    }
    change->patches = kept;
    change->bytes.count = (uint32_t)(2 * block * kept);
}

/* Is anything other than it was? */
static bool changes_any(const struct slate_change *change, size_t block)
{
    for (uint32_t i = 0; i < change->patches; i++) {
        const uint8_t *former = change->bytes.byte + 2 * block * i;

        if (memcmp(former, former + block, block) != 0)
            return true;
    }
    return false;
}

enum slate_status slate_draft_mend(struct slate_draft *draft,
                                   const struct slate_facts *facts,
                                   const struct slate_mend *mend,
                                   struct slate_media *media, void *work)
{
    struct slate_mending mending = {
        {draft, media, work}, facts, mend->partition};
    struct slate_change *change = &draft->change;
    bool whole = mend->partition == SLATE_ATTRIBUTE_WHOLE;
    /* zeros must not stand for what is kept */
    const struct slate_policy strict = {.unread = NULL};
    struct slate_policy before;
    enum slate_status status;

    if (work == NULL)
        return SLATE_ERR_BUFFER;
    SLATE_TRY(slate_draft_grow(draft, "things that are mended", &change->mend,
                               (uint64_t)change->mends + 1,
                               sizeof *change->mend));
    if (!slate_mend_holds(facts, mend) ||
        (draft->parts > 0 && mend->kind != SLATE_MEND_TO_GPT &&
         mend->kind != SLATE_MEND_TO_MBR))
        return SLATE_ERR_ARGUMENT;
    if (slate_mend_obstacle(facts, mend, &draft->obstacle))
        return slate_draft_refuse(draft, 0, draft->obstacle.why);
    before = slate_media_read_by(media, &strict);
    status = rows[mend->kind].mend(&mending);
    (void)slate_media_read_by(media, &before);
    if (status != SLATE_OK)
        return status;
    if (rows[mend->kind].sparing)
        leave_out_equal(draft);
    if (!changes_any(change, facts->geometry.block_bytes))
        return SLATE_ERR_ARGUMENT;
    change->mend[change->mends].kind = mend->kind;
    change->mend[change->mends++].number =
        whole ? 0 : facts->partition[mend->partition].number;
    return SLATE_OK;
}
