/* SPDX-License-Identifier: MIT */
/* Blocks that a draft changes in place, gathered from the device. */
#ifndef SLATE_DRAFT_PATCH_H
#define SLATE_DRAFT_PATCH_H

#include "trueslate/draft.h"

/* What gathering goes by. */
struct slate_patching {
    struct slate_draft *draft;
    struct slate_media *media;
    uint8_t *work; /* SLATE_WORK_MIN bytes */
};

/* Reads a block as it shall be. */
enum slate_status slate_patch_read(const struct slate_patching *patching,
                                   uint64_t lba, uint8_t *block);

/* The block that is to be changed, as it shall be so far: it is gathered, if
 * that was not done before. The pointer holds until the next one is. */
enum slate_status slate_patch_block(const struct slate_patching *patching,
                                    const struct slate_patch *wanted,
                                    uint8_t **block);

/* Bytes of the device as they shall be, in the work buffer, which has to hold
 * their blocks; and bytes of a volume that change. */
enum slate_status slate_patch_get(const struct slate_patching *patching,
                                  uint64_t byte, uint32_t length,
                                  uint8_t **bytes);
enum slate_status slate_patch_put(const struct slate_patching *patching,
                                  uint64_t byte, const uint8_t *bytes,
                                  uint32_t length);

/* What of an entry changes. */
struct slate_gpt_change {
    uint32_t number;
    uint64_t clear;                /* bits of its attributes, all of them set */
    const struct slate_guid *type; /* NULL: it stays */
    uint64_t last;                 /* block; 0: it stays */
};

/* Changes the entry of a partition, in both copies of a GPT. */
enum slate_status slate_patch_gpt(const struct slate_patching *patching,
                                  const struct slate_partition *entry,
                                  const struct slate_gpt_change *change);

/* Gives a free entry, by its number, to a partition, in both copies. */
enum slate_status slate_patch_gpt_add(const struct slate_patching *patching,
                                      const struct slate_partition *partition);

/* Has the entries stand in the order of their blocks, in both copies. */
enum slate_status slate_patch_gpt_order(const struct slate_patching *patching);

#endif
