/* SPDX-License-Identifier: MIT */
/* Volumes that were found get their entries: in the table that is there, or in
 * a new one where there is none. */

#include "base/base.h"
#include "draft/make/make.h"
#include "draft/mend/mend.h"
#include "draft/place/place.h"
#include "table/table.h"
#include "volume/common/common.h"

/* What is to be put back, and on what. */
struct returning {
    const struct slate_mending *mending;
    const struct slate_lost *lost;
    uint32_t count;
    enum slate_table_kind table;
};

static uint64_t end_of(const struct slate_lost *lost)
{
    return lost->first + lost->count;
}

static bool overlap(uint64_t first, uint64_t end, uint64_t other_first,
                    uint64_t other_end)
{
    return first < other_end && other_first < end;
}

/* What is in the way of one of them. */
static const char *in_the_way(const struct returning *returning, uint32_t n)
{
    const struct slate_facts *facts = returning->mending->facts;
    const struct slate_lost *lost = &returning->lost[n];
    struct slate_range usable;

    if (lost->first >= facts->geometry.block_count ||
        lost->count > facts->geometry.block_count - lost->first)
        return "it says to reach beyond the device";
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (overlap(lost->first, end_of(lost), one->first,
                    one->first + one->count))
            return one->role == SLATE_ROLE_EXTENDED
                       ? "it lies in the container of logical partitions"
                       : "it shares blocks with a partition that is there";
    }
    for (uint32_t i = 0; i < n; i++) {
        if (overlap(lost->first, end_of(lost), returning->lost[i].first,
                    end_of(&returning->lost[i])))
            return "it shares blocks with another one of them";
    }
    slate_table_usable(returning->table, 0, &facts->geometry, &usable);
    if (facts->layout.kind == SLATE_TABLE_GPT) {
        usable.first = facts->layout.primary.first_usable;
        usable.count = facts->layout.primary.last_usable + 1 - usable.first;
    }
    return lost->first < usable.first ||
                   end_of(lost) > usable.first + usable.count
               ? "it lies where the table has to stand, or beyond its reach"
               : NULL;
}

static const char *table_obstacle(const struct returning *returning)
{
    const struct slate_facts *facts = returning->mending->facts;

    if (facts->marked)
        return "a renewal is unfinished on this device";
    if (slate_volume_is_known(facts->whole.kind))
        return "a volume takes the whole device";
    if (facts->layout.kind > SLATE_TABLE_GPT)
        return "its table is of a kind that gets no entries here";
    if (facts->layout.found > facts->layout.count)
        return "there are more partitions than were looked at";
    return returning->table == SLATE_TABLE_MBR &&
                   facts->layout.kind == SLATE_TABLE_NONE &&
                   returning->count > SLATE_MBR_PRIMARIES
               ? "there are more of them than an MBR has entries"
               : NULL;
}

static enum slate_status refuse(const struct returning *returning,
                                const char *why, uint32_t number)
{
    struct slate_draft *draft = returning->mending->patching.draft;

    draft->obstacle = (struct slate_obstacle){why, number, 0};
    draft->why = why;
    return SLATE_ERR_IN_THE_WAY;
}

static enum slate_status check(const struct returning *returning)
{
    const char *why = table_obstacle(returning);

    if (why != NULL)
        return refuse(returning, why, 0);
    for (uint32_t i = 0; i < returning->count; i++) {
        why = in_the_way(returning, i);
        if (why != NULL)
            return refuse(returning, why, i + 1);
    }
    return SLATE_OK;
}

/* The entry of one, with a number that no other has; and a note of it. */
static void fill(const struct returning *returning, uint32_t n, uint32_t number,
                 struct slate_partition *partition)
{
    const struct slate_lost *lost = &returning->lost[n];
    struct slate_draft *draft = returning->mending->patching.draft;
    struct slate_mended *mended = &draft->change.mend[draft->change.mends++];

    mended->kind = SLATE_MEND_LOST;
    mended->number = number;
    memset(partition, 0, sizeof *partition);
    partition->number = number;
    partition->first = lost->first;
    partition->count = lost->count;
    partition->mbr_type = slate_mbr_type_for(lost->volume.kind);
    if (returning->table == SLATE_TABLE_MBR)
        return;
    partition->type = *slate_gpt_type_for(lost->volume.kind);
    slate_mend_guid(draft, "partition id", number - 1, &partition->id);
    memcpy(partition->name, lost->volume.label, sizeof lost->volume.label);
}

static bool is_used(const struct slate_facts *facts, uint32_t number)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        if (facts->partition[i].number == number)
            return true;
    }
    return false;
}

