/* SPDX-License-Identifier: MIT */
/* Which devices were attached when the tool was told to remember them. */
#ifndef TOOL_REMEMBERED_H
#define TOOL_REMEMBERED_H

#include <jansson.h>

#include "look/attachments.h"

/* Keeps in mind which devices are attached. Returns an exit code. */
int state_remember(const struct attached *attached);

/* The list that was kept, a new reference; NULL for none. */
json_t *state_remembered(void);

/* Takes a device off the list once; false when it is not on it. Two devices
 * that cannot be told apart stand on it twice. */
bool state_forget_one(json_t *list, const struct target *target);

#endif
