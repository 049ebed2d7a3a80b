/* SPDX-License-Identifier: MIT */
/* Mending in place: what there is to mend, and which blocks change for it. */
#include "draft/mend.h"

#include <string.h>

#include "assess/judge.h"
#include "base/names.h"
#include "draft/place.h"

static bool gpt_is_amiss(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_layout *layout = &facts->layout;

    (void)i;
    if (slate_is_gpt_second_alone(facts) || slate_is_mbr_remains(facts))
        return true;
    return layout->kind == SLATE_TABLE_GPT &&
           (slate_is_gpt_primary_damaged(facts) ||
            slate_is_gpt_backup_damaged(facts) ||
            slate_is_gpt_copies_disagree(facts) ||
            slate_is_protective_missing(facts) ||
            (layout->hybrid == 0 && slate_is_protective_wrong(facts)) ||
            layout->backup.lba != facts->geometry.block_count - 1 ||
            layout->primary.other_lba != facts->geometry.block_count - 1);
}

static bool is_hybrid(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return facts->layout.kind == SLATE_TABLE_GPT && facts->layout.hybrid > 0;
}

static bool has_remains(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return slate_is_gpt_remains(facts);
}

/* Also of one without a table. */
static const struct slate_volume *volume_at(const struct slate_facts *facts,
                                            uint32_t i)
{
    return i < facts->layout.count ? &facts->volume[i] : &facts->whole;
}

static bool start_is_lost(const struct slate_facts *facts, uint32_t i)
{
    enum slate_volume_kind lost = volume_at(facts, i)->lost;

    return lost == SLATE_VOLUME_FAT32 || lost == SLATE_VOLUME_EXFAT ||
           lost == SLATE_VOLUME_NTFS || lost == SLATE_VOLUME_EXT4;
}

static bool has_wrong_type(const struct slate_facts *facts, uint32_t i)
{
    return i < facts->layout.count && slate_type_disagrees(facts, i) &&
           slate_format_of(facts->volume[i].kind) != NULL;
}

static bool is_unordered(const struct slate_facts *facts, uint32_t i)
{
    const struct slate_layout *layout = &facts->layout;

    (void)i;
    for (uint32_t n = 0; n < layout->count; n++) {
        if (facts->partition[n].role != SLATE_ROLE_PRIMARY)
            return false;
    }
    return (layout->kind == SLATE_TABLE_MBR ||
            layout->kind == SLATE_TABLE_GPT) &&
           layout->found == layout->count &&
           (slate_layout_check(layout, facts->geometry.block_count) &
            (SLATE_LAYOUT_UNORDERED | SLATE_LAYOUT_OVERLAP)) ==
               SLATE_LAYOUT_UNORDERED;
}

static bool is_table(const struct slate_facts *facts, uint32_t i)
{
    (void)i;
    return facts->layout.kind == SLATE_TABLE_MBR ||
           facts->layout.kind == SLATE_TABLE_GPT;
}

struct row {
    const char *name, *words;
    bool (*holds)(const struct slate_facts *facts, uint32_t i);
    enum slate_status (*mend)(const struct slate_mending *mending);
    bool each;    /* of each partition, or of the whole */
    bool sparing; /* it changes a copy that counts already */
    bool wish;    /* nothing is wrong without it */
};

static const struct row rows[SLATE_MEND_KINDS] = {
    [SLATE_MEND_GPT] = {"gpt",
                        "both copies of the table are made right, each in its "
                        "place, and the entry that protects them",
                        gpt_is_amiss, slate_mend_gpt, false, false, false},
    [SLATE_MEND_HYBRID] = {"hybrid",
                           "the MBR's own entries go; the GPT is the only "
                           "table then",
                           is_hybrid, slate_mend_hybrid, false, true, false},
    [SLATE_MEND_REMAINS] = {"remains", "what is left of an old GPT is cleared",
                            has_remains, slate_mend_remains, false, true,
                            false},
    [SLATE_MEND_START] = {"start",
                          "the first blocks of the volume come back from its "
                          "own copy of them",
                          start_is_lost, slate_mend_start, true, false, false},
    [SLATE_MEND_TYPE] = {"type", "the type becomes that of the volume in it",
                         has_wrong_type, slate_mend_type, true, true, false},
    [SLATE_MEND_ORDER] = {"order",
                          "the partitions get their numbers in the order of "
                          "their blocks",
                          is_unordered, slate_mend_order, false, true, false},
    [SLATE_MEND_TO_GPT] = {"to-gpt",
                           "the MBR becomes a GPT over the same partitions",
                           is_table, slate_mend_to_gpt, false, false, true},
    [SLATE_MEND_TO_MBR] = {"to-mbr",
                           "the GPT becomes an MBR over the same partitions",
                           is_table, slate_mend_to_mbr, false, false, true}};

const char *slate_mend_name(enum slate_mend_kind kind)
{
    return SLATE_ROW_OF(rows, kind)->name;
}

const char *slate_mend_words(enum slate_mend_kind kind)
{
    return SLATE_ROW_OF(rows, kind)->words;
}

bool slate_mend_next(const struct slate_facts *facts, uint32_t index,
                     struct slate_mend *mend)
{
    uint32_t volumes = facts->layout.count;

    if (facts->opened != SLATE_OK || facts->marked)
        return false;
    for (uint32_t k = 0; k < SLATE_MEND_KINDS; k++) {
        uint32_t count = rows[k].each && volumes > 0 ? volumes : 1;

        for (uint32_t i = 0; !rows[k].wish && i < count; i++) {
            uint32_t at =
                rows[k].each && volumes > 0 ? i : SLATE_ATTRIBUTE_WHOLE;

            if (!rows[k].holds(facts, at) || index-- > 0)
                continue;
            mend->kind = (enum slate_mend_kind)k;
            mend->partition = at;
            return true;
        }
    }
    return false;
}

enum slate_status slate_mend_block(const struct slate_mending *mending,
                                   uint64_t lba, enum slate_moment moment,
                                   enum slate_patch_role role, uint8_t **block)
{
    const struct slate_patch patch = {lba, moment, (uint8_t)role};

    return slate_patch_block(&mending->patching, &patch, block);
}

enum slate_status slate_mend_refuse(const struct slate_mending *mending,
                                    const char *why)
{
    return slate_draft_refuse(mending->patching.draft, 0, why);
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

    if (work == NULL || change->mends == draft->room.mends)
        return SLATE_ERR_BUFFER;
    if ((unsigned)mend->kind >= SLATE_MEND_KINDS ||
        (!whole && mend->partition >= facts->layout.count) ||
        !rows[mend->kind].holds(facts, mend->partition))
        return SLATE_ERR_ARGUMENT;
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
