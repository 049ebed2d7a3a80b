/* SPDX-License-Identifier: MIT */
/* Mending in place: which blocks change for it. */
#include "base/base.h"
#include "draft/make/make.h"
#include "draft/mend/mend.h"
#include "draft/place/place.h"
#include "assess/judge/judge.h"
#include "volume/common/common.h"

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
        return SLATE_ERR_IN_THE_WAY;
    before = slate_media_read_by(media, &strict);
    status = rows[mend->kind].mend(&mending);
    (void)slate_media_read_by(media, &before);
    SLATE_TRY(status);
    if (rows[mend->kind].sparing)
        leave_out_equal(draft);
    if (!changes_any(change, facts->geometry.block_bytes))
        return SLATE_ERR_ARGUMENT;
    change->mend[change->mends].kind = mend->kind;
    change->mend[change->mends++].number =
        whole ? 0 : facts->partition[mend->partition].number;
    return SLATE_OK;
}

/* Mending the start of a volume, from the copy that it keeps of it. */

/* Bytes of the device, block by block through the work buffer. */
static enum slate_status copy_run(const struct slate_mending *mending,
                                  uint64_t from, uint64_t to, uint32_t bytes)
{
    const struct slate_patching *patching = &mending->patching;
    uint32_t block = mending->facts->geometry.block_bytes;
    enum slate_status status = SLATE_OK;

    while (bytes > 0 && status == SLATE_OK) {
        uint32_t at = (uint32_t)(from % block);
        uint32_t here = block - at < bytes ? block - at : bytes;

        status =
            slate_media_read(patching->media, from / block, 1, patching->work);
        SLATE_THEN(status,
                   slate_patch_put(patching, to, patching->work + at, here));
        from += here;
        to += here;
        bytes -= here;
    }
    return status;
}

static enum slate_status make_first(const struct slate_mending *mending,
                                    const struct slate_start_copy *copy,
                                    uint64_t byte)
{
    uint32_t length = copy->run[0].bytes;
    uint8_t *first;

    SLATE_TRY(slate_patch_get(&mending->patching, byte, length, &first));
    copy->make_first(first);
    return slate_patch_put(&mending->patching, byte, first, length);
}

enum slate_status slate_mend_start(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    struct slate_range range = {0, facts->geometry.block_count};
    struct slate_start_copy copy;
    enum slate_status status;
    uint64_t base;

    if (mending->partition != SLATE_ATTRIBUTE_WHOLE) {
        range.first = facts->partition[mending->partition].first;
        range.count = facts->partition[mending->partition].count;
    }
    base = range.first * facts->geometry.block_bytes;
    status = slate_volume_start_find(mending->patching.media, &range,
                                     mending->patching.work, &copy);
    if (status == SLATE_ERR_FORMAT)
        return SLATE_ERR_CHANGED;
    for (uint32_t i = 0; i < copy.runs && status == SLATE_OK; i++)
        status = copy_run(mending, base + copy.run[i].from,
                          base + copy.run[i].to, copy.run[i].bytes);
    if (status == SLATE_OK && copy.make_first != NULL)
        status = make_first(mending, &copy, base + copy.run[0].to);
    return status;
}
