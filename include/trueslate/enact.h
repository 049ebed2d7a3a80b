/* SPDX-License-Identifier: MIT */
/* Carrying out a draft: the only part of the core that writes to a device. */
#ifndef TRUESLATE_ENACT_H
#define TRUESLATE_ENACT_H

#include "trueslate/pass.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What was found out on the first blocks: how long they take. */
struct slate_pace {
    uint64_t read_blocks, read_ms, written_blocks, written_ms;
    bool known;    /**< enough of both was timed */
    bool compares; /**< reading is so much faster that blocks are compared, and
                        left alone where they are equal already */
};

/** A transfer that is being written. */
struct slate_sending {
    struct slate_pending pending;
    bool begun; /**< and not waited for yet */
    bool round; /**< it is of a round of overwriting */
    uint32_t blocks;
    uint64_t first;
    const uint8_t *data;
    struct slate_fault fault; /**< of the device, before it */
};

/** State of the work; placed by the caller, who reads pass for progress. */
struct slate_enact {
    struct slate_pass pass;
    bool switched; /**< partitions stay, or a change in place: no mark tells
                        what is under way */
    uint8_t seal[SLATE_DIGEST_BYTES]; /**< of the draft: it is in the mark */
    bool resumed;      /**< an interrupted run of the same draft goes on */
    uint64_t written;  /**< blocks that really went to the device */
    uint64_t cleared;  /**< blocks that it has set to zeros by a command */
    bool writes_zeros; /**< by sending them: when that command did not hold, or
                            a caller wants it so, who sets this once started */
    bool looked;       /**< block 0 could be read when it was looked at */
    uint8_t first[SLATE_DIGEST_BYTES]; /**< and this is its digest */
    uint64_t equal; /**< blocks that were as drafted already, and left alone */
    struct slate_pace pace;
    struct slate_sending sending[2]; /**< what is being written meanwhile */
    uint32_t newest;                 /**< of them */
    struct slate_ahead reading;      /**< what is being read meanwhile */
    enum slate_moment moment;        /**< of what was written last */
    struct slate_ranges *failed; /**< set by the caller once it is started, who
                                      places it: blocks that a round could not
                                      write, or that it reads back as something
                                      else, and the work goes on; NULL: the
                                      first one ends it */
    uint64_t unwritable;         /**< of these: could not be written */
    uint64_t unreadable;         /**< could not be read back */
    uint64_t altered;            /**< read back as something else */
    uint64_t discarded; /**< blocks that the device took as forgotten */
    uint64_t safe; /**< of pass.done: what has come to rest on the medium; for
                        slate_enact_go_on */
    uint64_t flushed_ms;  /**< when that was, by the device's clock */
    uint32_t flush_ms;    /**< and how long it took */
    enum slate_deed deed; /**< of the sweep that goes on, and its round */
    uint32_t round;
    uint64_t alias;  /**< SLATE_ERR_ALIAS: a block that showed in block 0; of
                          a round that is the same everywhere, the last one
                          that may have */
    bool ahead;      /**< in it, nothing that stands next is in place yet */
    uint32_t lifted; /**< guards that were lifted: a sum of SLATE_GUARD_BIT */
};

/**
 * Checks everything that can be checked, enters the device, and lifts what the
 * draft says; writes nothing.
 *
 * The draft is refused on another device and when the blocks that decided it
 * have changed. A device that bears the unfinished mark of this very draft is
 * accepted: the work goes on, and what already compares equal is left alone.
 *
 * @param enact      filled in
 * @param draft      kept by reference
 * @param media      kept by reference; writable
 * @param consent    the device's tag, repeated by the person
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return SLATE_OK; SLATE_ERR_OTHER_DEVICE, SLATE_ERR_CONSENT,
 *         SLATE_ERR_PROTECTED (by something that the draft does not lift),
 *         SLATE_ERR_GUARD (the device refuses to have it lifted),
 *         SLATE_ERR_STILL_GUARDED, SLATE_ERR_CHANGED, SLATE_ERR_ALREADY,
 *         SLATE_ERR_BUFFER, SLATE_ERR_READ, SLATE_ERR_BUSY,
 *         SLATE_ERR_SOURCE (a file to be placed is not there any more, or
 *         has another length), SLATE_ERR_NO_DEVICE. After a failure nothing is
 *         claimed.
 */
