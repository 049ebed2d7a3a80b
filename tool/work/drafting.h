/* SPDX-License-Identifier: MIT */
/* A draft of what a command asks for, of the device that is there. Each says on
 * stderr what goes wrong, and returns an exit code. */
#ifndef TOOL_DRAFTING_H
#define TOOL_DRAFTING_H

#include "base/options.h"
#include "device/target.h"

/* The steps that renew shares with the single verbs; they say on stderr what
 * goes wrong and return an exit code. */
int make_draft(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft);

/* The same once more, when something has been added to it. */
int remake_draft(const struct target *target, struct slate_draft *draft);

#endif
