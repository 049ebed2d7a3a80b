/* SPDX-License-Identifier: MIT */
/* What is free on large volumes: a look leaves it open. */
#ifndef TOOL_COUNT_H
#define TOOL_COUNT_H

#include "device/target.h"

/* Counts it for the volumes of a device that was looked at, with progress.
 * Where that fails it stays open: nothing is said. */
void count_free(struct target *target);

#endif
