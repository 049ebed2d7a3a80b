/* SPDX-License-Identifier: MIT */
/* Attributes in the content that a draft can clear. */
#ifndef TOOL_ATTRIBUTES_H
#define TOOL_ATTRIBUTES_H

#include "base/options.h"
#include "device/target.h"

#define ATTRIBUTES_MOST (SLATE_ATTRIBUTE_KINDS * TARGET_PARTITIONS)

/* The attributes that were found, and what became of each. */
struct attributes {
    uint32_t count;
    struct slate_attribute found[ATTRIBUTES_MOST];
    uint32_t number[ATTRIBUTES_MOST]; /* of its partition; 0: no table */
    bool wanted[ATTRIBUTES_MOST];
    enum slate_status cleared[ATTRIBUTES_MOST];
};

/* Takes note of those that the facts tell of. */
void attributes_find(struct attributes *attributes,
                     const struct slate_facts *facts);

bool attribute_is_known(const char *name);

/* Is every name in the list one? */
bool attributes_are_known(const char *list);

/* Drafts the clearing of those that are named in the list, as far as each can
 * be; a draft that clears nothing is not made. */
enum slate_status attributes_draft(struct attributes *attributes,
                                   struct target *target, const char *list,
                                   struct slate_draft *draft);

/* "partition 2", or "the volume" where there is no table. */
void attribute_place(uint32_t number, char words[32]);

#endif
