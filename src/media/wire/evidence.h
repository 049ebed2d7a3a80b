/* SPDX-License-Identifier: MIT */
/* Gathering evidence while a device is looked at, and holding it against the
 * device later. */
#ifndef SLATE_MEDIA_EVIDENCE_H
#define SLATE_MEDIA_EVIDENCE_H

#include "trueslate/evidence.h"
#include "trueslate/media.h"

/* Sees what is read of one device, as long as slate_policy.witness is it. */
struct slate_witness {
    struct slate_sha256 sha; /* of the last range, as far as it goes */
    struct slate_evidence *evidence;
};

void slate_witness_start(struct slate_witness *witness,
                         struct slate_evidence *evidence);

/* data: what was read. joined: a range that goes on where the last one ended
 * becomes one with it. */
void slate_witness_see(struct slate_witness *witness, uint64_t lba,
                       uint32_t count, const uint8_t *data,
                       uint32_t block_bytes, bool joined);

void slate_witness_end(struct slate_witness *witness);

bool slate_evidence_equal(const struct slate_evidence *a,
                          const struct slate_evidence *b);

/* Reads a range again; same: it holds what it held. work takes SLATE_WORK_MIN
 * bytes. Where slate_policy.unread is set, what cannot be read is no error. */
enum slate_status slate_seen_again(struct slate_media *media,
                                   const struct slate_seen *seen, uint8_t *work,
                                   bool *same);

#endif
