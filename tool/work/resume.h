/* SPDX-License-Identifier: MIT */
/* How far overwriting has come, kept while it goes on: so that it goes on from
 * there, whatever ends it. */
#ifndef TOOL_RESUME_H
#define TOOL_RESUME_H

#include "device/target.h"

/* What an earlier run of the draft has kept: blocks that are done for sure, and
 * those that failed, for drafted_failed. 0: nothing is known. */
uint64_t resume_load(const struct target *target,
                     const struct slate_draft *draft);

/* Keeps it; where that is not possible, going on takes longer. */
void resume_save(const struct target *target, const struct slate_draft *draft,
                 uint64_t done);

void resume_drop(const struct target *target, const struct slate_draft *draft);

#endif
