/* SPDX-License-Identifier: MIT */
/* What a draft needs to know of the partitions that stay: where they are, and
 * the table as it stands. */

#include "base/base.h"
#include "draft/make/make.h"
#include "draft/place/place.h"
#include "table/table.h"

static const struct slate_partition *find(const struct slate_facts *facts,
                                          uint32_t number)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].number == number)
            return &facts->partition[i];
    }
    return NULL;
}

static bool names(const struct slate_draft *draft,
                  const struct slate_facts *facts, enum slate_role role)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_partition *old =
            find(facts, draft->part[i].ask.keep);

        if (old != NULL && old->role == role)
            return true;
    }
    return false;
}

/* Logical partitions stay one by one, or all of them by their container. */
static enum slate_status check_logical(struct slate_draft *draft, uint32_t part,
                                       const struct slate_facts *facts)
{
    if (!slate_layout_chain_is_plain(&facts->layout))
        return slate_draft_refuse(
            draft, part,
            "the links to logical partitions are in no plain order: these stay "
            "together, by the number of their container");
    if (names(draft, facts, SLATE_ROLE_EXTENDED))
        return slate_draft_refuse(draft, part,
                                  "logical partitions stay one by one, or by "
                                  "their container, not both");
    return SLATE_OK;
}

static enum slate_status find_kept(struct slate_draft *draft,
                                   const struct slate_facts *facts)
{
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < draft->parts; i++) {
        struct slate_part *part = &draft->part[i];
        const struct slate_partition *old = find(facts, part->ask.keep);

        if (part->ask.keep == 0)
            continue;
        if (old == NULL)
            return slate_draft_refuse(draft, i,
                                      "there is no partition of this number");
        if (old->role == SLATE_ROLE_LOGICAL)
            status = check_logical(draft, i, facts);
        SLATE_TRY(status);
        part->range.first = old->first;
        part->range.count = old->count;
    }
    return SLATE_OK;
}

/* What the image is read from, one part after the other. */
struct reading {
    struct slate_draft *draft;
    struct slate_media *media;
    uint8_t *work;
    struct slate_bytes *image;
};

static enum slate_status take(struct reading *reading, uint64_t lba,
                              uint32_t blocks)
{
    uint32_t block_bytes = reading->media->geometry.block_bytes;

    for (uint32_t i = 0; i < blocks; i++) {
        enum slate_status status =
            slate_media_read(reading->media, lba + i, 1, reading->work);

        SLATE_THEN(status,
                   slate_draft_grow_bytes(
                       reading->draft, "the table as it is", reading->image,
                       (uint64_t)reading->image->count + block_bytes));
        SLATE_TRY(status);
        memcpy(reading->image->byte + reading->image->count, reading->work,
               block_bytes);
        reading->image->count += block_bytes;
    }
    return SLATE_OK;
}

static enum slate_status take_gpt(struct reading *reading,
                                  const struct slate_layout *layout)
{
    const struct slate_gpt_copy *primary = &layout->primary;
    uint32_t block_bytes = reading->media->geometry.block_bytes;
    uint64_t array = (uint64_t)primary->entry_count * primary->entry_bytes;

    if (slate_layout_copies_differ(layout))
        return SLATE_ERR_TWO_COPIES;
    if (primary->state != SLATE_GPT_SOUND ||
        layout->backup.state != SLATE_GPT_SOUND ||
        primary->array_crc != layout->backup.array_crc)
        return SLATE_ERR_ONE_COPY;
    SLATE_TRY(take(reading, primary->lba, 1));
    SLATE_TRY(take(reading, layout->backup.lba, 1));
    return take(reading, primary->array_lba,
                (uint32_t)((array + block_bytes - 1) / block_bytes));
}

/* The links, where single logical partitions stay. */
static enum slate_status take_chain(struct slate_draft *draft,
                                    struct reading *reading)
{
    struct slate_table_plan plan = {
        .kind = SLATE_TABLE_MBR,
        .block_bytes = reading->media->geometry.block_bytes,
        .block_count = reading->media->geometry.block_count,
        .image = reading->image->byte,
        .image_bytes = reading->image->count};
    enum slate_status status = SLATE_OK;
    uint64_t lba;

    for (uint32_t i = 0;
         status == SLATE_OK && slate_table_image_block(&plan, i, &lba); i++) {
        status = take(reading, lba, 1);
        plan.image_bytes = reading->image->count;
    }
    if (status == SLATE_OK && !slate_table_image_is_sound(&plan))
        return slate_draft_refuse(
            draft, 0,
            "a link to a logical partition holds more than that: these stay "
            "together, by the number of their container");
    return status;
}

static bool keeps_any(const struct slate_draft *draft)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        if (draft->part[i].ask.keep != 0)
            return true;
    }
    return false;
}

static void leave_out_zeros(struct slate_bytes *image)
{
    while (image->count > 0 && image->byte[image->count - 1] == 0)
        image->count--; /* zeros stand behind its end */
}

/* Block 0 of a table that is made anew. */
static enum slate_status take_code(struct slate_draft *draft,
                                   const struct slate_facts *facts,
                                   struct reading *reading)
{
    enum slate_status status;

    if (facts->layout.kind != SLATE_TABLE_MBR &&
        facts->layout.kind != SLATE_TABLE_GPT)
        return slate_draft_refuse(draft, 0,
                                  "there is no table whose code could stay");
    status = take(reading, 0, 1);
    draft->basis.image_of = facts->layout.kind;
    leave_out_zeros(reading->image);
    return status;
}

enum slate_status slate_draft_keep(struct slate_draft *draft,
                                   const struct slate_facts *facts,
                                   struct slate_media *media, void *work)
{
    struct slate_bytes *image = &draft->basis.image;
    struct reading reading = {draft, media, work, image};
    enum slate_status status;

    image->count = 0;
    draft->basis.image_of = SLATE_TABLE_NONE;
    if (!keeps_any(draft))
        return draft->goal.keep_code ? take_code(draft, facts, &reading)
                                     : SLATE_OK;
    if (facts->layout.kind != SLATE_TABLE_MBR &&
        facts->layout.kind != SLATE_TABLE_GPT)
        return slate_draft_refuse(
            draft, 0, "only partitions of an MBR or a GPT can stay");
    if (facts->layout.hybrid >
        0) /* its other entries would tell of what goes */
        return slate_draft_refuse(draft, 0,
                                  "partitions of a hybrid table cannot stay");
    status = find_kept(draft, facts);
    SLATE_THEN(status, take(&reading, 0, 1));
    if (status == SLATE_OK && facts->layout.kind == SLATE_TABLE_GPT)
        status = take_gpt(&reading, &facts->layout);
    if (status == SLATE_OK && names(draft, facts, SLATE_ROLE_LOGICAL))
        status = take_chain(draft, &reading);
    SLATE_TRY(status);
    draft->basis.image_of = facts->layout.kind;
    leave_out_zeros(image);
    return SLATE_OK;
}
