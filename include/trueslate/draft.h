/* SPDX-License-Identifier: MIT */
/* Drafts: a goal and the facts about a device become every block to write. */
#ifndef TRUESLATE_DRAFT_H
#define TRUESLATE_DRAFT_H

#include "trueslate/assess.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Counts up when a draft with the same input would compose other bytes. */
#define SLATE_DRAFT_VERSION 4u

/** The name of a use as the command line takes it: "camera". Never NULL. */
const char *slate_use_name(enum slate_use use);

/** For whom a use is meant, in a few words. Never NULL. */
const char *slate_use_words(enum slate_use use);

/** Old ranges that a basis can hold: both ends, and two for a partition. */
#define SLATE_BASIS_RANGES (2 + 2 * SLATE_FACTS_PARTITIONS)

/** The part of the facts that a draft depends on. */
struct slate_basis {
    char tag[SLATE_TAG_ROOM];
    uint8_t identity[SLATE_DIGEST_BYTES]; /**< which device */
    struct slate_geometry geometry;
    uint32_t guards; /**< what stops writing, and a draft lifts first: a sum of
                          SLATE_GUARD_BIT */
    uint32_t firm;   /**< those of them that no command lifts */
    uint32_t old_count;
    /** Where old structures identify content: ascending, not touching. */
    struct slate_range old[SLATE_BASIS_RANGES];
    struct slate_evidence evidence; /**< what was on it: where this has changed
                                         since, the draft is refused */
};

/** The free choices: with the same ones, the same bytes come out. */
struct slate_choices {
    uint8_t seed[16];         /**< serial numbers and GUIDs derive from it */
    struct slate_stamp stamp; /**< for time stamps in the volume */
};

/** One partition of a draft, or the device as a whole where there is no table.
 */
struct slate_part {
    struct slate_range range;          /**< blocks of the device */
    const struct slate_format *format; /**< NULL: without a volume */
    union slate_volume_plan volume;
};

/** Partitions that a draft has room for. */
#define SLATE_DRAFT_PARTS 4

/**
 * A draft. The first three members are its input; all others follow from them.
 * It refers to itself: do not copy it, make it anew.
 */
struct slate_draft {
    struct slate_goal goal;
    struct slate_basis basis;
    struct slate_choices choices;
    struct slate_table_plan table;
    uint32_t parts;
    struct slate_part part[SLATE_DRAFT_PARTS];
    struct slate_partition partition[SLATE_DRAFT_PARTS]; /**< in the table */
    uint8_t seal[SLATE_DIGEST_BYTES]; /**< digest of the input */
};

/**
 * Takes from facts what a draft depends on.
 *
 * @param facts as slate_assess_look found them
 * @param basis filled in
 */
void slate_basis_from(const struct slate_facts *facts,
                      struct slate_basis *basis);

/**
 * Makes a draft: a pure function of its three inputs.
 *
 * @param goal    what is wanted
 * @param basis   of the device
 * @param choices free choices
 * @param draft   filled in; on failure its content is undefined
 * @return SLATE_OK; SLATE_ERR_USE, SLATE_ERR_LABEL, SLATE_ERR_CLUSTER,
 *         SLATE_ERR_BLOCK_SIZE, SLATE_ERR_TOO_SMALL, SLATE_ERR_TOO_LARGE;
 *         SLATE_ERR_GUARD for a device that is protected by something that no
 *         command lifts, or that is there on purpose and not named by the goal;
 *         SLATE_ERR_ARGUMENT for a basis that no device can have
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_make(const struct slate_goal *goal, const struct slate_basis *basis,
                 const struct slate_choices *choices,
                 struct slate_draft *draft);

/**
 * The guard that stands in the way of a draft: one that no command lifts, or
 * one that the goal would have to name.
 *
 * @param goal  what is wanted
 * @param basis of the device
 * @return an enum slate_guard_kind; SLATE_GUARD_KINDS for none
 */
uint32_t slate_draft_obstacle(const struct slate_goal *goal,
                              const struct slate_basis *basis);

