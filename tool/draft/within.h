/* SPDX-License-Identifier: MIT */
/* --within: of a device that claims more than it has, what is there. */
#ifndef TOOL_WITHIN_H
#define TOOL_WITHIN_H

#include "base/options.h"
#include "device/target.h"

/* Is it "proved", or a size? */
bool within_is_known(const char *word);

/* Puts it into the goal of a draft, once its parts are asked for: a volume that
 * nobody has named is called by what there is. Says on stderr what is wrong;
 * returns an exit code. */
int within_take(const struct options *options, const struct target *target,
                struct slate_draft *draft);

#endif
