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

_Static_assert(SLATE_LABEL_ROOM <= SLATE_PARTITION_NAME_ROOM,
               "a label is a name");

/* The entry of a partition as it is in the other table. */
static void fill_gpt(const struct slate_mending *mending, uint32_t i,
                     struct slate_partition *partition)
{
    const struct slate_facts *facts = mending->facts;
    const struct slate_volume *volume = &facts->volume[i];

    partition->type = *slate_type_as_gpt(facts, i);
    partition->attributes = facts->partition[i].active ? BOOTABLE : 0;
    guid_of(mending->patching.draft, "partition id", partition->number - 1,
            &partition->id);
    if (slate_volume_is_known(volume->kind))
        memcpy(partition->name, volume->label, sizeof volume->label);
}

static void fill_mbr(const struct slate_mending *mending, uint32_t i,
                     struct slate_partition *partition)
{
    const struct slate_facts *facts = mending->facts;

    partition->mbr_type = slate_type_as_mbr(facts, i);
    partition->active = (facts->partition[i].attributes & BOOTABLE) != 0;
}

/* The partition that follows a block, without containers; NULL: none does. */
static const struct slate_partition *next_of(const struct slate_facts *facts,
                                             uint64_t reached)
{
    const struct slate_partition *next = NULL;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role != SLATE_ROLE_EXTENDED && one->first >= reached &&
            (next == NULL || one->first < next->first))
            next = one;
    }
    return next;
}

/* All of them in the order of their blocks. */
static enum slate_status
gather(const struct slate_mending *mending, struct slate_table_plan *plan,
       void (*fill)(const struct slate_mending *mending, uint32_t i,
                    struct slate_partition *partition))
{
    const struct slate_facts *facts = mending->facts;
    struct slate_draft *draft = mending->patching.draft;
    const struct slate_partition *next = next_of(facts, 0);

    while (next != NULL) {
        struct slate_partition *partition = &draft->room.partition[plan->count];

        if (plan->count == draft->room.parts)
            return SLATE_ERR_BUFFER;
        memset(partition, 0, sizeof *partition);
        partition->number = ++plan->count;
        partition->first = next->first;
        partition->count = next->count;
        fill(mending, (uint32_t)(next - facts->partition), partition);
        next = next_of(facts, next->first + next->count);
    }
    return SLATE_OK;
}

static enum slate_status put_blocks(const struct slate_mending *mending,
                                    const struct slate_table_plan *plan,
                                    uint64_t first, uint64_t count)
{
    bool backup = first > 1;
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

enum slate_status slate_mend_to_gpt(const struct slate_mending *mending)
{
    struct slate_table_plan plan = plan_for(mending, SLATE_TABLE_GPT);
    uint64_t copy = 1 + slate_gpt_array_blocks(0, plan.block_bytes);
    enum slate_status status = gather(mending, &plan, fill_gpt);
    uint8_t *block;

    guid_of(mending->patching.draft, "disk id", 0, &plan.disk_id);
    if (status == SLATE_OK)
        status = put_blocks(mending, &plan, plan.block_count - copy, copy);
    if (status == SLATE_OK)
        status = put_blocks(mending, &plan, 1, copy);
    if (status == SLATE_OK)
        status = slate_mend_block(mending, 0, SLATE_MOMENT_COMMIT,
                                  SLATE_PATCH_TABLE, &block);
    if (status == SLATE_OK)
        slate_mend_put_protective(mending, block);
    return status;
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

/* Block 0 with its code; a signature of its own, where none is there. */
static enum slate_status put_mbr(const struct slate_mending *mending,
                                 struct slate_table_plan *plan)
{
    uint8_t code[SLATE_MBR_DISK_SIGNATURE + 4], derived[16];
    uint8_t *block;
    enum slate_status status = slate_mend_block(mending, 0, SLATE_MOMENT_TABLE,
                                                SLATE_PATCH_TABLE, &block);

    if (status != SLATE_OK)
        return status;
    memcpy(code, block, sizeof code);
    slate_draft_derive(mending->patching.draft, "disk signature", 0, derived);
    plan->disk_signature = slate_le32(code + SLATE_MBR_DISK_SIGNATURE);
    if (plan->disk_signature == 0)
        plan->disk_signature = slate_le32(derived);
    if (!slate_is_zero(code, SLATE_MBR_DISK_SIGNATURE)) {
        plan->code = code;
        plan->code_bytes = SLATE_MBR_DISK_SIGNATURE;
    }
    status = slate_mbr_composer.fill(plan, 0, 1, block);
    plan->code = NULL;
    return status;
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

/* The GPT counts until block 0 is another one; then its headers go. */
enum slate_status slate_mend_to_mbr(const struct slate_mending *mending)
{
    const struct slate_layout *layout = &mending->facts->layout;
    struct slate_table_plan plan = plan_for(mending, SLATE_TABLE_MBR);
    enum slate_status status = gather(mending, &plan, fill_mbr);

    keep_one_active(mending->patching.draft, plan.count);
    if (status == SLATE_OK)
        status = put_mbr(mending, &plan);
    if (status == SLATE_OK)
        status = clear_header(mending, &layout->backup);
    return status == SLATE_OK ? clear_header(mending, &layout->primary)
                              : status;
}
