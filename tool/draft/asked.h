/* SPDX-License-Identifier: MIT */
/* What is asked of a draft: by the command line, and by an earlier draft that
 * it revises. */
#ifndef TOOL_ASKED_H
#define TOOL_ASKED_H

#include "base/options.h"
#include "device/target.h"

/* All that is wanted, and choices; former: NULL, or what is taken where the
 * command line says nothing. Says on stderr what is wrong; returns an exit
 * code. */
int asked_fill(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft);

/* Is what the command line says what a draft has? What it does not say is as
 * that draft has it. beside: partitions of it stay, which are read. Says on
 * stderr what makes no sense; returns an exit code. */
int asked_compare(struct target *target, const struct options *options,
                  struct slate_draft *drafted, bool beside, bool *same);

/* Choices alone, and what may be lifted, for a change in place. */
int asked_choose(struct target *target, const struct options *options,
                 struct slate_draft *draft);

#endif
