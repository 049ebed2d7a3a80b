/* SPDX-License-Identifier: MIT */
/* Which devices are meant, of those that come: by kind and size. */
#ifndef TOOL_EXPECTED_H
#define TOOL_EXPECTED_H

#include "device/target.h"

/* "card,32GB"? */
bool expected_is_known(const char *list);

/* Is the device what the list says? NULL: sticks and cards of any size. why:
 * receives what it is instead. */
bool expected_fits(const char *list, const struct target *target, char *why,
                   size_t room);

#endif
