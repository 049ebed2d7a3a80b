/* SPDX-License-Identifier: MIT */
/* A whole table that is put around partitions which are there: all of its
 * blocks, and new parts in the largest run that they leave. */

#include "base/base.h"
#include "draft/make/make.h"
#include "draft/place/place.h"
#include "draft/mend/mend.h"
#include "table/table.h"

void slate_mend_guid(const struct slate_draft *draft, const char *purpose,
                     uint32_t part, struct slate_guid *guid)
{
    uint8_t bytes[16];

    slate_draft_derive(draft, purpose, part, bytes);
    slate_guid_random(bytes, guid);
}

struct slate_table_plan slate_mend_plan(const struct slate_mending *mending,
                                        enum slate_table_kind kind)
{
    const struct slate_draft *draft = mending->patching.draft;
    const struct slate_geometry *geometry = &mending->facts->geometry;

    return (struct slate_table_plan){.kind = kind,
                                     .block_bytes = geometry->block_bytes,
                                     .block_count = geometry->block_count,
                                     .partition = draft->partition};
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

/* What follows a block that new content may not touch: containers as a whole,
 * since the links in them count until the new table does. NULL: nothing. */
static const struct slate_partition *
occupied_from(const struct slate_facts *facts, uint64_t reached)
{
    const struct slate_partition *next = NULL;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role != SLATE_ROLE_LOGICAL &&
            one->first + one->count > reached &&
            (next == NULL || one->first < next->first))
            next = one;
    }
    return next;
}

/* The largest run that is free, on the grid of new partitions. */
static struct slate_range largest_gap(const struct slate_mending *mending,
                                      const struct slate_table_plan *plan)
{
    const struct slate_facts *facts = mending->facts;
    uint64_t unit = mending->patching.draft->grid.unit, reached, end;
    struct slate_range usable, gap, largest = {0, 0};
    const struct slate_partition *next;

    slate_table_usable(plan->kind, 0, &facts->geometry, &usable);
    end = usable.first + usable.count;
    reached = usable.first;
    if (facts->layout.kind == SLATE_TABLE_GPT) { /* its blocks are changed */
        const struct slate_gpt_copy *copy = &facts->layout.primary;

        reached = copy->first_usable > reached ? copy->first_usable : reached;
        end = copy->last_usable < end ? copy->last_usable + 1 : end;
    }
    do {
        uint64_t until;

        next = occupied_from(facts, reached);
        until = next == NULL || next->first > end ? end : next->first;
        gap.first = (reached + unit - 1) / unit * unit;
        until = until / unit * unit;
        gap.count = until > gap.first ? until - gap.first : 0;
        if (gap.count > largest.count)
            largest = gap;
        reached = next == NULL ? end : next->first + next->count;
    } while (next != NULL);
    return largest;
}

/* What new parts are planned by, ahead of slate_draft_make. */
static enum slate_status lay_out(const struct slate_mending *mending,
                                 const struct slate_table_plan *plan)
{
    struct slate_draft *draft = mending->patching.draft;
    struct slate_range gap;
    enum slate_status status = SLATE_OK;

    draft->table = *plan;
    draft->switched = true;
    draft->container.count = 0;
    draft->card = NULL;
    draft->advice =
        slate_use_advice(draft->goal.use, draft->basis.device,
                         slate_geometry_bytes(&draft->basis.geometry));
    slate_table_grid(&draft->basis.geometry, &draft->grid);
    gap = largest_gap(mending, plan);
    status = slate_draft_lay_out_in(draft, &gap);
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++) {
        draft->part[i].ask.placed = true;
        status = slate_draft_fill_volume(draft, i);
    }
    return status;
}

/* They stand behind those that are there. */
static enum slate_status add_parts(const struct slate_mending *mending,
                                   struct slate_table_plan *plan)
{
    struct slate_draft *draft = mending->patching.draft;
    enum slate_status status;

