/* SPDX-License-Identifier: MIT */
/* What was read of a device, so that the same can be read again later. */
#ifndef TRUESLATE_EVIDENCE_H
#define TRUESLATE_EVIDENCE_H

#include "trueslate/base.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Ranges that there is room for: a look takes no more commands than that. */
#define SLATE_EVIDENCE_RANGES 256u

/**
 * Which blocks were read, and what they held. Zeros stand for a block that
 * could not be read. Block 0 is apart from all others: a renewal writes it
 * first, so what it replaced is told by the others.
 */
struct slate_evidence {
    uint8_t first[SLATE_DIGEST_BYTES]; /**< SHA-256 of block 0 */
    uint8_t rest[SLATE_DIGEST_BYTES]; /**< of the ranges, one after the other */
    /** In the order in which they were read; none within an earlier one. */
    struct slate_ranges read;
};

#ifdef __cplusplus
}
#endif
#endif
