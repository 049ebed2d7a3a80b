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
/* The chain of logical partitions that an image of an MBR holds behind block 0,
 * link by link; without links, the container is one that stays as a whole. */
uint32_t slate_image_links(const struct slate_table_plan *plan);

/* A link of it, by its index; each is found in constant time. */
struct slate_image_link {
    uint64_t lba;
    uint64_t first, count; /* of its partition; count 0: it has none */
    uint64_t next;         /* the next link's block; 0: it is the last one */
};

void slate_image_link(const struct slate_table_plan *plan, uint32_t index,
                      struct slate_image_link *link);

/* The index of the link in a block; slate_image_links: there is none. */
uint32_t slate_image_link_at(const struct slate_table_plan *plan, uint64_t lba);

/* Does each link stand ahead of its partition, and behind the one before, all
 * in the container, with nothing beside? The first may have no partition. */
bool slate_image_chain_is_sound(const struct slate_table_plan *plan);

/* Does a partition have an entry in this state of the table? */
static inline bool slate_edit_shows(const struct slate_table_plan *plan,
                                    const struct slate_partition *partition)
{
    return partition->kept || plan->state == SLATE_TABLE_FINAL;
}

#endif
