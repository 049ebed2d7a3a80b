/* SPDX-License-Identifier: MIT */
/* Partition tables composed: MBR and GPT. */
#ifndef TRUESLATE_TABLE_H
#define TRUESLATE_TABLE_H

#include "trueslate/layout.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Partitions that a planned table can hold. */
#define SLATE_PLAN_PARTITIONS 4

/** A table to be composed; every block of it follows from these values. */
struct slate_table_plan {
    enum slate_table_kind kind;
    uint32_t block_bytes;
    uint64_t block_count; /**< of the device */
    uint32_t count;
    struct slate_partition partition[SLATE_PLAN_PARTITIONS];
    uint32_t disk_signature;
    struct slate_guid disk_id;
};

/** The table that reaches the whole device: an MBR as far as 32-bit block
 * numbers do (UEFI 2.10, table 5.3), else a GPT. @param geometry of the device
 */
enum slate_table_kind slate_table_choose(const struct slate_geometry *geometry);

/** What partitions are aligned to, in bytes: 1 MiB, or a larger erase unit that
 * can be believed. @param geometry of the device */
uint32_t slate_table_align(const struct slate_geometry *geometry);

/**
 * One partition over all that a table leaves, from the first aligned block to
 * the last whole physical one; without a table, the device.
 *
 * @param kind     table kind
 * @param geometry of the device
 * @param range    receives it
 * @return SLATE_OK, or SLATE_ERR_TOO_SMALL when nothing is left
 */
SLATE_MUST_CHECK enum slate_status
slate_table_place(enum slate_table_kind kind,
                  const struct slate_geometry *geometry,
                  struct slate_range *range);

/**
 * The blocks that a table of this kind leaves to partitions.
 *
 * @param kind     table kind
 * @param geometry of the device
 * @param usable   receives first and count; count is 0 when none are left
 */
void slate_table_usable(enum slate_table_kind kind,
                        const struct slate_geometry *geometry,
                        struct slate_range *usable);

/**
 * Enumerates what a table writes: its backup, its primary copy, and block 0.
 *
 * @param plan   the table
 * @param index  from 0
 * @param extent receives the extent
 * @return false when there is no extent of this index
 */
bool slate_table_extent(const struct slate_table_plan *plan, uint32_t index,
                        struct slate_extent *extent);

/**
 * Composes one piece of a block of the table.
 *
 * @param plan   the table
 * @param lba    any block; zeros for one that is not part of the table
 * @param offset in the block, bytes, a multiple of SLATE_PIECE_BYTES
 * @param piece  receives SLATE_PIECE_BYTES bytes
 */
void slate_table_piece(const struct slate_table_plan *plan, uint64_t lba,
                       uint32_t offset, uint8_t *piece);

#ifdef __cplusplus
}
#endif
#endif
