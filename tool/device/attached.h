/* SPDX-License-Identifier: MIT */
/* All devices that are attached: those of a bench, or those of the host. */
#ifndef TOOL_ATTACHED_H
#define TOOL_ATTACHED_H

#include "base/options.h"
#include "device/target.h"

/* How many attached devices bear a tag (2 for more than one), and the address
 * of one of them. -1: there is no such bench. */
int attached_find(const char *bench, const char *tag, char *address,
                  size_t room);

/* Calls back with the address of each device, in the order of the list. */
bool attached_each(const char *bench,
                   void (*found)(void *context, const char *address),
                   void *context);

#endif
