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

/* Clears bits in the entry of a partition, in both copies of a GPT. */
enum slate_status slate_patch_gpt(const struct slate_patching *patching,
                                  const struct slate_partition *entry,
                                  uint64_t bits);

#endif
