/* SPDX-License-Identifier: MIT */
/* The composers of tables; their plans are struct slate_table_plan. */
#ifndef SLATE_TABLE_COMPOSE_H
#define SLATE_TABLE_COMPOSE_H

#include "trueslate/table.h"

extern const struct slate_composer slate_mbr_composer;
extern const struct slate_composer slate_gpt_composer;

/* One entry, zeroed. */
void slate_mbr_put_entry(const struct slate_table_plan *plan,
                         const struct slate_partition *partition,
                         uint8_t *entry);
void slate_gpt_put_entry(const struct slate_partition *partition,
                         uint8_t *entry);

/* The two entries of a link, zeroed: its own partition, and the way to the next
 * one; container: its first block. */
void slate_mbr_put_logical(const struct slate_table_plan *plan,
                           const struct slate_partition *here, uint8_t *entry);
void slate_mbr_put_next(const struct slate_table_plan *plan,
                        const struct slate_partition *next, uint64_t container,
                        uint8_t *entry);

/* Block 0, zeroed, as a table of its own or as the guard of a GPT. */
void slate_mbr_put_protective(const struct slate_table_plan *plan,
                              uint8_t *block);

#endif
