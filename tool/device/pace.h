/* SPDX-License-Identifier: MIT */
/* How fast a device is, by a short sample: ahead of work that takes long. */
#ifndef TOOL_PACE_H
#define TOOL_PACE_H

#include "device/target.h"

/* Reads in a few places of a device that is to be overwritten, for two seconds
 * at most, and tells how long the draft will take at that rate. Nothing where
 * little is written, or the sample could not be read. */
void pace_tell(struct target *target, const struct slate_draft *draft);

#endif
