/* SPDX-License-Identifier: MIT */
/* What is asked about a table and its partitions. */
#ifndef SLATE_TABLE_LAYOUT_H
#define SLATE_TABLE_LAYOUT_H

#include "trueslate/layout.h"

/* Reads the partitions of one sound copy of a GPT, whether it counts or not.
 * Returns SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE, SLATE_ERR_ARGUMENT
 * for a copy that is not sound. */
SLATE_MUST_CHECK enum slate_status
slate_layout_read_gpt(struct slate_media *media, void *work,
                      const struct slate_gpt_copy *copy,
                      struct slate_layout *layout);

/* Does a logical partition lie outside its container? */
bool slate_layout_is_outside(const struct slate_layout *layout, uint32_t i);

/* The copy of a GPT that counts: the first one, where it is sound. */
const struct slate_gpt_copy *
slate_layout_gpt(const struct slate_layout *layout);

/* Do two partitions share blocks, neither being the container of the other? */
bool slate_partitions_overlap(const struct slate_partition *a,
                              const struct slate_partition *b);

/* Is this an MBR type that hides its volume: a common one with 10h added? */
bool slate_mbr_is_hidden(uint8_t type);

/* Is it a GPT partition of basic data? */
bool slate_partition_is_basic(const struct slate_partition *partition);

/* Does a partition reach beyond the end? */
bool slate_partition_is_beyond(const struct slate_partition *partition,
                               uint64_t block_count);

/* Do the CHS addresses of an MBR entry agree with its LBA addresses, in one of
 * the geometries that hosts use? Addresses that are left out or at their limit
 * agree with everything (UEFI 2.10, 5.2.1). */
bool slate_mbr_chs_agrees(const struct slate_mbr_entry *entry, uint32_t *heads,
                          uint32_t *sectors);

#endif
