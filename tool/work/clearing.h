/* SPDX-License-Identifier: MIT */
/* Attributes in the content: cleared as --lift asks, told, reported. */
#ifndef TOOL_CLEARING_H
#define TOOL_CLEARING_H

#include "draft/attributes.h"
#include "base/json.h"

/* Says on stderr why there is no draft. Returns an exit code. */
int attributes_refuse(const struct target *target, enum slate_status status);

/* Drafts, carries out and proves what --lift names; consent was given. The
 * facts are those of the device afterwards. Returns an exit code. */
int attributes_clear(struct attributes *attributes, struct target *target,
                     const struct options *options);

/* Each with what it means; false when there are none. */
bool attributes_tell(const struct attributes *attributes);

json_t *attributes_report(const struct attributes *attributes);

#endif
