/* SPDX-License-Identifier: MIT */
/* What assess offers beside the remedy of a finding. */
#ifndef TOOL_OFFERS_H
#define TOOL_OFFERS_H

#include <jansson.h>

#include "device/target.h"

/* Looks, while the device is open, whether a partition can be added where a
 * part of it belongs to none, and notes whether a draft takes that. Reads the
 * table.
 */
void offers_look(struct target *target);

/* What was noted. */
bool offers_rest(const struct target *target);

/* A conversion can make a new partition of the rest. Reads the table. */
bool offers_part(struct target *target, const struct slate_mend *mend);

/* Volumes may be where no partition is. */
bool offers_search(const struct target *target);

/* What a low-level format would be asked for, as options, where only that helps
 * with something that was found; NULL: nothing is. */
const char *offers_lowlevel(const struct target *target);

/* The names of those that hold, for programs. */
json_t *offers_report(const struct target *target);

#endif