/**
 * Explains why slate_draft_make refused a goal, with the numbers that matter.
 *
 * @param status what it returned
 * @param goal   what was wanted
 * @param basis  of the device
 * @param text   started by the caller; one sentence without stop is appended
 */
void slate_draft_refusal_words(enum slate_status status,
                               const struct slate_goal *goal,
                               const struct slate_basis *basis,
                               struct slate_text *text);

/**
 * The remarks on a draft: why this table, what was adapted, what to expect.
 *
 * @param draft a draft
 * @param index from 0
 * @param text  started by the caller; one sentence is appended
 * @return false when there is no remark of this index
 */
bool slate_draft_remark(const struct slate_draft *draft, uint32_t index,
                        struct slate_text *text);

/**
 * A guard that enacting the draft lifts first, in words: which, and whether
 * that survives power-off.
 *
 * @param draft a draft
 * @param index from 0
 * @param kind  receives the kind; may be NULL
 * @param text  started by the caller; appended to, without a final stop
 * @return false when there is no lift of this index
 */
bool slate_draft_lift(const struct slate_draft *draft, uint32_t index,
                      enum slate_guard_kind *kind, struct slate_text *text);

/** What an extent belongs to, when it is not a part of the draft. */
#define SLATE_PART_TABLE UINT32_MAX
#define SLATE_PART_ERASED (UINT32_MAX - 1)
#define SLATE_PART_MARK (UINT32_MAX - 2)

/** Where a walk over a draft's extents stands. All zero: at the start. */
struct slate_walk {
    uint32_t moment;
    uint32_t index;
    uint64_t at;
};

/**
 * The next extent in the safe order of writes: one moment after the other, and
 * in each of them one part after the other, the table last. Old structures are
 * erased from the last one to the first. Apart from the mark and the true block
 * 0, no two extents share a block.
 *
 * @param draft  a draft
 * @param walk   moves on
 * @param extent receives the extent
 * @return false at the end
 */
bool slate_draft_next(const struct slate_draft *draft, struct slate_walk *walk,
                      struct slate_extent *extent);

/**
 * The blocks that a draft writes.
 *
 * @param draft a draft
 * @param final true: without the mark, which does not stay
 * @return number of blocks
 */
uint64_t slate_draft_blocks(const struct slate_draft *draft, bool final);

/**
 * Composes blocks of an extent, from the draft alone, in any order.
 *
 * @param draft  a draft
 * @param extent of it
 * @param first  block, in the extent
 * @param count  number of blocks
 * @param data   receives count * block_bytes bytes
 * @return SLATE_OK; or what a source says
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_compose(const struct slate_draft *draft,
                    const struct slate_extent *extent, uint64_t first,
                    uint32_t count, void *data);

/** Blocks that are not as a draft has them. */
struct slate_difference {
    uint32_t blocks;
    uint64_t first; /**< of them, when there are any */
};

/**
 * Compares blocks with what the draft composes for them.
 *
 * @param draft      a draft
 * @param extent     of it
 * @param first      block, in the extent
 * @param count      number of blocks
 * @param data       count * block_bytes bytes as read from the device
 * @param scratch    room for as many; not touched where all is zeros
 * @param difference receives what differs
 * @return SLATE_OK; or what a source says
 */
SLATE_MUST_CHECK enum slate_status
slate_draft_compare(const struct slate_draft *draft,
                    const struct slate_extent *extent, uint64_t first,
                    uint32_t count, const void *data, void *scratch,
                    struct slate_difference *difference);

/** The smallest work buffer for enacting or proving, in bytes: two blocks, and
 * at least SLATE_WORK_MIN. @param draft a draft */
size_t slate_draft_work_bytes(const struct slate_draft *draft);

/** What an extent of a draft is written for, as a step in words: "write the
 * root directory". Never NULL. */
const char *slate_draft_step(const struct slate_draft *draft,
                             const struct slate_extent *extent);

#ifdef __cplusplus
}
#endif
#endif
