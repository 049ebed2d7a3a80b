/* SPDX-License-Identifier: MIT */
/* Inside draft: changes in place. */
#ifndef SLATE_DRAFT_MEND_H
#define SLATE_DRAFT_MEND_H

#include "assess/judge/judge.h"
#include "trueslate/draft.h"
#include "trueslate/mend.h"

/* Blocks that a draft changes in place, gathered from the device. */

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

/* What the kinds of mending share. */

/* What one of them goes by. */
struct slate_mending {
    struct slate_patching patching;
    const struct slate_facts *facts;
    uint32_t partition; /* index, or SLATE_ATTRIBUTE_WHOLE */
};

/* The block as it shall be, to be written in this moment. */
enum slate_status slate_mend_block(const struct slate_mending *mending,
                                   uint64_t lba, enum slate_moment moment,
                                   enum slate_patch_role role, uint8_t **block);

/* Nothing is in the way of any of them (slate_mend_obstacle). */
enum slate_status slate_mend_gpt(const struct slate_mending *mending);
enum slate_status slate_mend_hybrid(const struct slate_mending *mending);
enum slate_status slate_mend_remains(const struct slate_mending *mending);
enum slate_status slate_mend_start(const struct slate_mending *mending);
enum slate_status slate_mend_type(const struct slate_mending *mending);
enum slate_status slate_mend_order(const struct slate_mending *mending);
enum slate_status slate_mend_grow(const struct slate_mending *mending);
enum slate_status slate_mend_to_gpt(const struct slate_mending *mending);
enum slate_status slate_mend_to_mbr(const struct slate_mending *mending);

/* A whole table around what is there (mend_table.c). */
struct slate_table_plan slate_mend_plan(const struct slate_mending *mending,
                                        enum slate_table_kind kind);

/* All partitions that are there, in the order of their blocks; then the new
 * parts of the draft, which are laid out. */
enum slate_status
slate_mend_gather(const struct slate_mending *mending,
                  struct slate_table_plan *plan,
                  void (*fill)(const struct slate_mending *mending, uint32_t i,
                               struct slate_partition *partition));

/* A random GUID, out of the seed. */
void slate_mend_guid(const struct slate_draft *draft, const char *purpose,
                     uint32_t part, struct slate_guid *guid);

/* Every block of the table; block 0 comes last of all, or is all of it: with
 * its code, and a signature of its own where none is there. */
enum slate_status slate_mend_put_gpt(const struct slate_mending *mending,
                                     struct slate_table_plan *plan);
enum slate_status slate_mend_put_mbr(const struct slate_mending *mending,
                                     struct slate_table_plan *plan);

/* Has the entries of block 0 be the protective one alone (UEFI 2.10, 5.2.3). */
void slate_mend_put_protective(const struct slate_mending *mending,
                               uint8_t *block);

#endif
