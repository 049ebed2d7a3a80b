/* SPDX-License-Identifier: MIT */
/* May a file that is named be written? */
#ifndef TOOL_OUTPUTS_H
#define TOOL_OUTPUTS_H

#include "base/durable.h"
#include "device/target.h"

/* Is a file of this name the image, or the blocks, that the target stands on,
 * or no regular file at all? Then it is never replaced. */
bool durable_is_precious(const char *path, const struct target *target);

/* A file that is about to be written is not there, or may go: ours tells that
 * it is an earlier one of the same kind, --replace that it was told so. Says on
 * stderr what is wrong; returns an exit code. */
int durable_may_write(const char *path, const struct target *target, bool ours,
                      const char *kind, bool replace);

#endif