    if (draft->parts == 0)
        return SLATE_OK;
    if (plan->count + draft->parts > (plan->kind == SLATE_TABLE_MBR
                                          ? SLATE_MBR_PRIMARIES
                                          : SLATE_GPT_ENTRIES))
        return slate_draft_refuse(draft, draft->parts - 1,
                                  "the table has no entry left for it");
    status = lay_out(mending, plan);
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++) {
        struct slate_partition *partition = &draft->partition[plan->count];

        slate_draft_fill_partition(draft, i, partition);
        partition->number = ++plan->count;
        if (plan->kind == SLATE_TABLE_GPT)
            slate_mend_guid(draft, "partition id", partition->number - 1,
                            &partition->id);
    }
    return status;
}

enum slate_status
slate_mend_gather(const struct slate_mending *mending,
                  struct slate_table_plan *plan,
                  void (*fill)(const struct slate_mending *mending, uint32_t i,
                               struct slate_partition *partition))
{
    const struct slate_facts *facts = mending->facts;
    struct slate_draft *draft = mending->patching.draft;
    const struct slate_partition *next = next_of(facts, 0);
    enum slate_status status =
        slate_draft_grow(draft, "partitions", &draft->partition,
                         (uint64_t)facts->layout.count + draft->parts + 1,
                         sizeof *draft->partition);

    SLATE_TRY(status);
    plan->partition = draft->partition;
    while (next != NULL) {
        struct slate_partition *partition = &draft->partition[plan->count];

        memset(partition, 0, sizeof *partition);
        partition->number = ++plan->count;
        partition->first = next->first;
        partition->count = next->count;
        fill(mending, (uint32_t)(next - facts->partition), partition);
        next = next_of(facts, next->first + next->count);
    }
    return add_parts(mending, plan);
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
        SLATE_THEN(status, slate_gpt_composer.fill(plan, first + i, 1, block));
    }
    return status;
}

enum slate_status slate_mend_put_gpt(const struct slate_mending *mending,
                                     struct slate_table_plan *plan)
{
    uint64_t copy = 1 + slate_gpt_array_blocks(0, plan->block_bytes);
    enum slate_status status;
    uint8_t *block;

    slate_mend_guid(mending->patching.draft, "disk id", 0, &plan->disk_id);
    status = put_blocks(mending, plan, plan->block_count - copy, copy);
    SLATE_THEN(status, put_blocks(mending, plan, 1, copy));
    SLATE_THEN(status, slate_mend_block(mending, 0, SLATE_MOMENT_COMMIT,
                                        SLATE_PATCH_TABLE, &block));
    SLATE_TRY(status);
    if (mending->facts->layout.kind == SLATE_TABLE_NONE)
        memset(block, 0, plan->block_bytes); /* what is there is no code */
    slate_mend_put_protective(mending, block);
    return status;
}

/* Block 0 with its code; a signature of its own, where none is there. */
enum slate_status slate_mend_put_mbr(const struct slate_mending *mending,
                                     struct slate_table_plan *plan)
{
    uint8_t code[SLATE_MBR_DISK_SIGNATURE + 4], derived[16];
    uint8_t *block;
    enum slate_status status;

    SLATE_TRY(slate_mend_block(mending, 0, SLATE_MOMENT_TABLE,
                               SLATE_PATCH_TABLE, &block));
    memcpy(code, block, sizeof code);
    slate_draft_derive(mending->patching.draft, "disk signature", 0, derived);
    plan->disk_signature = slate_le32(code + SLATE_MBR_DISK_SIGNATURE);
    if (plan->disk_signature == 0)
        plan->disk_signature = slate_le32(derived);
    if (mending->facts->layout.kind != SLATE_TABLE_NONE &&
        !slate_is_zero(code, SLATE_MBR_DISK_SIGNATURE)) {
        plan->code = code;
        plan->code_bytes = SLATE_MBR_DISK_SIGNATURE;
    }
    status = slate_mbr_composer.fill(plan, 0, 1, block);
    plan->code = NULL;
    return status;
}
