/* SPDX-License-Identifier: MIT */
/* The rounds of overwriting. */
#ifndef SLATE_ENACT_OVER_H
#define SLATE_ENACT_OVER_H

#include "trueslate/enact.h"

/* Does what is to be done to the blocks that stand next; *count: of them, and
 * more where the device does it by itself. */
enum slate_status slate_enact_over(struct slate_enact *enact, uint32_t *count);

/* Block 0, in the work buffer, is not what it was: does it show what a round
 * has just written elsewhere? SLATE_ERR_ALIAS; else SLATE_ERR_SWAPPED. */
enum slate_status slate_enact_judge_alias(struct slate_enact *enact);

/* Behind the last round. SLATE_ERR_BAD_BLOCK when a volume would come over
 * blocks that have failed. */
enum slate_status slate_enact_over_end(struct slate_enact *enact);

/* Looks on the device how far an interrupted run has come, and goes on from
 * there. */
enum slate_status slate_enact_find_round(struct slate_enact *enact);

#endif
