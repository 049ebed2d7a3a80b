/* SPDX-License-Identifier: MIT */
/* Inside draft: where everything goes, and what is composed there. */
#ifndef SLATE_DRAFT_PLACE_H
#define SLATE_DRAFT_PLACE_H

#include "trueslate/draft.h"
#include "trueslate/use.h"

/* Memory cards as their specification lays them out. */

/* What the file system specification of SD cards has for a capacity, from the
 * smaller one on. */
struct slate_card_shape {
    uint64_t most; /* bytes of the card */
    enum slate_volume_kind volume;
    uint32_t cluster_blocks;  /* of 512 bytes, as all here */
    uint32_t boundary_blocks; /* the card moves its content in such units */
};

/* The shape that a new draft takes on, once its table is chosen: that of a
 * card, or of what a camera shall read, with one partition over all of it and
 * nothing asked that differs. NULL: none. */
const struct slate_card_shape *
slate_draft_card(const struct slate_draft *draft);

/* The one part's range, and what its volume is asked to be besides. False, and
 * both as they were, where no such volume fits. */
bool slate_draft_card_place(const struct slate_card_shape *shape,
                            const struct slate_draft *draft,
                            struct slate_range *range);
void slate_draft_card_wish(const struct slate_card_shape *shape,
                           struct slate_wish *wish);

/* What a draft puts on its device, and whose a block of it is. */

/* The role of block 0's extents: steps of their own. */
#define SLATE_ROLE_FIRST UINT8_MAX

/* What composes a part, or the table, and its plan; NULL: nothing does. */
const struct slate_composer *
slate_draft_composer(const struct slate_draft *draft, uint32_t part,
                     const void **plan);

/* The first part that ends behind a block; the parts are in the order of their
 * blocks. */
uint32_t slate_draft_part_from(const struct slate_draft *draft, uint64_t lba);

/* Is this block part of the new content? Either way, receives the block up to
 * which that stays so. */
bool slate_draft_covers(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until);

/* The part that a block belongs to; SLATE_PART_ERASED for none. */
uint32_t slate_draft_owner(const struct slate_draft *draft, uint64_t lba);

/* The next extent of what stays on the device. */
bool slate_draft_next_final(const struct slate_draft *draft,
                            struct slate_walk *walk,
                            struct slate_extent *extent);

/* Is a block bad? until: receives the block up to which that stays so. */
bool slate_draft_is_bad(const struct slate_draft *draft, uint64_t lba,
                        uint64_t *until);

/* The first bad block that would be written to. Volumes see to it by
 * themselves; tables stand where they stand. False: there is none. */
bool slate_draft_first_bad(const struct slate_draft *draft, uint64_t *block);

/* A draft as what a pass goes over. */
void slate_draft_supply(const struct slate_draft *draft, bool final,
                        struct slate_supply *supply);

/* The entries of a new table, and what is derived from the seed. */

/* 16 bytes out of the seed, for one purpose and part. */
void slate_draft_derive(const struct slate_draft *draft, const char *purpose,
                        uint32_t part, uint8_t out[16]);

/* All entries, once the parts have their places and volumes. */
void slate_draft_fill_table(struct slate_draft *draft);

/* What a draft overwrites. */

/* Is a block among those that are overwritten, new content or not? until:
 * receives the block up to which that stays so. */
bool slate_draft_overwrites(const struct slate_draft *draft, uint64_t lba,
                            uint64_t *until);

/* The next extent of the sweeps: the rounds, and what is done ahead of them,
 * between them and behind them. */
bool slate_draft_next_overwrite(const struct slate_draft *draft,
                                struct slate_walk *walk,
                                struct slate_extent *extent);

/* The next extent of what the last round leaves on the device, without what
 * comes over it; nothing where that shall not be read back. */
bool slate_draft_next_left(const struct slate_draft *draft,
                           struct slate_walk *walk,
                           struct slate_extent *extent);

/* Is what is overwritten something that can be? SLATE_ERR_PARTS. */
enum slate_status slate_draft_check_overwrite(struct slate_draft *draft);

/* Composes blocks of a round, counted from 0. */
enum slate_status slate_draft_fill_round(const struct slate_draft *draft,
                                         uint32_t round, uint64_t first,
                                         uint32_t count, void *data);

/* Remarks: blocks that no host reaches; start-up code in front of the first
 * partition; bad blocks; what is not read back. False: there is none. */
void slate_draft_remark_reserve(const struct slate_draft *draft,
                                struct slate_text *text);
void slate_draft_remark_gap(const struct slate_draft *draft,
                            struct slate_text *text);
void slate_draft_remark_left(const struct slate_draft *draft,
                             struct slate_text *text);
void slate_draft_remark_unread(const struct slate_draft *draft,
                               struct slate_text *text);

/* What an extent of them is for, as a step. */
const char *slate_draft_round_step(const struct slate_draft *draft,
                                   const struct slate_extent *extent);

/* Where the parts of a draft go on the device. */

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

/* How a partition's type tells of its volume. */

/* The MBR type of a new part. */
uint8_t slate_draft_mbr_type(const struct slate_draft *draft,
                             const struct slate_part *part);

/* The GPT type of a new part (UEFI 2.10, table 5.7). */
const struct slate_guid *slate_draft_gpt_type(const struct slate_draft *draft,
                                              uint32_t part);

/* Are partitions laid out by cylinders, and is the end within their reach? */
bool slate_draft_is_by_cylinder(const struct slate_draft *draft, uint64_t end);

/* What a use is best set up with. */

/* Advice for a use, from a table of data. Returns never NULL. */
const struct slate_advice *slate_use_advice(enum slate_use use,
                                            enum slate_device_kind kind,
                                            uint64_t bytes);

#endif