static uint8_t *entry_of(uint8_t *block, uint32_t number)
{
    return block + SLATE_MBR_ENTRIES +
           (size_t)(number - 1) * SLATE_MBR_ENTRY_BYTES;
}

/* One in each free entry of the four; one that is not listed, but has a type,
 * is somebody's. */
static enum slate_status add_to_mbr(const struct returning *returning)
{
    const struct slate_mending *mending = returning->mending;
    struct slate_draft *draft = mending->patching.draft;
    const struct slate_table_plan plan =
        slate_mend_plan(mending, SLATE_TABLE_MBR);
    uint8_t *block;
    enum slate_status status = slate_mend_block(mending, 0, SLATE_MOMENT_TABLE,
                                                SLATE_PATCH_TABLE, &block);

    for (uint32_t i = 0, number = 1; i < returning->count && status == SLATE_OK;
         i++, number++) {
        struct slate_partition *entry = &draft->partition[0];

        while (number <= SLATE_MBR_PRIMARIES &&
               entry_of(block, number)[SLATE_MBR_ENTRY_TYPE] != 0)
            number++;
        if (number > SLATE_MBR_PRIMARIES)
            return refuse(returning, "the table has no entry left for it",
                          i + 1);
        fill(returning, i, number, entry);
        slate_mbr_put_entry(&plan, entry, entry_of(block, number));
    }
    return status;
}

static enum slate_status add_to_gpt(const struct returning *returning)
{
    const struct slate_mending *mending = returning->mending;
    struct slate_draft *draft = mending->patching.draft;
    const struct slate_gpt_copy *copy = &mending->facts->layout.primary;
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0, number = 1; i < returning->count && status == SLATE_OK;
         i++, number++) {
        struct slate_partition *entry = &draft->partition[0];

        while (number <= copy->entry_count && is_used(mending->facts, number))
            number++;
        if (number > copy->entry_count)
            return refuse(returning, "the table has no entry left for it",
                          i + 1);
        fill(returning, i, number, entry);
        status = slate_patch_gpt_add(&mending->patching, entry);
    }
    return status;
}

/* A new table, of these alone, by their blocks. */
static enum slate_status put_table(const struct returning *returning)
{
    const struct slate_mending *mending = returning->mending;
    struct slate_draft *draft = mending->patching.draft;
    struct slate_table_plan plan = slate_mend_plan(mending, returning->table);

    for (uint32_t i = 0; i < returning->count; i++) {
        uint32_t number = 1;

        for (uint32_t j = 0; j < returning->count; j++)
            number += returning->lost[j].first < returning->lost[i].first;
        fill(returning, i, number, &draft->partition[number - 1]);
    }
    plan.count = returning->count;
    return returning->table == SLATE_TABLE_GPT
               ? slate_mend_put_gpt(mending, &plan)
               : slate_mend_put_mbr(mending, &plan);
}

static enum slate_status put_back(struct returning *returning)
{
    const struct slate_facts *facts = returning->mending->facts;

    if (facts->layout.kind != SLATE_TABLE_NONE)
        returning->table = facts->layout.kind;
    SLATE_TRY(check(returning));
    if (facts->layout.kind == SLATE_TABLE_NONE)
        return put_table(returning);
    return facts->layout.kind == SLATE_TABLE_GPT ? add_to_gpt(returning)
                                                 : add_to_mbr(returning);
}

enum slate_status slate_draft_put_back(struct slate_draft *draft,
                                       const struct slate_facts *facts,
                                       const struct slate_lost *lost,
                                       uint32_t count,
                                       enum slate_table_kind table,
                                       struct slate_media *media, void *work)
{
    struct slate_mending mending = {
        {draft, media, work}, facts, SLATE_ATTRIBUTE_WHOLE};
    struct returning returning = {&mending, lost, count, table};
    const struct slate_policy strict = {.unread = NULL};
    struct slate_policy before;
    enum slate_status status;

    if (work == NULL)
        return SLATE_ERR_BUFFER;
    status = slate_draft_grow(
        draft, "things that are mended", &draft->change.mend,
        (uint64_t)draft->change.mends + count, sizeof *draft->change.mend);
    if (status == SLATE_OK) /* one is room for an entry that is changed */
        status =
            slate_draft_grow(draft, "partitions", &draft->partition,
                             (uint64_t)count + 1, sizeof *draft->partition);
    SLATE_TRY(status);
    if (count == 0 || draft->parts > 0 ||
        (table != SLATE_TABLE_MBR && table != SLATE_TABLE_GPT))
        return SLATE_ERR_ARGUMENT;
    before = slate_media_read_by(media, &strict);
    status = put_back(&returning);
    (void)slate_media_read_by(media, &before);
    return status;
}
