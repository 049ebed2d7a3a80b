/* SPDX-License-Identifier: MIT */
/* Is a device what a draft was made from, or what enacting it has left
 * half-way, or neither? */
#ifndef SLATE_ENACT_JUDGE_H
#define SLATE_ENACT_JUDGE_H

#include "trueslate/enact.h"

/* Sets enact->resumed, looked and first. SLATE_OK: go on; SLATE_ERR_CHANGED,
 * SLATE_ERR_ALREADY: do not. */
enum slate_status slate_enact_judge(struct slate_enact *enact);

/* Reads block 0, and takes its digest; what cannot be read is not looked at. */
enum slate_status slate_enact_look(struct slate_enact *enact);

/* The same for a draft that keeps partitions, where block 0 tells nothing. */
enum slate_status slate_enact_judge_switched(struct slate_enact *enact);

/* Are these blocks as they should be? What cannot be read is not. */
enum slate_status slate_enact_equal(struct slate_pass *pass,
                                    const struct slate_extent *extent,
                                    uint32_t count, bool *equal);

/* Of the block in the work buffer. */
void slate_enact_digest(const struct slate_pass *pass,
                        uint8_t digest[SLATE_DIGEST_BYTES]);

#endif
