/* SPDX-License-Identifier: MIT */
/* Attributes in the content: cleared as --lift asks, told, reported. */
#ifndef TOOL_ATTRIBUTES_H
#define TOOL_ATTRIBUTES_H

#include "options.h"
#include "report/json.h"
#include "target.h"

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

/* Says on stderr why there is no draft. Returns an exit code. */
int attributes_refuse(const struct target *target, enum slate_status status);

/* "partition 2", or "the volume" where there is no table. */
void attribute_place(uint32_t number, char words[32]);

/* Drafts, carries out and proves what --lift names; consent was given. The
 * facts are those of the device afterwards. Returns an exit code. */
int attributes_clear(struct attributes *attributes, struct target *target,
                     const struct options *options);

/* Each with what it means; false when there are none. */
bool attributes_tell(const struct attributes *attributes);

json_t *attributes_report(const struct attributes *attributes);

#endif
