/* SPDX-License-Identifier: MIT */
/* Proving a draft: composing everything again and comparing. */
#ifndef TRUESLATE_PROVE_H
#define TRUESLATE_PROVE_H

#include "trueslate/pass.h"

#ifdef __cplusplus
extern "C" {
#endif

/** State of the proof; placed by the caller. */
struct slate_prove {
    struct slate_pass pass;
    uint64_t different;          /**< blocks that differ from the draft */
    uint64_t first_different;    /**< the first of them, when different > 0 */
    const char *first_step;      /**< what that block was written for */
    struct slate_ranges *failed; /**< set by the caller once it is started, who
                                      places it: blocks of a round of
                                      overwriting that are not as written, and
                                      the proof goes on; NULL: they count as
                                      different, or end it */
    uint64_t unreadable;         /**< of these: could not be read */
    uint64_t altered;            /**< hold something else */
    struct slate_ahead reading;  /**< what is being read meanwhile */
    uint64_t alias, alias_of;    /**< SLATE_ERR_ALIAS: a block that shows what
                                      another one holds */
};

/**
 * Prepares the proof. Never writes.
 *
 * @param prove      filled in
 * @param draft      kept by reference
 * @param media      kept by reference
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER,
 *         SLATE_ERR_OTHER_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_prove_start(struct slate_prove *prove, const struct slate_draft *draft,
                  struct slate_media *media, void *work, size_t work_bytes);

/**
 * Prepares the proof of anything that has extents: a pattern, say.
 *
 * @param prove      filled in
 * @param supply     copied; its context is kept by reference
 * @param media      kept by reference
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER
 */
SLATE_MUST_CHECK enum slate_status
slate_prove_begin(struct slate_prove *prove, const struct slate_supply *supply,
                  struct slate_media *media, void *work, size_t work_bytes);

/**
 * Reads back and compares at most one work buffer. Until prove->pass.finished,
 * call it again. Blocks that differ are counted; they end nothing.
 *
 * @param prove a started proof
 * @return SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE, SLATE_ERR_SOURCE,
 *         SLATE_ERR_BAD_LIST (no room in failed for more)
 */
SLATE_MUST_CHECK enum slate_status slate_prove_step(struct slate_prove *prove);

/**
 * Ends a proof, also one that was not finished: nothing is read into the work
 * buffer any more.
 *
 * @param prove a started proof
 * @return SLATE_OK, or what became of what was being read
 */
SLATE_MUST_CHECK enum slate_status slate_prove_end(struct slate_prove *prove);

/**
 * All steps and the end of a proof that was started, in one call.
 *
 * @param prove    a started proof
 * @param progress called after each step; may be NULL
 * @param context  handed to @p progress
 * @return as slate_prove_run
 */
SLATE_MUST_CHECK enum slate_status
slate_prove_complete(struct slate_prove *prove, slate_progress progress,
                     void *context);

/**
 * Start, all steps and end in one call.
 *
 * @param prove      filled in
 * @param draft      as with slate_prove_start
 * @param media      as with slate_prove_start
 * @param work       as with slate_prove_start
 * @param work_bytes as with slate_prove_start
 * @param progress   called after each step; may be NULL
 * @param context    handed to @p progress
 * @return SLATE_OK when every block is as drafted; SLATE_ERR_UNPROVED;
 *         SLATE_ERR_STOPPED; as start and step
 */
SLATE_MUST_CHECK enum slate_status
slate_prove_run(struct slate_prove *prove, const struct slate_draft *draft,
                struct slate_media *media, void *work, size_t work_bytes,
                slate_progress progress, void *context);

#ifdef __cplusplus
}
#endif
#endif
