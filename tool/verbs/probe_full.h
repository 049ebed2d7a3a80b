/* SPDX-License-Identifier: MIT */
/* The full form of a probe. */
#ifndef TOOL_PROBE_FULL_H
#define TOOL_PROBE_FULL_H

#include "base/options.h"
#include "device/target.h"

/* The full form of a probe: all of the device is written and read back. Returns
 * an exit code. */
int probe_full(struct target *target, const struct options *options);

#endif
