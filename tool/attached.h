/* SPDX-License-Identifier: MIT */
/* All devices that are attached: those of a bench, or those of the host. */
#ifndef TOOL_ATTACHED_H
#define TOOL_ATTACHED_H

#include "options.h"
#include "target.h"

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

/* How many attached devices bear a tag (2 for more than one), and the address
 * of one of them. -1: there is no such bench. */
int attached_find(const char *bench, const char *tag, char *address,
                  size_t room);

/* How many others in the list say exactly the same of themselves. */
uint32_t attached_twins(const struct attached *attached, uint32_t index);

/* Calls back with the address of each device, in the order of the list. */
bool attached_each(const char *bench,
                   void (*found)(void *context, const char *address),
                   void *context);

#endif
