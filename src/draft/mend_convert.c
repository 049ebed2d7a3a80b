/* SPDX-License-Identifier: MIT */
/* Another table over the same partitions: everything of it is there before the
 * one block is written that makes it count, block 0. */
#include <string.h>

#include "assess/judge.h"
#include "base/bytes.h"
#include "base/zero.h"
#include "draft/entries.h"
#include "draft/mend.h"
#include "table/compose.h"
#include "table/gpt.h"
#include "table/mbr.h"

/* UEFI 2.10, table 5.8: firmware of the old kind may start from it. */
#define BOOTABLE ((uint64_t)1 << 2)

/* How far MBR entries reach. */
#define MBR_BLOCKS ((uint64_t)1 << 32)

static void guid_of(const struct slate_draft *draft, const char *purpose,
                    uint32_t part, struct slate_guid *guid)
{
    uint8_t bytes[16];

    slate_draft_derive(draft, purpose, part, bytes);
    slate_guid_random(bytes, guid);
}

static struct slate_table_plan plan_for(const struct slate_mending *mending,
                                        enum slate_table_kind kind)
{
    const struct slate_draft *draft = mending->patching.draft;
    const struct slate_geometry *geometry = &mending->facts->geometry;

    return (struct slate_table_plan){.kind = kind,
                                     .block_bytes = geometry->block_bytes,
                                     .block_count = geometry->block_count,
                                     .partition = draft->room.partition};
}

static bool all_are_known(const struct slate_layout *layout)
{
    return layout->found == layout->count && layout->chain == SLATE_CHAIN_WHOLE;
}

/* A GPT needs its blocks at both ends. Notes which partition is in the way, and
 * by how many blocks. */
static enum slate_status check_ends(const struct slate_mending *mending,
                                    uint64_t array)
{
    const struct slate_facts *facts = mending->facts;
    struct slate_draft *draft = mending->patching.draft;
    uint64_t first = 2 + array, end = facts->geometry.block_count - 1 - array;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role == SLATE_ROLE_EXTENDED)
            continue;
        draft->refused_block = one->number;
        if (one->first < first)
            return slate_mend_refuse(mending,
                                     "a partition begins where the GPT has to "
                                     "stand");
        if (one->first + one->count > end)
            return slate_mend_refuse(mending,
                                     "a partition ends where the second copy "
                                     "of the GPT has to stand");
    }
    draft->refused_block = 0;
    return SLATE_OK;
}

/* The entry of a partition as it is in the other table. */
static void fill_gpt(const struct slate_mending *mending, uint32_t i,
                     uint32_t at, struct slate_partition *partition)
{
    const struct slate_facts *facts = mending->facts;
    const struct slate_partition *old = &facts->partition[i];
    const struct slate_volume *volume = &facts->volume[i];

    memset(partition, 0, sizeof *partition);
    partition->number = at + 1;
    partition->first = old->first;
    partition->count = old->count;
    partition->type = *slate_type_as_gpt(facts, i);
    partition->attributes = old->active ? BOOTABLE : 0;
    guid_of(mending->patching.draft, "partition id", at, &partition->id);
    if (slate_volume_is_known(volume->kind))
        memcpy(partition->name, volume->label, sizeof volume->label);
}

_Static_assert(SLATE_LABEL_ROOM <= SLATE_PARTITION_NAME_ROOM,
               "a label is a name");

static enum slate_status put_blocks(const struct slate_mending *mending,
                                    const struct slate_table_plan *plan,
                                    uint64_t first, uint64_t count, bool backup)
{
    enum slate_status status = SLATE_OK;

    for (uint64_t i = 0; i < count && status == SLATE_OK; i++) {
        uint8_t *block;

        status = slate_mend_block(
            mending, first + i,
            backup ? SLATE_MOMENT_TABLE_COPY : SLATE_MOMENT_TABLE,
            backup ? SLATE_PATCH_TABLE_COPY : SLATE_PATCH_TABLE, &block);
        if (status == SLATE_OK)
            status = slate_gpt_composer.fill(plan, first + i, 1, block);
    }
    return status;
}

/* Partitions in the order of their blocks, without containers. */
static enum slate_status
gather(const struct slate_mending *mending, struct slate_table_plan *plan,
       uint32_t most,
       void (*fill)(const struct slate_mending *mending, uint32_t i,
                    uint32_t at, struct slate_partition *partition))
{
    const struct slate_facts *facts = mending->facts;
    struct slate_draft *draft = mending->patching.draft;
    uint64_t reached = 0;

    for (;;) {
        const struct slate_partition *next = NULL;

        for (uint32_t i = 0; i < facts->layout.count; i++) {
            const struct slate_partition *one = &facts->partition[i];

            if (one->role != SLATE_ROLE_EXTENDED && one->first >= reached &&
                (next == NULL || one->first < next->first))
                next = one;
        }
        if (next == NULL)
            return SLATE_OK;
        if (plan->count == most || plan->count == draft->room.parts)
            return slate_mend_refuse(mending,
                                     "there are more partitions than the other "
                                     "table has entries");
        fill(mending, (uint32_t)(next - facts->partition), plan->count,
             &draft->room.partition[plan->count]);
        plan->count++;
        reached = next->first + next->count;
    }
}

