/* SPDX-License-Identifier: MIT */
/* Making a draft: its input becomes a table, volumes and a seal. */
#include "base/base.h"
#include "draft/make/make.h"
#include "draft/place/place.h"
#include "table/table.h"
#include "volume/files/files.h"
#include "volume/common/common.h"
#include "trueslate/draft.h"

/* What suits the use, where that reaches the whole device. */
static enum slate_table_kind advised_table(const struct slate_draft *draft)
{
    return draft->advice->table == SLATE_TABLE_MBR
               ? slate_table_choose(&draft->basis.geometry)
               : draft->advice->table;
}

static void choose_cylinders(struct slate_draft *draft)
{
    const struct slate_goal *goal = &draft->goal;

    if (!goal->cylinders && goal->heads == 0 && !draft->advice->cylinders)
        return;
    slate_table_cylinders(&draft->basis.geometry, goal->heads,
                          goal->track_sectors, &draft->grid);
    draft->table.heads = draft->grid.heads;
    draft->table.track_sectors = draft->grid.track_sectors;
}

uint64_t slate_draft_claimed(const struct slate_draft *draft)
{
    const struct slate_basis *basis = &draft->basis;

    return basis->claimed == 0 ? basis->geometry.block_count : basis->claimed;
}

static bool is_within(const struct slate_draft *draft)
{
    return draft->basis.geometry.block_count < slate_draft_claimed(draft);
}

/* Hosts look for the second copy of a GPT at the end of what is claimed, and
 * what stays was laid out for all of that. */
static enum slate_status check_within(struct slate_draft *draft)
{
    enum slate_table_kind table = draft->goal.table;

    if (!is_within(draft))
        return SLATE_OK;
    if (draft->switched)
        return slate_draft_refuse(
            draft, 0,
            "of a device that has less than it claims nothing can be kept");
    if (draft->goal.table_given && table == SLATE_TABLE_GPT)
        return slate_draft_refuse(
            draft, 0,
            "the second copy of a GPT would stand where the device claims to "
            "end, and has no blocks: an MBR, or no table, fits");
    if (!draft->goal.table_given && draft->table.kind == SLATE_TABLE_GPT)
        draft->table.kind = SLATE_TABLE_MBR;
    return SLATE_OK;
}

/* Which table, and is it made anew or changed? */
static enum slate_status begin_table(struct slate_draft *draft)
{
    struct slate_table_plan *table = &draft->table;
    const struct slate_basis *basis = &draft->basis;

    table->block_bytes = basis->geometry.block_bytes;
    table->block_count = basis->geometry.block_count;
    table->partition = draft->partition;
    draft->switched = false;
    draft->drops = false;
    draft->table_stays = false;
    draft->container = (struct slate_range){0, 0};
    draft->container_number = 0;
    draft->card = NULL;
    for (uint32_t i = 0; i < draft->parts; i++)
        draft->switched = draft->switched || draft->part[i].ask.keep != 0;
    slate_table_grid(&basis->geometry, &draft->grid);
    if (!draft->switched) {
        table->kind =
            draft->goal.table_given ? draft->goal.table : advised_table(draft);
        SLATE_TRY(check_within(draft));
        if (table->kind == SLATE_TABLE_MBR)
            choose_cylinders(draft);
        return SLATE_OK;
    }
    SLATE_TRY(check_within(draft));
    table->kind = basis->image_of;
    table->image = basis->image.byte;
    table->image_bytes = basis->image.count;
    if (basis->image.count == 0 || !slate_table_image_is_sound(table))
        return SLATE_ERR_ARGUMENT;
    if (slate_table_image_holds_links(table))
        draft->container_number =
            slate_table_image_container(table, &draft->container);
    if (draft->goal.table_given && draft->goal.table != basis->image_of)
        return slate_draft_refuse(
            draft, 0, "partitions can stay only under the table that is there");
    return slate_draft_check_kept(draft);
}

/* Data stays; beside what changes, volumes are new where nothing was. */
static enum slate_status make_change(struct slate_draft *draft)
{
    const struct slate_change *change = &draft->change;
    enum slate_status status = SLATE_OK;

