/* SPDX-License-Identifier: MIT */
/* Where the parts of a draft go on the device. */
#ifndef SLATE_DRAFT_PLACE_H
#define SLATE_DRAFT_PLACE_H

#include "trueslate/draft.h"

static inline bool slate_range_holds(const struct slate_range *range,
                                     uint64_t block)
{
    return block >= range->first && block - range->first < range->count;
}

/* Gives each part its range; the table's kind is set. On failure refused tells
 * the part. SLATE_ERR_PARTS, SLATE_ERR_TOO_SMALL. */
enum slate_status slate_draft_lay_out(struct slate_draft *draft);

/* The same around parts that stay, in what their table leaves, and in the
 * container of logical ones. */
enum slate_status slate_draft_lay_out_around(struct slate_draft *draft,
                                             const struct slate_range *room);

/* The same one after the other in a run of free blocks; nothing else changes.
 */
enum slate_status slate_draft_lay_out_in(struct slate_draft *draft,
                                         const struct slate_range *room);

/* Plans the volume of a part that has its range. */
enum slate_status slate_draft_fill_volume(struct slate_draft *draft,
                                          uint32_t i);

/* Notes why; SLATE_ERR_PARTS. */
enum slate_status slate_draft_refuse(struct slate_draft *draft, uint32_t part,
                                     const char *why);

/* Logical partitions of an MBR: how many, and is a part one of them? */
uint32_t slate_draft_logical(const struct slate_draft *draft);
bool slate_draft_is_logical(const struct slate_draft *draft, uint32_t part);

/* Is a part active because the use asks for it, and nobody for another one? */
bool slate_draft_starts(const struct slate_draft *draft, uint32_t part);

/* Is what is asked of entries and identifiers something that the table has?
 * SLATE_ERR_PARTS. */
enum slate_status slate_draft_check_asked(struct slate_draft *draft);

/* The entry of a new part, as the i-th one. */
void slate_draft_fill_partition(const struct slate_draft *draft, uint32_t i,
                                struct slate_partition *partition);

/* The container of logical partitions. */
void slate_draft_fill_container(const struct slate_draft *draft,
                                const struct slate_range *range,
                                uint32_t number,
                                struct slate_partition *container);

/* Parts that stay are in the table, each once; SLATE_ERR_PARTS. */
enum slate_status slate_draft_check_kept(struct slate_draft *draft);

/* The changed table, once the parts are placed: entries that stay, and free
 * ones for the new parts. SLATE_ERR_PARTS when there are too few. */
enum slate_status slate_draft_change_table(struct slate_draft *draft);

#endif
