/* SPDX-License-Identifier: MIT */
/* Volumes that no partition holds: searched for, and put back. */
#ifndef TOOL_SEARCHING_H
#define TOOL_SEARCHING_H

#include "base/options.h"
#include "device/target.h"

/* Drafts entries for the volumes that begin at the blocks which the options
 * name. Says on stderr what is in the way; returns an exit code. */
int searching_draft(struct target *target, const struct options *options,
                    struct slate_draft *draft);

/* Tells which volumes it is that such a draft puts back. */
void searching_tell(const struct target *target);

/* "2048,73728"? */
bool searching_is_list(const char *list);

#endif
