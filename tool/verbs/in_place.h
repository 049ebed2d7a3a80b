/* SPDX-License-Identifier: MIT */
/* Changes in place, from consent to proof: what the verbs for them share. */
#ifndef TOOL_IN_PLACE_H
#define TOOL_IN_PLACE_H

#include "work/undertaking.h"

/* Carries out a draft that is made and was shown, with --consent; what: "a
 * label on". Says on stderr what is wrong; returns an exit code. */
int in_place_do(struct undertaking *work, const char *what);

/* "Written", "Proved", and how to put it back. */
void in_place_tell(const struct undertaking *work);

#endif
