/* SPDX-License-Identifier: MIT */
/* Devices that are attached, or named: looked at, and let go of. */
#ifndef TOOL_ATTACHMENTS_H
#define TOOL_ATTACHMENTS_H

#include "base/options.h"
#include "device/target.h"

/* Devices that a list can hold; more are not shown. */
#define ATTACHED_MOST 256

struct attached {
    uint32_t count;
    struct target *target[ATTACHED_MOST];
};

/* What else is asked of a device of which the facts are known, while it is
 * open; NULL for nothing. */
typedef void (*attached_look)(struct target *target);

/* Opens each device, looks at it as closely as asked for, and lets go of it.
 * bench NULL: the host's. False when there is no such bench, or the host does
 * not tell. */
bool attached_open(struct attached *attached, const char *bench,
                   enum slate_depth depth, attached_look also);

/* The same with the devices that a command names; nothing is said of those
 * that are not there, but known tells. */
void attached_named(struct attached *attached, const struct options *options,
                    attached_look also);

void attached_close(struct attached *attached);

/* How many others in the list say exactly the same of themselves. */
uint32_t attached_twins(const struct attached *attached, uint32_t index);

#endif
