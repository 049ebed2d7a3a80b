/* SPDX-License-Identifier: MIT */
/* What can be mended in place: found, drafted, told. */
#ifndef TOOL_MENDING_H
#define TOOL_MENDING_H

#include <jansson.h>

#include "base/options.h"
#include "device/target.h"

/* "all", or kinds with commas between them, all of them known. */
bool mending_is_known(const char *list);

/* Drafts what of the list is there to be mended, on a device that was looked
 * at; wishes only where they are named. Says on
 * stderr what is wrong; returns an exit code. */
int mending_draft(struct target *target, const struct options *options,
                  const char *list, struct slate_draft *draft);

/* What a draft mends, in words. */
void mending_tell(const struct slate_draft *draft);

/* The same for programs. */
json_t *mending_report(const struct slate_draft *draft);

#endif
