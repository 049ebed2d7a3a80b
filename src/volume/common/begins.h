/* SPDX-License-Identifier: MIT */
/* Whether a volume begins at the start of a range, by what its own first blocks
 * say. */
#ifndef SLATE_VOLUME_BEGINS_H
#define SLATE_VOLUME_BEGINS_H

#include "volume/common/read.h"

/* Is a volume recognised at the start of the range? Two transfers, at most. */
bool slate_volume_begins(struct slate_reader *reader,
                         struct slate_volume *volume);

/* What its first block says of the place where it stands. */
enum slate_here {
    SLATE_HERE_UNTOLD,
    SLATE_HERE_TOLD, /* names it */
    SLATE_HERE_COPY  /* it is a copy, of a volume that begins elsewhere */
};
enum slate_here slate_volume_place(struct slate_reader *reader,
                                   const struct slate_volume *volume);

/* Is what the first block leads to there? False also for kinds of which that is
 * not known here: */
bool slate_volume_leads_on(struct slate_reader *reader,
                           const struct slate_volume *volume);

/* Is it? */
bool slate_volume_has_ground(enum slate_volume_kind kind);

/* The same of a first block, or a copy of it, at a byte of the range. */
bool slate_exfat_leads_on(struct slate_reader *reader, uint64_t byte);
bool slate_ntfs_leads_on(struct slate_reader *reader, uint64_t byte);
bool slate_ext_leads_on(struct slate_reader *reader, uint64_t byte,
                        uint32_t unit);

#endif
