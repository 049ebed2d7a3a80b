/* SPDX-License-Identifier: MIT */
/* The host's time as a time stamp. */
#ifndef TOOL_STAMP_H
#define TOOL_STAMP_H

#include <time.h>

#include <trueslate/trueslate.h>

/* parts: NULL, or beyond what a volume can tell: not known */
void stamp_take(const struct tm *parts, struct slate_stamp *stamp);

#endif
