/* SPDX-License-Identifier: MIT */
/* Attributes in the content: cleared as --lift asks, told, reported. */
#ifndef TOOL_ATTRIBUTES_H
#define TOOL_ATTRIBUTES_H

#include "options.h"
#include "report.h"
#include "target.h"

#define ATTRIBUTES_MOST (SLATE_ATTRIBUTE_KINDS * TARGET_PARTITIONS)

/* What became of each attribute that the facts tell of, by its index. */
struct attributes {
    const struct target *target;
    bool wanted[ATTRIBUTES_MOST];
    enum slate_status cleared[ATTRIBUTES_MOST];
};

bool attribute_is_known(const char *name, size_t length);

/* Clears those that are named in the list; returns an exit code. */
int attributes_clear(struct attributes *attributes, struct target *target,
                     const char *list);

/* Each with what it means; false when there are none. */
bool attributes_tell(const struct attributes *attributes);

json_t *attributes_report(const struct attributes *attributes);

#endif
