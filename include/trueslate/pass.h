/* SPDX-License-Identifier: MIT */
/* A pass over extents, a bounded amount of work at a time. */
#ifndef TRUESLATE_PASS_H
#define TRUESLATE_PASS_H

#include "trueslate/draft.h"
#include "trueslate/surface.h"

#ifdef __cplusplus
extern "C" {
#endif

/** State of a pass; read it for progress, change nothing. */
struct slate_pass {
    struct slate_supply supply;      /**< what it goes over */
    const struct slate_draft *draft; /**< where that is one; else NULL */
    struct slate_media *media;
    uint8_t *work;
    uint8_t *scratch;           /**< comparing: the other half of the buffer */
    uint32_t work_blocks;       /**< blocks of one step */
    struct slate_walk walk;     /**< behind the current extent */
    struct slate_extent extent; /**< the current one; its count may be 0 */
    uint64_t done;              /**< blocks behind us */
    uint64_t total;             /**< blocks altogether */
    bool finished;
    struct slate_surface *surface; /**< set by the caller once it is started:
                                        how long each region takes, by the
                                        port's clock; else NULL */
    uint64_t clock;           /**< milliseconds, when that was last noted */
    enum slate_status status; /**< the first failure, for good */
};

/** Blocks behind the present ones, which are read meanwhile. */
struct slate_ahead {
    struct slate_pending pending[2]; /**< what is under way */
    uint32_t newest;                 /**< of them */
    uint8_t *work;                   /**< where to; NULL: one after the other */
    uint32_t blocks;                 /**< 0: nothing is under way */
    struct slate_fault before;       /**< of the device, ahead of all of it */
};

/**
 * Is called between the steps of a long operation.
 *
 * @param context as given with the function
 * @param pass    how far it is; extent tells what is being done
 * @return false to stop the operation with SLATE_ERR_STOPPED
 */
typedef bool (*slate_progress)(void *context, const struct slate_pass *pass);

#ifdef __cplusplus
}
#endif
#endif
