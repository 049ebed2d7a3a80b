/* SPDX-License-Identifier: MIT */
/* What was read of a device, so that the same can be read again later. */
#ifndef TRUESLATE_EVIDENCE_H
#define TRUESLATE_EVIDENCE_H

#include "trueslate/base.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Ranges that there is need for: a look takes no more commands than that. */
#define SLATE_EVIDENCE_RANGES 256u

/** Bytes of a check. */
#define SLATE_CHECK_BYTES 8

/** A range of blocks, and what it held. */
struct slate_seen {
    uint64_t first, count;
    uint8_t check[SLATE_CHECK_BYTES]; /**< the first bytes of its SHA-256; zeros
                                           stand for a block that could not be
                                           read */
};

/**
 * What was seen, in the order in which it was read, each range but once. Block
 * 0 is a range of its own: most of what is written begins and ends with it.
 */
struct slate_evidence {
    struct slate_seen *seen; /**< placed by the caller */
    uint32_t room;           /**< elements of it */
    uint32_t count;          /**< of them filled */
    bool cut;                /**< there was more than it has room for */
};

#ifdef __cplusplus
}
#endif
#endif
