/* SPDX-License-Identifier: MIT */
/* The list behind --lift: which guards a person wants to have lifted. */
#ifndef TOOL_LIFTS_H
#define TOOL_LIFTS_H

#include "base/options.h"
#include "device/target.h"

/* Is every name in the list one? That a device has no such guard is no
 * mistake. */
bool lifts_are_known(const char *list);

/* Does the list ask for this guard? "all" means those that a command lifts and
 * that nobody has set on purpose; the others are lifted only by their name.
 * NULL asks for nothing. */
bool lifts_want(const char *list, const struct slate_guard *guard);

/* The kinds that are named: a sum of SLATE_GUARD_BIT. */
uint32_t lifts_named(const char *list);

#endif
