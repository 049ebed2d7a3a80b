/* SPDX-License-Identifier: MIT */
/* What the readers of the table kinds share. */
#ifndef SLATE_TABLE_READ_H
#define SLATE_TABLE_READ_H

#include "media/wire/unread.h"
#include "trueslate/layout.h"

/* Forgets all partitions, so that another table may be taken. */
void slate_layout_empty(struct slate_layout *layout);

/* Counts a partition, and gives a zeroed one with its place filled in; NULL
 * when there is no room left. */
struct slate_partition *slate_layout_take(struct slate_layout *layout,
                                          uint64_t first, uint64_t count,
                                          uint32_t number);

/* Does block 0 begin a volume? */
bool slate_block_begins_volume(const uint8_t *block);

/* Takes the four entries of block 0 as they stand, when it is an MBR. */
void slate_mbr_read(const uint8_t *block, struct slate_layout *layout);

/* Turns them into partitions, following the chains of logical ones. */
SLATE_MUST_CHECK enum slate_status slate_mbr_take(struct slate_media *media,
                                                  uint8_t *work,
                                                  struct slate_layout *layout);

/* Checks both copies and, when the table counts, takes the partitions of the
 * sound one and sets the kind. wanted: it may count. */
SLATE_MUST_CHECK enum slate_status slate_gpt_read(struct slate_media *media,
                                                  uint8_t *work, bool wanted,
                                                  struct slate_layout *layout);

/* The other kinds; work holds block 0. Sets the kind when it is one. */
SLATE_MUST_CHECK enum slate_status
slate_other_read(struct slate_media *media, uint8_t *work,
                 struct slate_layout *layout);

#endif
