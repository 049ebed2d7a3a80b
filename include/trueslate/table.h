/* SPDX-License-Identifier: MIT */
/* Partition tables composed: MBR and GPT. */
#ifndef TRUESLATE_TABLE_H
#define TRUESLATE_TABLE_H

#include "trueslate/compose.h"
#include "trueslate/layout.h"

#ifdef __cplusplus
extern "C" {
#endif

/** A changed table on its way: as it was; without what goes; with what is new.
 */
enum slate_table_state {
    SLATE_TABLE_FINAL,
    SLATE_TABLE_DROPPED,
    SLATE_TABLE_FORMER
};

/** Room in the array of a new GPT. */
#define SLATE_GPT_ENTRIES_LEAST 4u
#define SLATE_GPT_ENTRIES_MOST 1024u

/** A table to be composed; every block of it follows from these values. */
struct slate_table_plan {
    enum slate_table_kind kind;
    uint32_t block_bytes;
    uint64_t block_count;                    /**< of the device */
    uint32_t count;                          /**< partitions */
    const struct slate_partition *partition; /**< with numbers from 1, each its
                                                  own */
    uint32_t entries; /**< GPT: room in the array; 0: 128 */
    uint16_t heads;   /**< MBR: geometry of its CHS fields; 0: 255 and 63 */
    uint16_t track_sectors;
    uint32_t disk_signature;
    struct slate_guid disk_id;
    const uint8_t *code; /**< start-up code for block 0; NULL: one of ours */
    uint32_t code_bytes; /**< at most 440 */
    /** A table that is changed, not made anew: what was there (MBR: block 0,
     * and the links of its chain where single logical partitions stay; GPT:
     * block 0, header, its copy, array; zeros behind). NULL: made anew. */
    const uint8_t *image;
    uint32_t image_bytes;
    enum slate_table_state state;
};

/** Where partitions may begin and end; blocks. */
struct slate_grid {
    uint64_t unit; /**< what is aligned to, or a cylinder */
    uint64_t lead; /**< cylinders: the track ahead of the first partition; else
                        0 */
    uint64_t link; /**< what stands ahead of a logical partition for its link */
    uint16_t heads; /**< geometry of the cylinders; 0: they do not matter */
    uint16_t track_sectors;
    uint32_t entries; /**< GPT: room in its array; 0: 128 */
};

/**
 * The blocks that a table of this kind leaves to partitions.
 *
 * @param kind     table kind
 * @param entries  GPT: room in its array; 0: 128
 * @param geometry of the device
 * @param usable   receives first and count; count is 0 when none are left
 */
void slate_table_usable(enum slate_table_kind kind, uint32_t entries,
                        const struct slate_geometry *geometry,
                        struct slate_range *usable);

/** What composes a table, with the plan as its plan.
 * @return NULL for no table, and for kinds that are only read */
const struct slate_composer *
slate_table_composer(const struct slate_table_plan *plan);

#ifdef __cplusplus
}
#endif
#endif
