/* SPDX-License-Identifier: MIT */
/* Where partitions of a new table go, and what the image of an old one says. */
#ifndef SLATE_TABLE_PLAN_H
#define SLATE_TABLE_PLAN_H

#include "trueslate/table.h"

/* The table that reaches the whole device: an MBR as far as 32-bit block
 * numbers do (UEFI 2.10, table 5.3), else a GPT. */
enum slate_table_kind slate_table_choose(const struct slate_geometry *geometry);

/* What partitions are aligned to, in bytes: 1 MiB, or a larger erase unit that
 * can be believed. */
uint32_t slate_table_align(const struct slate_geometry *geometry);

/* The grid of today: slate_table_align. */
void slate_table_grid(const struct slate_geometry *geometry,
                      struct slate_grid *grid);

/* The grid of systems that count cylinders, heads and sectors. */
void slate_table_cylinders(const struct slate_geometry *geometry,
                           uint16_t heads, uint16_t sectors,
                           struct slate_grid *grid);

/* The room for partitions that a table leaves, from the first unit of the grid
 * to the last whole physical block, or cylinder; without a table, the device.
 * Returns SLATE_OK, or SLATE_ERR_TOO_SMALL when nothing is left. */
SLATE_MUST_CHECK enum slate_status
slate_table_place(enum slate_table_kind kind,
                  const struct slate_geometry *geometry,
                  const struct slate_grid *grid, struct slate_range *range);

/* Is the image of a table one that can be changed? It may come from a file:
 * places, sizes and checksums are checked. Returns true when it is. */
bool slate_table_image_is_sound(const struct slate_table_plan *plan);

/* The blocks that such a table leaves to partitions. */
void slate_table_image_usable(const struct slate_table_plan *plan,
                              struct slate_range *usable);

/* Does the image have an entry of a number from 1? Logical partitions have one
 * where the image holds their links. Returns true when it does. */
bool slate_table_image_entry(const struct slate_table_plan *plan,
                             uint32_t number, uint32_t *slots);

/* The container of logical partitions in the image of an MBR. Returns its
 * number; 0 when there is none, or more than one. */
uint32_t slate_table_image_container(const struct slate_table_plan *plan,
                                     struct slate_range *range);

/* Does the image of an MBR hold the links to its logical partitions, so that
 * single ones of them stay? */
bool slate_table_image_holds_links(const struct slate_table_plan *plan);

/* A logical partition out of the links that an image holds. Returns false when
 * there is none. */
bool slate_table_image_logical(const struct slate_table_plan *plan,
                               uint32_t number,
                               struct slate_partition *logical);

/* Which block belongs into the image of an MBR behind those that it holds, so
 * that single logical partitions can stay. Returns false when there is none,
 * or more than SLATE_CHAIN_LINKS. */
bool slate_table_image_block(const struct slate_table_plan *plan,
                             uint32_t index, uint64_t *lba);

#endif
