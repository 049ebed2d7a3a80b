/* SPDX-License-Identifier: MIT */
/* Tables that are changed, not made anew: what was there is the image. */
#ifndef SLATE_TABLE_EDIT_H
#define SLATE_TABLE_EDIT_H

#include "trueslate/table.h"

extern const struct slate_composer slate_mbr_edit_composer;
extern const struct slate_composer slate_gpt_edit_composer;

/* Bytes of the image from an offset on; zeros stand behind its end. */
void slate_image_copy(const struct slate_table_plan *plan, uint64_t offset,
                      uint32_t length, uint8_t *to);

/* The GPT's image: block 0, the header, its copy, the array. */
enum slate_image_part {
    SLATE_IMAGE_FIRST,
    SLATE_IMAGE_HEADER,
    SLATE_IMAGE_COPY,
    SLATE_IMAGE_ARRAY
};

static inline uint64_t slate_image_at(const struct slate_table_plan *plan,
                                      enum slate_image_part part)
{
    return (uint64_t)part * plan->block_bytes;
}

/* Where one copy of a GPT stands, as its header in the image says. */
struct slate_image_place {
    enum slate_image_part part;
    uint64_t header, array;
    uint32_t array_blocks, entries, entry_bytes;
};

void slate_image_find(const struct slate_table_plan *plan,
                      enum slate_image_part part,
                      struct slate_image_place *place);
uint64_t slate_image_field64(const struct slate_table_plan *plan,
                             enum slate_image_part part, uint32_t offset);

/* Does a partition have an entry in this state of the table? */
static inline bool slate_edit_shows(const struct slate_table_plan *plan,
                                    const struct slate_partition *partition)
{
    return partition->kept || plan->state == SLATE_TABLE_FINAL;
}

#endif
