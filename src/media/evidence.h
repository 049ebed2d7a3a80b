/* SPDX-License-Identifier: MIT */
/* Gathering evidence while a device is looked at, and holding it against the
 * device later. */
#ifndef SLATE_MEDIA_EVIDENCE_H
#define SLATE_MEDIA_EVIDENCE_H

#include "trueslate/evidence.h"
#include "trueslate/media.h"

/* Sees what is read of one device, as long as slate_media.witness is it. */
struct slate_witness {
    struct slate_sha256 first, rest;
    struct slate_evidence *evidence; /* the digests come at the end */
    bool has_first;
};

void slate_witness_start(struct slate_witness *witness,
                         struct slate_evidence *evidence);

/* data: what was read. joined: a range that goes on where the last one ended
 * becomes one with it. */
void slate_witness_see(struct slate_witness *witness, uint64_t lba,
                       uint32_t count, const uint8_t *data,
                       uint32_t block_bytes, bool joined);

void slate_witness_end(struct slate_witness *witness);

/* Reads again all that was read, but for block 0. same: as it was. work holds
 * SLATE_WORK_MIN bytes. SLATE_ERR_NO_DEVICE, SLATE_ERR_SWAPPED, but no error
 * for blocks that cannot be read: zeros stand for them, as before. */
enum slate_status slate_evidence_holds(struct slate_media *media,
                                       const struct slate_evidence *evidence,
                                       uint8_t *work, bool *same);

#endif
