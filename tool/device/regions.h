/* SPDX-License-Identifier: MIT */
/* How fast a device was, region by region, while it was worked on. */
#ifndef TOOL_REGIONS_H
#define TOOL_REGIONS_H

#include <jansson.h>

#include "device/target.h"

/* As many as a picture has columns. */
#define REGIONS 1184u

/* Divides the device of a target; the same regions are kept until it is
 * closed. */
struct slate_surface *regions_begin(struct target *target,
                                    enum target_regions which);

/* Notes blocks that failed. */
void regions_fail(struct slate_surface *surface,
                  const struct slate_ranges *failed);

/* The rate of most, and what was slow: nothing where nothing was timed. */
void regions_tell(const struct target *target, enum target_regions which);

/* The same for programs; NULL: nothing was timed. */
json_t *regions_report(const struct target *target, enum target_regions which);

#endif
