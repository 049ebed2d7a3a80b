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

/**
 * Prepares a pass over anything that has extents. Reads and writes nothing.
 *
 * @param pass       filled in
 * @param supply     copied; its context is kept by reference
 * @param media      kept by reference
 * @param work       work buffer, kept by reference
 * @param work_bytes at least SLATE_WORK_MIN, and two blocks
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER
 */
SLATE_MUST_CHECK enum slate_status
slate_pass_begin(struct slate_pass *pass, const struct slate_supply *supply,
                 struct slate_media *media, void *work, size_t work_bytes);

/**
 * Prepares a pass over a draft. Reads and writes nothing.
 *
 * @param pass       filled in
 * @param draft      kept by reference
 * @param media      kept by reference; geometry as in the draft
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes; a larger buffer makes
 *                   larger steps
 * @param final      true: only what stays on the device
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER,
 *         SLATE_ERR_OTHER_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_pass_start(struct slate_pass *pass, const struct slate_draft *draft,
                 struct slate_media *media, void *work, size_t work_bytes,
                 bool final);

/**
 * The blocks to work on next: the start of pass->extent, as many as fit the
 * work buffer.
 *
 * @param pass a started pass
 * @return number of blocks; 0 when the pass has finished
 */
uint32_t slate_pass_chunk(struct slate_pass *pass);

/**
 * Compares the blocks in the work buffer with what the start of the extent is
 * composed as.
 *
 * @param pass       a started pass
 * @param count      of them, as slate_pass_chunk offered
 * @param difference receives what differs
 * @return SLATE_OK; or what a source says
 */
SLATE_MUST_CHECK enum slate_status
slate_pass_compare(const struct slate_pass *pass, uint32_t count,
                   struct slate_difference *difference);

/** Moves on by blocks that slate_pass_chunk offered. @param blocks of them */
void slate_pass_advance(struct slate_pass *pass, uint64_t blocks);

#ifdef __cplusplus
}
#endif
#endif