SLATE_MUST_CHECK enum slate_status
slate_enact_start(struct slate_enact *enact, const struct slate_draft *draft,
                  struct slate_media *media, const char *consent, void *work,
                  size_t work_bytes);

/**
 * Checks all that slate_enact_start checks, without claiming the device: before
 * anything is unmounted or lifted for its sake. Changes nothing.
 *
 * @param enact      filled in; enact->resumed tells whether work goes on
 * @param draft      as with slate_enact_start
 * @param media      as with slate_enact_start
 * @param consent    as with slate_enact_start
 * @param work       as with slate_enact_start
 * @param work_bytes as with slate_enact_start
 * @return as slate_enact_start, but for SLATE_ERR_BUSY
 */
SLATE_MUST_CHECK enum slate_status
slate_enact_check(struct slate_enact *enact, const struct slate_draft *draft,
                  struct slate_media *media, const char *consent, void *work,
                  size_t work_bytes);

/**
 * Writes at most one work buffer. Until enact->pass.finished, call it again;
 * not calling it again is how the work is cancelled. After a failure every
 * further call returns the same status.
 *
 * @param enact a started enact
 * @return SLATE_OK, SLATE_ERR_WRITE, SLATE_ERR_READ, SLATE_ERR_PROTECTED,
 *         SLATE_ERR_SWAPPED, SLATE_ERR_TAKEN_OUT (another medium is in it:
 *         looked for before each step on a removable one), SLATE_ERR_UNPROVED
 *         (it still shows the old block 0, or reads back a round as something
 *         else, and failed is not set), SLATE_ERR_SOURCE (a file to be placed
 *         is not what it was),
 *         SLATE_ERR_ALIAS (a round has shown in block 0, too),
 *         SLATE_ERR_BAD_LIST (no room in failed for more), SLATE_ERR_BAD_BLOCK
 *         (blocks failed, all rounds are done, and a volume would come over
 *         them: once slate_draft_round_supply is proved, to be drafted anew
 *         with these as bad), SLATE_ERR_NO_DEVICE; media->fault tells where
 */
SLATE_MUST_CHECK enum slate_status slate_enact_step(struct slate_enact *enact);

/**
 * Goes on with overwriting where an earlier run had come to, so that what it
 * has done is neither read nor written once more. Behind a start, before the
 * first step. The block ahead of that place is looked at: when it is not as the
 * draft has it there, all goes on as without this call. Without it, a started
 * enact looks for rounds of random data, and compares all else.
 *
 * @param enact a started enact
 * @param done  enact->safe of the earlier run
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE, SLATE_ERR_SWAPPED, SLATE_ERR_TAKEN_OUT
 */
SLATE_MUST_CHECK enum slate_status slate_enact_go_on(struct slate_enact *enact,
                                                     uint64_t done);

/**
 * Gives the device back to its host. Due after every successful start, also
 * when the work was cancelled or failed.
 *
 * @param enact a started enact
 * @return SLATE_OK, or what the port says
 */
SLATE_MUST_CHECK enum slate_status slate_enact_end(struct slate_enact *enact);

/**
 * All steps and the end of an enact that was started, in one call.
 *
 * @param enact    a started enact
 * @param progress called after each step; may be NULL
 * @param context  handed to @p progress
 * @return as step and end, or SLATE_ERR_STOPPED when progress said so
 */
SLATE_MUST_CHECK enum slate_status
slate_enact_complete(struct slate_enact *enact, slate_progress progress,
                     void *context);

/**
 * Start, all steps and end in one call.
 *
 * @param enact      filled in
 * @param draft      as with slate_enact_start
 * @param media      as with slate_enact_start
 * @param consent    as with slate_enact_start
 * @param work       as with slate_enact_start
 * @param work_bytes as with slate_enact_start
 * @param progress   called after each step; may be NULL
 * @param context    handed to @p progress
 * @return as start and step, or SLATE_ERR_STOPPED when progress said so
 */
SLATE_MUST_CHECK enum slate_status
slate_enact_run(struct slate_enact *enact, const struct slate_draft *draft,
                struct slate_media *media, const char *consent, void *work,
                size_t work_bytes, slate_progress progress, void *context);

#ifdef __cplusplus
}
#endif
#endif
