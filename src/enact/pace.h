/* SPDX-License-Identifier: MIT */
/* Is reading so much faster than writing that blocks which are equal already
 * are better left alone? */
#ifndef SLATE_ENACT_PACE_H
#define SLATE_ENACT_PACE_H

#include "trueslate/enact.h"

/* Shall the next blocks be read and compared before they are written? */
bool slate_enact_compares(const struct slate_enact *enact);

/* Takes note of how long blocks took, begun at a time of the port's clock; once
 * it is known, decides. */
void slate_enact_note_read(struct slate_enact *enact, uint32_t count,
                           uint64_t began);
void slate_enact_note_write(struct slate_enact *enact, uint32_t count,
                            uint64_t began);

#endif
