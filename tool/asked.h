/* SPDX-License-Identifier: MIT */
/* What is asked of a draft: by the command line, and by an earlier draft that
 * it revises. */
#ifndef TOOL_ASKED_H
#define TOOL_ASKED_H

#include "options.h"
#include "target.h"

/* Goal, parts and choices; former: NULL, or what is taken where the command
 * line says nothing. Says on stderr what is wrong; returns an exit code. */
int asked_fill(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft);

/* Choices alone, and what may be lifted, for a change in place. */
int asked_choose(struct target *target, const struct options *options,
                 struct slate_draft *draft);

#endif
