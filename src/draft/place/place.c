/* SPDX-License-Identifier: MIT */
/* Where the parts of a draft go on the device: one after the other, each from
 * an aligned block to the next. */
#include "base/base.h"
#include "draft/place/place.h"

#include "table/table.h"

#define WHOLE_SHARE 1000u

/* The first logical partition of a new table: an MBR has four entries, of more
 * partitions all but the first three are logical ones, in a container. */
static uint32_t first_logical(const struct slate_draft *draft)
{
    if (draft->table.kind != SLATE_TABLE_MBR)
        return draft->parts;
    for (uint32_t i = 0; i < draft->parts && i < SLATE_MBR_PRIMARIES; i++) {
        if (draft->part[i].ask.standing == SLATE_STANDING_LOGICAL)
            return i;
    }
    return draft->parts > SLATE_MBR_PRIMARIES ? SLATE_MBR_PRIMARIES - 1
                                              : draft->parts;
}

bool slate_draft_is_logical(const struct slate_draft *draft, uint32_t part)
{
    if (!draft->switched)
        return part >= first_logical(draft);
    return slate_range_holds(&draft->container, draft->part[part].range.first);
}

uint32_t slate_draft_logical(const struct slate_draft *draft)
{
    uint32_t logical = 0;

    if (!draft->switched)
        return draft->parts - first_logical(draft);
    for (uint32_t i = 0; i < draft->parts; i++)
        logical += slate_draft_is_logical(draft, i) ? 1u : 0u;
    return logical;
}

const struct slate_partition *slate_draft_entry(const struct slate_draft *draft,
                                                uint32_t part)
{
    if (draft->table.kind == SLATE_TABLE_NONE)
        return NULL;
    return &draft->partition[part + (!draft->switched &&
                                             slate_draft_is_logical(draft, part)
                                         ? 1u /* the container */
                                         : 0u)];
}

/* What stands ahead of a part in its room. */
static uint64_t lead_of(const struct slate_draft *draft, uint32_t part)
{
    if (slate_draft_is_logical(draft, part))
        return draft->grid.link;
    return part == 0 ? draft->grid.lead : 0;
}

static uint64_t align_up(uint64_t block, uint64_t align)
{
    return (block + align - 1) / align * align;
}

/* So many blocks at most, so that lead and blocks fill whole units. */
static uint64_t whole_units(uint64_t blocks, uint64_t lead, uint64_t unit)
{
    uint64_t units = (blocks + lead) / unit * unit;

    return units > lead ? units - lead : 0;
}

/* What is to be shared out, and how. */
struct share_out {
    uint64_t room, unit, left; /* blocks */
    uint32_t block_bytes;
    uint32_t rest; /* the part that gets what is left; none: all of them */
};

enum slate_status slate_draft_refuse(struct slate_draft *draft, uint32_t part,
                                     const char *why)
{
    draft->refused = part;
    draft->why = why;
    return SLATE_ERR_PARTS;
}

/* Is every size one that could be meant, and at most one of them the rest?
 * Shares that make up the whole leave the last of them the rest. */
static enum slate_status check_sizes(struct slate_draft *draft, uint32_t *rest)
{
    uint64_t shares = 0;
    uint32_t shared = 0;

    *rest = draft->parts;
    for (uint32_t i = 0; i < draft->parts; i++) {
        const struct slate_ask *ask = &draft->part[i].ask;

        draft->refused = i;
        if (ask->keep != 0)
            continue;
        if (ask->size_kind != SLATE_SIZE_REST && ask->size == 0)
            return SLATE_ERR_TOO_SMALL;
        if (ask->size_kind == SLATE_SIZE_REST && *rest != draft->parts)
            return slate_draft_refuse(draft, i,
                                      "two partitions ask for the rest");
        if (ask->size_kind == SLATE_SIZE_REST)
            *rest = i;
        if (ask->size_kind != SLATE_SIZE_SHARE)
            continue;
        shared++;
        if (ask->size > WHOLE_SHARE - shares)
            return slate_draft_refuse(draft, i,
                                      "the shares add up to more than all");
        shares += ask->size;
    }
    if (shared == draft->parts && shares == WHOLE_SHARE)
        *rest = draft->parts - 1;
    return SLATE_OK;
}

/* In blocks: what is asked for in bytes is met, and passed by less than one
 * alignment; a share is not passed. */
static uint64_t asked_blocks(const struct slate_ask *ask, uint64_t lead,
                             const struct share_out *out)
{
    uint64_t blocks;

    if (ask->size_kind == SLATE_SIZE_SHARE)
        return whole_units(out->room / WHOLE_SHARE * ask->size +
                               out->room % WHOLE_SHARE * ask->size /
                                   WHOLE_SHARE,
                           lead, out->unit);
    blocks = ask->size / out->block_bytes;
    blocks += ask->size % out->block_bytes != 0;
    return blocks > out->left ? UINT64_MAX
                              : align_up(blocks + lead, out->unit) - lead;
}

/* Only the end of the room may cut what alignment adds. */
static enum slate_status share_out(struct slate_draft *draft,
                                   struct share_out *out)
{
    for (uint32_t i = 0; i < draft->parts; i++) {
        struct slate_part *part = &draft->part[i];
        uint64_t blocks =
            i == out->rest ? 0
                           : asked_blocks(&part->ask, lead_of(draft, i), out);

        draft->refused = i;
        if (i != out->rest && (blocks == 0 || blocks >= out->left + out->unit))
            return SLATE_ERR_TOO_SMALL;
        part->range.count = blocks < out->left ? blocks : out->left;
        out->left -= part->range.count;
    }
    if (out->rest == draft->parts)
        return SLATE_OK;
    draft->refused = out->rest;
    if (out->rest + 1 < draft->parts)
        out->left =
            whole_units(out->left, lead_of(draft, out->rest), out->unit);
    draft->part[out->rest].range.count = out->left;
    return out->left > 0 ? SLATE_OK : SLATE_ERR_TOO_SMALL;
}

