/* SPDX-License-Identifier: MIT */
/* What becomes of a device when all is done: --then and --then-run. */
#ifndef TOOL_THEN_H
#define TOOL_THEN_H

#include "base/options.h"
#include "device/target.h"

/* The names of what there is, by an index; NULL behind the last. */
const char *then_name(uint32_t index);
bool then_is_known(const char *word);

/* Does what was asked for, with the exit code so far: the device is let go
 * when all went well; the command of the user's runs either way, and is told
 * how it went. The target is not used for anything else afterwards. Says on
 * stderr what is wrong; returns the exit code so far, or its own. */
int then_do(struct target *target, const struct options *options, int code);

#endif