enum slate_status slate_mend_to_gpt(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    struct slate_table_plan plan = plan_for(mending, SLATE_TABLE_GPT);
    uint64_t array = slate_gpt_array_blocks(0, plan.block_bytes);
    enum slate_status status;
    uint8_t *block;

    if (facts->layout.kind != SLATE_TABLE_MBR || facts->layout.protective)
        return slate_mend_refuse(mending, "there is no MBR to convert");
    if (!all_are_known(&facts->layout) ||
        (slate_layout_check(&facts->layout, plan.block_count) &
         (SLATE_LAYOUT_OVERLAP | SLATE_LAYOUT_BEYOND_END)) != 0)
        return slate_mend_refuse(mending,
                                 "the table that is there is not sound");
    if (plan.block_count < 2 * array + 8)
        return slate_mend_refuse(mending, "the device is too small for a GPT");
    status = check_ends(mending, array);
    if (status == SLATE_OK)
        status = gather(mending, &plan, SLATE_GPT_ENTRIES, fill_gpt);
    guid_of(mending->patching.draft, "disk id", 0, &plan.disk_id);
    if (status == SLATE_OK)
        status = put_blocks(mending, &plan, plan.block_count - 1 - array,
                            array + 1, true);
    if (status == SLATE_OK)
        status = put_blocks(mending, &plan, 1, array + 1, false);
    if (status == SLATE_OK)
        status = slate_mend_block(mending, 0, SLATE_MOMENT_COMMIT,
                                  SLATE_PATCH_TABLE, &block);
    if (status == SLATE_OK)
        slate_mend_put_protective(mending, block);
    return status;
}

static void fill_mbr(const struct slate_mending *mending, uint32_t i,
                     uint32_t at, struct slate_partition *partition)
{
    const struct slate_facts *facts = mending->facts;
    const struct slate_partition *old = &facts->partition[i];

    memset(partition, 0, sizeof *partition);
    partition->number = at + 1;
    partition->first = old->first;
    partition->count = old->count;
    partition->mbr_type = slate_type_as_mbr(facts, i);
    partition->active = (old->attributes & BOOTABLE) != 0;
}

/* One active entry is what start-up code of the old kind expects. */
static void keep_one_active(struct slate_draft *draft, uint32_t count)
{
    bool any = false;

    for (uint32_t i = 0; i < count; i++) {
        struct slate_partition *one = &draft->room.partition[i];

        one->active = one->active && !any;
        any = any || one->active;
    }
}

static enum slate_status check_reach(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        mending->patching.draft->refused_block = one->number;
        if (one->first + one->count > MBR_BLOCKS)
            return slate_mend_refuse(mending,
                                     "a partition lies beyond what an MBR "
                                     "reaches");
    }
    mending->patching.draft->refused_block = 0;
    return SLATE_OK;
}

/* Block 0 with its code; a signature of its own, where none is there. */
static enum slate_status put_mbr(const struct slate_mending *mending,
                                 const struct slate_table_plan *plan)
{
    uint8_t code[SLATE_MBR_DISK_SIGNATURE + 4], derived[16];
    struct slate_table_plan with = *plan;
    uint8_t *block;
    enum slate_status status = slate_mend_block(mending, 0, SLATE_MOMENT_TABLE,
                                                SLATE_PATCH_TABLE, &block);

    if (status != SLATE_OK)
        return status;
    memcpy(code, block, sizeof code);
    slate_draft_derive(mending->patching.draft, "disk signature", 0, derived);
    with.disk_signature = slate_le32(code + SLATE_MBR_DISK_SIGNATURE);
    if (with.disk_signature == 0)
        with.disk_signature = slate_le32(derived);
    if (!slate_is_zero(code, SLATE_MBR_DISK_SIGNATURE)) {
        with.code = code;
        with.code_bytes = SLATE_MBR_DISK_SIGNATURE;
    }
    return slate_mbr_composer.fill(&with, 0, 1, block);
}

static enum slate_status clear_header(const struct slate_mending *mending,
                                      const struct slate_gpt_copy *copy)
{
    uint8_t *block;
    enum slate_status status = slate_mend_block(
        mending, copy->lba, SLATE_MOMENT_COMMIT, SLATE_PATCH_TABLE, &block);

    if (status == SLATE_OK)
        memset(block, 0, mending->facts->geometry.block_bytes);
    return status;
}

enum slate_status slate_mend_to_mbr(const struct slate_mending *mending)
{
    const struct slate_facts *facts = mending->facts;
    struct slate_table_plan plan = plan_for(mending, SLATE_TABLE_MBR);
    enum slate_status status;

    if (facts->layout.kind != SLATE_TABLE_GPT)
        return slate_mend_refuse(mending, "there is no GPT to convert");
    if (!all_are_known(&facts->layout) ||
        facts->layout.primary.state != SLATE_GPT_SOUND ||
        facts->layout.backup.state != SLATE_GPT_SOUND ||
        (slate_layout_check(&facts->layout, plan.block_count) &
         (SLATE_LAYOUT_OVERLAP | SLATE_LAYOUT_BEYOND_END)) != 0)
        return slate_mend_refuse(mending,
                                 "the table that is there is not sound");
    status = check_reach(mending);
    if (status == SLATE_OK)
        status = gather(mending, &plan, SLATE_MBR_PRIMARIES, fill_mbr);
    keep_one_active(mending->patching.draft, plan.count);
    if (status == SLATE_OK)
        status = put_mbr(mending, &plan);
    if (status == SLATE_OK)
        status = clear_header(mending, &facts->layout.backup);
    return status == SLATE_OK ? clear_header(mending, &facts->layout.primary)
                              : status;
}
