/* SPDX-License-Identifier: MIT */
/* The volume of a new part: which format, and its plan. */

#include "draft/place/place.h"
#include "table/table.h"
#include "volume/common/common.h"

/* The first volume that is advised, can be composed, and fits. */
static bool take_advice(const struct slate_draft *draft,
                        struct slate_part *part, const struct slate_wish *wish)
{
    const struct slate_advice *advice =
        slate_use_advice(draft->goal.use, draft->basis.device,
                         part->range.count * draft->basis.geometry.block_bytes);

    for (uint32_t i = 0; i < SLATE_WAYS; i++) {
        const struct slate_way *way = &advice->way[i];
        enum slate_status status;

        if (way->volume == SLATE_VOLUME_NONE)
            break;
        status =
            slate_format_plan(way->volume, wish, &part->format, &part->volume);
        if (status == SLATE_ERR_BAD_BLOCK)
            return false; /* another one might do, but it is not advised */
        if (status != SLATE_OK)
            continue;
        part->way = way;
        return true;
    }
    return false;
}

/* What is advised of a kind of volume that is settled already. */
static const struct slate_way *advised_way(const struct slate_draft *draft,
                                           const struct slate_part *part,
                                           enum slate_volume_kind volume)
{
    for (uint32_t i = 0; i < SLATE_WAYS; i++) {
        const struct slate_way *way = &draft->advice->way[i];

        if (part->ask.volume == SLATE_VOLUME_NONE && way->volume == volume)
            return way;
    }
    return NULL;
}

/* Does a volume stumble over a run of bad blocks that is the only one? */
static bool stumbles(enum slate_volume_kind kind, const struct slate_wish *wish,
                     struct slate_range *run)
{
    const struct slate_ranges one = {run, 1, 1};
    struct slate_wish alone = *wish;
    const struct slate_format *format;
    union slate_volume_plan plan;

    alone.bad = &one;
    alone.files = NULL;
    return slate_format_plan(kind, &alone, &format, &plan) ==
           SLATE_ERR_BAD_BLOCK;
}

/* The bad block that a volume stumbled over; the first one of its room, where
 * none of them alone is in the way. */
static enum slate_status note_bad(struct slate_draft *draft,
                                  const struct slate_part *part,
                                  const struct slate_wish *wish,
                                  enum slate_status status)
{
    uint64_t until, first = part->range.first;

    if (status != SLATE_ERR_BAD_BLOCK)
        return status;
    draft->refused_block =
        slate_draft_is_bad(draft, first, &until) ? first : until;
    for (uint32_t i = 0; wish->bad != NULL && i < wish->bad->count; i++) {
        struct slate_range *run = &wish->bad->range[i];

        if (run->first + run->count > first &&
            stumbles(part->format->kind, wish, run)) {
            draft->refused_block = run->first > first ? run->first : first;
            break;
        }
    }
    return status;
}

enum slate_status slate_draft_fill_volume(struct slate_draft *draft, uint32_t i)
{
    struct slate_part *part = &draft->part[i];
    struct slate_wish wish = {
        .range = part->range,
        .block_bytes = draft->basis.geometry.block_bytes,
        .cluster_bytes = part->ask.cluster_bytes,
        .align_bytes = draft->grid.heads != 0
                           ? 0
                           : slate_table_align(&draft->basis.geometry),
        .heads = draft->grid.heads,
        .track_sectors = draft->grid.track_sectors,
        .stamp = draft->choices.stamp,
        .label = part->ask.label,
        .shared = draft->basis.device == SLATE_DEVICE_STICK ||
                  draft->basis.device == SLATE_DEVICE_CARD,
        .no_journal = part->ask.no_journal,
        .bad = &draft->bad,
        .start = part->ask.start ? &draft->start : NULL,
        .files = part->ask.files ? &draft->files : NULL};

    part->format = NULL;
    part->way = NULL;
    draft->refused = i;
    if (part->ask.bare || part->ask.keep != 0)
        return SLATE_OK;
    slate_draft_derive(draft, "volume serial", i, wish.id);
    if (draft->card != NULL) {
        slate_draft_card_wish(draft->card, &wish);
        part->way = advised_way(draft, part, draft->card->volume);
        return note_bad(draft, part, &wish,
                        slate_format_plan(draft->card->volume, &wish,
                                          &part->format, &part->volume));
    }
    if (part->ask.volume == SLATE_VOLUME_NONE &&
        take_advice(draft, part, &wish))
        return SLATE_OK;
    return note_bad(draft, part, &wish,
                    slate_format_plan(part->ask.volume, &wish, &part->format,
                                      &part->volume));
}