    draft->patched = (struct slate_patch_plan){
        change->patch, change->patches, draft->basis.geometry.block_bytes,
        change->bytes.byte, false};
    draft->unpatched = draft->patched;
    draft->unpatched.former = true;
    draft->switched = true;
    draft->drops = false;
    draft->table_stays = false;
    draft->card = NULL;
    draft->container = (struct slate_range){0, 0};
    slate_table_grid(&draft->basis.geometry, &draft->grid);
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++)
        status = slate_draft_fill_volume(draft, i);
    return status;
}

/* The part that asks for something: on the one new volume that it is for, and
 * nowhere else. on: receives it; their number when none asks */
static enum slate_status find_asker(struct slate_draft *draft,
                                    bool (*asks)(const struct slate_ask *ask),
                                    uint32_t *on)
{
    *on = draft->parts;
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_ask *ask = &draft->part[i].ask;

        if (!asks(ask))
            continue;
        if (*on < draft->parts)
            return slate_draft_refuse(
                draft, i, "files and start-up code go on one volume alone");
        if (ask->bare || ask->keep != 0)
            return slate_draft_refuse(
                draft, i,
                "files and start-up code go on a new volume, and it has none");
        *on = i;
    }
    return SLATE_OK;
}

static bool asks_for_files(const struct slate_ask *ask)
{
    return ask->files;
}

static bool asks_for_start(const struct slate_ask *ask)
{
    return ask->start;
}

/* What is put on a volume is there, and can be. */
static enum slate_status check_content(struct slate_draft *draft)
{
    uint32_t on;

    SLATE_TRY(find_asker(draft, asks_for_start, &on));
    if ((on < draft->parts) != (draft->start.count > 0))
        return SLATE_ERR_ARGUMENT;
    SLATE_TRY(find_asker(draft, asks_for_files, &on));
    if ((on < draft->parts) != (draft->files.count > 0))
        return SLATE_ERR_ARGUMENT;
    draft->refused = on;
    return slate_files_check(&draft->files);
}

/* One entry more than parts: a container. There is a first part, even where
 * none is asked for. */
static enum slate_status make_room(struct slate_draft *draft)
{
    enum slate_status status = slate_draft_grow(
        draft, "partitions", &draft->part, draft->parts == 0 ? 1 : draft->parts,
        sizeof *draft->part);

    return status == SLATE_OK
               ? slate_draft_grow(draft, "partitions", &draft->partition,
                                  (uint64_t)draft->parts + 1,
                                  sizeof *draft->partition)
               : status;
}

/* All but its seal. */
static enum slate_status make_all(struct slate_draft *draft)
{
    enum slate_status status;

    draft->refused = 0;
    draft->why = NULL;
    SLATE_TRY(make_room(draft));
    memset(&draft->table, 0, sizeof draft->table);
    if (!slate_draft_input_is_possible(draft))
        return SLATE_ERR_USE;
    if (!slate_draft_block_size_is_possible(draft))
        return SLATE_ERR_BLOCK_SIZE;
    if (!slate_draft_basis_is_possible(draft))
        return SLATE_ERR_ARGUMENT;
    if (slate_draft_obstacle(draft) != SLATE_GUARD_KINDS)
        return SLATE_ERR_GUARD;
    draft->advice =
        slate_use_advice(draft->goal.use, draft->basis.device,
                         slate_geometry_bytes(&draft->basis.geometry));
    if (slate_draft_is_change(draft))
        return make_change(draft);
    if (draft->parts == 0 && !draft->goal.table_given)
        return slate_draft_refuse(
            draft, 0, "nothing is asked for: neither a partition nor a table");
    if (draft->basis.proved != 0 &&
        draft->basis.geometry.block_count > draft->basis.proved)
        return SLATE_ERR_CAPACITY;
    status = check_content(draft);
    SLATE_THEN(status, begin_table(draft));
    SLATE_THEN(status, slate_draft_check_overwrite(draft));
    SLATE_THEN(status, slate_draft_lay_out(draft));
    for (uint32_t i = 0; i < draft->parts && status == SLATE_OK; i++)
        status = slate_draft_fill_volume(draft, i);
    if (status == SLATE_OK && draft->switched)
        status = slate_draft_change_table(draft);
    if (status == SLATE_OK && !draft->switched)
        slate_draft_fill_table(draft);
    return status;
}

static enum slate_status seal(struct slate_draft *draft)
{
    slate_draft_seal(draft, draft->seal);
    return slate_draft_first_bad(draft, &draft->refused_block)
               ? SLATE_ERR_BAD_BLOCK
               : SLATE_OK;
}

