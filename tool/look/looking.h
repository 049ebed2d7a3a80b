/* SPDX-License-Identifier: MIT */
/* A device is looked at. */
#ifndef TOOL_LOOKING_H
#define TOOL_LOOKING_H

#include "device/target.h"

/* Looks at it again: what was looked at before has to be there still, and not
 * another medium. Says so on stderr; returns an exit code. */
int target_look_again(struct target *target);

/* Looks at an opened device closely; returns an exit code. */
int target_look(struct target *target);

/* The same, and takes the facts of one that answers but could not be opened. */
int target_assess(struct target *target);

/* Looks at a device that was tried, or takes the facts of one that could not
 * be opened. False when not even those are known; says nothing. */
bool target_take(struct target *target, enum slate_depth depth);

#endif
