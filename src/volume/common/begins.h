/* SPDX-License-Identifier: MIT */
/* Whether a volume begins at the start of a range, by what its own first blocks
 * say. */
#ifndef SLATE_VOLUME_BEGINS_H
#define SLATE_VOLUME_BEGINS_H

#include "volume/common/kind.h"

/* Is a volume recognised at the start of the range? Two transfers, at most. */
bool slate_volume_begins(struct slate_reader *reader,
                         struct slate_volume *volume);

enum slate_here slate_volume_place(struct slate_reader *reader,
                                   const struct slate_volume *volume);

/* Is what the first block leads to there? False also for kinds of which that is
 * not known here: */
bool slate_volume_leads_on(struct slate_reader *reader,
                           const struct slate_volume *volume);

/* Is it? */
bool slate_volume_has_ground(enum slate_volume_kind kind);

#endif
