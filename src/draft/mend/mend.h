/* SPDX-License-Identifier: MIT */
/* What the kinds of mending share. */
#ifndef SLATE_DRAFT_MEND_H
#define SLATE_DRAFT_MEND_H

#include "draft/mend/patch.h"
#include "trueslate/mend.h"
#include "assess/judge/mendable.h"

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
