/* SPDX-License-Identifier: MIT */
/* What is wrong with tables and first blocks in a way that can be mended in
 * place, all data staying (slate_draft_mend); and what stands in the way. */
#ifndef TRUESLATE_MENDABLE_H
#define TRUESLATE_MENDABLE_H

#include "trueslate/attribute.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_mend_kind {
    SLATE_MEND_GPT,     /**< its copies, their places, the protective entry */
    SLATE_MEND_HYBRID,  /**< entries beside the protective one; a wish, where
                             they agree with the GPT */
    SLATE_MEND_REMAINS, /**< a GPT that does not count */
    SLATE_MEND_START,   /**< first blocks of a volume that keeps a copy */
    SLATE_MEND_TYPE,    /**< of a partition */
    SLATE_MEND_ORDER,   /**< of the entries; a wish */
    SLATE_MEND_TO_GPT,  /**< conversions; wishes */
    SLATE_MEND_TO_MBR,
    SLATE_MEND_GROW, /**< a partition gets the room behind it, where its
                        volume's own host can extend that; a wish as well */
    SLATE_MEND_LOST  /**< a volume that was searched for gets its entry: by
                          slate_draft_put_back alone */
};

#define SLATE_MEND_KINDS 10

/** Something to be mended. */
struct slate_mend {
    enum slate_mend_kind kind;
    uint32_t partition; /**< index in the facts, for TYPE, START, GROW; else
                             SLATE_ATTRIBUTE_WHOLE */
};

/**
 * Lists what is there to be mended on a device that was looked at closely.
 * Wishes are not among it: nothing is wrong without them.
 *
 * @param facts of the device
 * @param index from 0
 * @param mend  receives it
 * @return false when there is none of this index
 */
bool slate_mend_next(const struct slate_facts *facts, uint32_t index,
                     struct slate_mend *mend);

/** Is it there to be mended? @param mend of these facts; also a wish */
bool slate_mend_holds(const struct slate_facts *facts,
                      const struct slate_mend *mend);

/** What is in the way of mending. */
struct slate_obstacle {
    const char *why; /**< words without a stop; NULL: nothing is */
    uint32_t number; /**< of the partition that is in the way; 0: none */
    uint64_t blocks; /**< by so many; 0: that does not apply */
};

/** A copy of a GPT as it shall be: where it is, and which blocks are left to
 * partitions. */
struct slate_gpt_place {
    uint64_t header, array, other;
    uint64_t first_usable, last_usable;
};

/** Both copies of a GPT at the ends of the device, made from the one that
 * counts. */
struct slate_gpt_places {
    const struct slate_gpt_copy *from;
    uint64_t array_blocks;
    uint64_t end; /**< first block behind all partitions */
    struct slate_gpt_place primary, backup;
};

/** Stable name of a kind for programs: "to-gpt". Never NULL. */
const char *slate_mend_name(enum slate_mend_kind kind);

/** What it does, in words without a stop. Never NULL. */
const char *slate_mend_words(enum slate_mend_kind kind);

#ifdef __cplusplus
}
#endif
#endif