/* Without a table there is one part, and it is all of the device. */
static enum slate_status lay_out_whole(struct slate_draft *draft)
{
    struct slate_part *part = &draft->part[0];

    if (draft->parts != 1 || part->ask.size_kind != SLATE_SIZE_REST ||
        (part->ask.bare && draft->goal.overwrite.rounds == 0))
        return slate_draft_refuse(
            draft, draft->parts > 1 ? 1 : 0,
            "without a table there is one volume, over the whole device");
    part->range.first = 0;
    part->range.count = draft->basis.geometry.block_count;
    return SLATE_OK;
}

static enum slate_status lay_out_in(struct slate_draft *draft,
                                    const struct slate_range *room,
                                    uint32_t rest)
{
    struct share_out out = {room->count, draft->grid.unit, room->count,
                            draft->basis.geometry.block_bytes, rest};
    uint64_t first = room->first;
    enum slate_status status;

    for (uint32_t i = 0; i < draft->parts; i++) {
        uint64_t lead = lead_of(draft, i);

        draft->refused = i;
        if (lead > out.left)
            return SLATE_ERR_TOO_SMALL;
        out.left -= lead;
    }
    status = share_out(draft, &out);
    for (uint32_t i = 0; i < draft->parts; i++) {
        first += lead_of(draft, i);
        draft->part[i].range.first = first;
        first += draft->part[i].range.count;
    }
    return status;
}

/* Can one of them be active? */
static enum slate_status check_active(struct slate_draft *draft)
{
    bool active = false;

    for (uint32_t i = 0; i < draft->parts; i++) {
        if (!draft->part[i].ask.active)
            continue;
        if (draft->table.kind != SLATE_TABLE_MBR)
            return slate_draft_refuse(draft, i,
                                      "only an MBR has an active partition");
        if (active || (!draft->switched && slate_draft_is_logical(draft, i)) ||
            draft->part[i].ask.standing == SLATE_STANDING_LOGICAL)
            return slate_draft_refuse(
                draft, i, "one partition can be active, and no logical one");
        active = true;
    }
    return SLATE_OK;
}

/* Can each of them stand where it is asked for? */
static enum slate_status check_standing(struct slate_draft *draft)
{
    uint32_t first = draft->switched ? draft->parts : first_logical(draft);

    for (uint32_t i = 0; i < draft->parts; i++) {
        enum slate_standing standing = draft->part[i].ask.standing;

        if (standing == SLATE_STANDING_FITS)
            continue;
        if (draft->table.kind != SLATE_TABLE_MBR ||
            draft->part[i].ask.keep != 0)
            return slate_draft_refuse(
                draft, i,
                "only new partitions of an MBR are primary or logical ones");
        if (standing == SLATE_STANDING_PRIMARY && i >= first)
            return slate_draft_refuse(draft, i,
                                      "behind logical partitions, and as a "
                                      "fourth of more, stands no primary one");
    }
    return SLATE_OK;
}

/* How many entries does a new table have? */
static enum slate_status check_entries(struct slate_draft *draft)
{
    uint32_t asked = draft->goal.entries;
    uint32_t entries = asked == 0 ? SLATE_GPT_ENTRIES : asked;

    if (draft->table.kind != SLATE_TABLE_GPT || draft->switched)
        return asked == 0
                   ? SLATE_OK
                   : slate_draft_refuse(
                         draft, 0, "only a new GPT has a number of entries");
    if (asked == 0 && draft->parts > entries) /* in whole blocks of any size */
        entries = (draft->parts + 31) / 32 * 32;
    if (draft->parts > entries || entries > SLATE_GPT_ENTRIES_MOST)
        return slate_draft_refuse(draft, draft->parts - 1,
                                  "the table has no entry left for it");
    draft->table.entries = entries;
    draft->grid.entries = entries;
    return SLATE_OK;
}

enum slate_status slate_draft_lay_out_in(struct slate_draft *draft,
                                         const struct slate_range *room)
{
    uint32_t rest;
    enum slate_status status = check_active(draft);

    SLATE_THEN(status, check_standing(draft));
    SLATE_THEN(status, slate_draft_check_asked(draft));
    SLATE_THEN(status, check_sizes(draft, &rest));
    return status == SLATE_OK ? lay_out_in(draft, room, rest) : status;
}

enum slate_status slate_draft_lay_out(struct slate_draft *draft)
{
    struct slate_range room;
    uint32_t rest;
    enum slate_status status = check_active(draft);

    SLATE_THEN(status, check_standing(draft));
    SLATE_THEN(status, check_entries(draft));
    SLATE_THEN(status, slate_draft_check_asked(draft));

    SLATE_THEN(status, check_sizes(draft, &rest));
    SLATE_TRY(status);
    if (draft->table.kind == SLATE_TABLE_NONE)
        return lay_out_whole(draft);
    draft->refused = 0;
    if (draft->switched) {
        slate_table_image_usable(&draft->table, &room);
        return slate_draft_lay_out_around(draft, &room);
    }
    draft->card = slate_draft_card(draft);
    if (draft->card != NULL &&
        slate_draft_card_place(draft->card, draft, &draft->part[0].range))
        return SLATE_OK;
    draft->card = NULL;
    status = slate_table_place(draft->table.kind, &draft->basis.geometry,
                               &draft->grid, &room);
    return status == SLATE_OK ? lay_out_in(draft, &room, rest) : status;
}