enum slate_status slate_draft_make(struct slate_draft *draft)
{
    SLATE_TRY(make_all(draft));
    draft->form = SLATE_DRAFT_VERSION;
    slate_revisions_note(draft);
    return seal(draft);
}

enum slate_status slate_draft_make_again(struct slate_draft *draft)
{
    SLATE_TRY(make_all(draft));
    return slate_revisions_hold(draft) ? seal(draft) : SLATE_ERR_DRAFT_REVISION;
}

enum slate_status slate_draft_ask(struct slate_draft *draft,
                                  const struct slate_ask *ask)
{
    SLATE_TRY(slate_draft_grow(draft, "partitions", &draft->part,
                               (uint64_t)draft->parts + 1,
                               sizeof *draft->part));
    memset(&draft->part[draft->parts], 0, sizeof *draft->part);
    draft->part[draft->parts++].ask = *ask;
    return SLATE_OK;
}

/* Blocks that are known to be bad, as input of a draft. */

enum slate_status slate_draft_bad(struct slate_draft *draft, uint64_t first,
                                  uint64_t count)
{
    enum slate_status status = slate_bad_add(&draft->bad, first, count);

    if (status != SLATE_ERR_ROOM)
        return status;
    status = slate_draft_grow_ranges(draft, "bad blocks", &draft->bad,
                                     (uint64_t)draft->bad.count + 1);
    return status == SLATE_OK ? slate_bad_add(&draft->bad, first, count)
                              : status;
}

bool slate_draft_is_bad(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until)
{
    const struct slate_ranges *bad = &draft->bad;
    uint32_t i = slate_bad_from(bad, lba);
    bool is_bad = i < bad->count && bad->range[i].first <= lba;

    *until = i == bad->count ? UINT64_MAX
             : is_bad        ? bad->range[i].first + bad->range[i].count
                             : bad->range[i].first;
    return is_bad;
}

/* Is a block that something is written to a bad one? */
static bool holds_bad(const struct slate_draft *draft,
                      const struct slate_extent *extent, uint64_t *block)
{
    *block = extent->first;
    if (slate_draft_is_bad(draft, extent->first, block)) {
        *block = extent->first;
        return true;
    }
    return *block - extent->first < extent->count;
}

bool slate_draft_first_bad(const struct slate_draft *draft, uint64_t *block)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;

    while (draft->bad.count > 0 && slate_draft_next(draft, &walk, &extent)) {
        if (holds_bad(draft, &extent, block))
            return true;
    }
    return false;
}

/* What protects a device, and what a draft does about it. */

static uint32_t deliberate_ones(uint32_t guards)
{
    uint32_t found = 0;

    for (uint32_t kind = 0; kind < SLATE_GUARD_KINDS; kind++) {
        if (slate_guard_is_deliberate((enum slate_guard_kind)kind))
            found |= guards & SLATE_GUARD_BIT(kind);
    }
    return found;
}

uint32_t slate_draft_obstacle(const struct slate_draft *draft)
{
    const struct slate_basis *basis = &draft->basis;
    uint32_t unnamed = deliberate_ones(basis->guards) & ~draft->goal.lift;
    uint32_t in_the_way = basis->firm != 0 ? basis->firm : unnamed;
    uint32_t kind = 0;

    while (kind < SLATE_GUARD_KINDS &&
           (in_the_way & SLATE_GUARD_BIT(kind)) == 0)
        kind++;
    return kind;
}

bool slate_draft_lift(const struct slate_draft *draft, uint32_t index,
                      enum slate_guard_kind *kind, struct slate_text *text)
{
    for (uint32_t i = 0; i < SLATE_GUARD_KINDS; i++) {
        enum slate_guard_kind one = (enum slate_guard_kind)i;

        if ((draft->basis.guards & SLATE_GUARD_BIT(i)) == 0 || index-- != 0)
            continue;
        if (kind != NULL)
            *kind = one;
        SLATE_SAY(text, "lift {}{}", AS_TEXT(slate_guard_name(one)),
                  AS_TEXT(slate_guard_lift_lasts(one, draft->goal.lasting)
                              ? ", for good"
                              : ", until the power goes"));
        return true;
    }
    return false;
}
