/* SPDX-License-Identifier: MIT */
/* What assess offers beside the remedy of a finding. */
#ifndef TOOL_OFFERS_H
#define TOOL_OFFERS_H

#include <jansson.h>

#include "target.h"

/* Where a part of the device belongs to no partition, one can be added, and a
 * draft takes that. Reads the table. */
bool offers_rest(struct target *target);

/* A conversion can make a new partition of the rest. Reads the table. */
bool offers_part(struct target *target, const struct slate_mend *mend);

/* Volumes may be where no partition is. */
bool offers_search(const struct target *target);

/* What a low-level format would be asked for, as options, where only that helps
 * with something that was found; NULL: nothing is. */
const char *offers_lowlevel(const struct target *target);

/* The names of those that hold, for programs. */
json_t *offers_report(struct target *target);

#endif
