/* SPDX-License-Identifier: MIT */
/* Another table over the same partitions: everything of it is there before the
 * one block is written that makes it count, block 0. */
#include <string.h>

#include "assess/judge/judge.h"
#include "base/base.h"
#include "draft/mend/mend.h"
#include "table/table.h"

/* UEFI 2.10, table 5.8: firmware of the old kind may start from it. */
#define BOOTABLE ((uint64_t)1 << 2)

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
    slate_mend_guid(mending->patching.draft, "partition id",
                    partition->number - 1, &partition->id);
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

enum slate_status slate_mend_to_gpt(const struct slate_mending *mending)
{
    struct slate_table_plan plan = slate_mend_plan(mending, SLATE_TABLE_GPT);
    enum slate_status status = slate_mend_gather(mending, &plan, fill_gpt);

    return status == SLATE_OK ? slate_mend_put_gpt(mending, &plan) : status;
}

/* One active entry is what start-up code of the old kind expects. */
static void keep_one_active(struct slate_draft *draft, uint32_t count)
{
    bool any = false;

    for (uint32_t i = 0; i < count; i++) {
        struct slate_partition *one = &draft->partition[i];

        one->active = one->active && !any;
        any = any || one->active;
    }
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
    struct slate_table_plan plan = slate_mend_plan(mending, SLATE_TABLE_MBR);
    enum slate_status status = slate_mend_gather(mending, &plan, fill_mbr);

    keep_one_active(mending->patching.draft, plan.count);
    SLATE_THEN(status, slate_mend_put_mbr(mending, &plan));
    SLATE_THEN(status, clear_header(mending, &layout->backup));
    return status == SLATE_OK ? clear_header(mending, &layout->primary)
                              : status;
}
