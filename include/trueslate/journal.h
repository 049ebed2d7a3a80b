/* SPDX-License-Identifier: MIT */
/* What a draft will replace, kept beforehand; and putting it back. */
#ifndef TRUESLATE_JOURNAL_H
#define TRUESLATE_JOURNAL_H

#include "trueslate/door.h"
#include "trueslate/enact.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Where journals are kept: a file, or memory of a board. Each call returns
 * SLATE_OK, or what became of it: SLATE_ERR_KEEPER as a rule. */
struct slate_keeper {
    void *context;

    /** Adds bytes at the end. */
    enum slate_status (*append)(void *context, const void *bytes,
                                uint32_t count);

    /** What was added outlives a power cut from now on. */
    enum slate_status (*sync)(void *context);

    /** Reads bytes from one on; fails where there are not so many. */
    enum slate_status (*read)(void *context, uint64_t at, void *bytes,
                              uint32_t count);
};

/** Bytes of a journal's head (docs/formats.md). */
#define SLATE_JOURNAL_HEAD 128u

/** Keeping; placed by the caller, who reads it for progress. */
struct slate_saving {
    struct slate_pass pass;
    const struct slate_keeper *keeper;
    struct slate_sha256 sha;
    uint64_t records;
    uint64_t bytes;    /**< that the journal has so far */
    uint64_t repeated; /**< blocks that are one byte again and again */
    uint64_t lost; /**< blocks that could not be read: zeros would come back;
                        beyond 256 a whole transfer counts, as what fails on and
                        on takes long */
    bool finished;
};

/**
 * Begins to keep what enacting a draft will replace. Reads the device, writes
 * nothing to it.
 *
 * @param saving     filled in
 * @param draft      kept by reference
 * @param stored     its stored form (slate_draft_store), which goes into the
 *                   journal
 * @param media      kept by reference
 * @param keeper     kept by reference; empty
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return SLATE_OK; as slate_pass_start; what the keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_saving_start(struct slate_saving *saving, const struct slate_draft *draft,
                   const struct slate_bytes *stored, struct slate_media *media,
                   const struct slate_keeper *keeper, void *work,
                   size_t work_bytes);

/**
 * Keeps at most one work buffer. Until saving->finished, call it again; only
 * then is the journal worth anything.
 *
 * @param saving a started one
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE, SLATE_ERR_SWAPPED; what the keeper
 *         says
 */
SLATE_MUST_CHECK enum slate_status
slate_saving_step(struct slate_saving *saving);

/**
 * All steps of keeping in one call.
 *
 * @param saving   a started one
 * @param progress called after each step; may be NULL
 * @param context  handed to @p progress
 * @return as the step, or SLATE_ERR_STOPPED when progress said so
 */
SLATE_MUST_CHECK enum slate_status slate_saving_run(struct slate_saving *saving,
                                                    slate_progress progress,
                                                    void *context);

/** A journal that is read. */
struct slate_journal {
    const struct slate_keeper *keeper;
    uint32_t block_bytes;
    uint64_t block_count;
    uint8_t identity[SLATE_DIGEST_BYTES]; /**< of the device */
    uint8_t seal[SLATE_DIGEST_BYTES];     /**< of the draft */
    char tag[SLATE_TAG_ROOM];             /**< of the device */
    struct slate_stamp stamp;             /**< of the draft */
    uint64_t draft_at;                    /**< byte where its stored form is */
    uint32_t draft_bytes;                 /**< its length */
    uint64_t lost;  /**< blocks that could not be read when it was kept: zeros
                         stand for them; known once it was checked */
    uint64_t at;    /**< where the record is that is read next */
    uint64_t first; /**< the blocks of the present one */
    uint32_t count, done;
    uint64_t data; /**< byte where its content is */
    uint8_t kind, byte;
};

/**
 * Opens a journal, and reads its head.
 *
 * @param journal filled in
 * @param keeper  kept by reference
 * @return SLATE_OK; SLATE_ERR_JOURNAL for what is none, or has a damaged head;
 *         what the keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_journal_open(struct slate_journal *journal,
                   const struct slate_keeper *keeper);

/**
 * Reads all of a journal: is it whole, and of this draft?
 *
 * @param journal an open one
 * @param draft   as it was restored from the journal
 * @param work    SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_JOURNAL; what the keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_journal_check(struct slate_journal *journal,
                    const struct slate_draft *draft, void *work);

/** Rewinding; placed by the caller. */
struct slate_rewind {
    struct slate_enact enact; /**< its pass tells the progress of writing */
    struct slate_pass look;   /**< and this one that of looking, ahead of it */
    struct slate_journal *journal;
    const struct slate_draft *draft;
    uint64_t replaced; /**< blocks that hold what the draft wrote */
    uint64_t changed;  /**< blocks that hold neither that nor what was kept */
    uint64_t first_changed;
};

/**
 * Begins to look whether a device is what enacting a draft has left, whole or
 * half-way. Writes nothing.
 *
 * @param rewind     filled in
 * @param journal    an open one that was checked; kept by reference
 * @param draft      of the journal; kept by reference
 * @param media      kept by reference
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return SLATE_OK; as slate_pass_start
 */
SLATE_MUST_CHECK enum slate_status
slate_rewind_begin(struct slate_rewind *rewind, struct slate_journal *journal,
                   const struct slate_draft *draft, struct slate_media *media,
                   void *work, size_t work_bytes);

/** Looks at one work buffer. Until rewind->look.finished, call it again. A
 * block of a placed file that is not there to be compared counts as changed.
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE; what the keeper says */
SLATE_MUST_CHECK enum slate_status
slate_rewind_look(struct slate_rewind *rewind);

/**
 * The whole look in one call.
 *
 * @param rewind   has begun
 * @param progress called after each step; may be NULL
 * @param context  handed to @p progress
 * @return as slate_rewind_look, or SLATE_ERR_STOPPED when progress said so
 */
SLATE_MUST_CHECK enum slate_status
slate_rewind_find(struct slate_rewind *rewind, slate_progress progress,
                  void *context);

/**
 * Enters the device, to put back what was kept. Then slate_enact_step on
 * rewind->enact until its pass has finished, and slate_enact_end. What is cut
 * is begun anew: the device shows the unfinished mark meanwhile, or, where
 * partitions stay, a table of these alone.
 *
 * @param rewind  has looked
 * @param agreed  what was agreed to
 * @param anyway  also where blocks have changed since: that is lost then
 * @return SLATE_OK; SLATE_ERR_USED where something has changed since;
 *         SLATE_ERR_ALREADY where all is as it was; SLATE_ERR_PROTECTED; as
 *         slate_door_enter
 */
SLATE_MUST_CHECK enum slate_status
slate_rewind_start(struct slate_rewind *rewind,
                   const struct slate_agreement *agreed, bool anyway);

#ifdef __cplusplus
}
#endif
#endif
