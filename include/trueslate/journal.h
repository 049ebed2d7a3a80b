/* SPDX-License-Identifier: MIT */
/* What a draft will replace, kept beforehand; and putting it back. A journal is
 * enough by itself: no draft is needed, and nothing is composed. */
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

    /** Reads bytes from one on; fails where there are not so many. A journal is
     * read from front to end, but for the two halves of a record: so far back
     * as SLATE_RECORD_MOST reaches. */
    enum slate_status (*read)(void *context, uint64_t at, void *bytes,
                              uint32_t count);
};

/** Bytes of a journal's head (docs/formats.md). */
#define SLATE_JOURNAL_HEAD 128u

/** Bytes of a record at most, but for one that is a single block. */
#define SLATE_RECORD_MOST 589824u

/** What a journal tells people: UTF-8 without control characters. At most
 * SLATE_JOURNAL_WORDS - 1 bytes of each are kept. */
struct slate_journal_words {
    const char *gets; /**< what the device gets: "one exFAT volume" */
    const char *had;  /**< what it had; "": not known */
};

/** Room for one of these, with the final zero. */
#define SLATE_JOURNAL_WORDS 200u

/** Keeping; placed by the caller, who reads it for progress. */
struct slate_saving {
    struct slate_pass pass;
    const struct slate_keeper *keeper;
    struct slate_journal_one *from; /**< of version 1: what was there comes from
                                         it; NULL: from the device */
    struct slate_sha256 sha;        /**< of all but the content */
    uint64_t records;
    uint64_t bytes;    /**< that the journal has so far */
    uint64_t repeated; /**< blocks that are one byte again and again */
    uint64_t between;  /**< blocks of what stands in between only */
    uint32_t careful;  /**< blocks that come, and are read one by one */
    uint64_t lost; /**< blocks that could not be read: zeros would come back;
                        beyond 256 a whole transfer counts, as what fails on and
                        on takes long */
    bool unknown;  /**< what was written to the blocks that stand next */
    bool finished;
};

/**
 * Begins to keep what enacting a draft will replace. Reads the device, writes
 * nothing to it.
 *
 * @param saving     filled in
 * @param draft      kept by reference; files that it places are read, too
 * @param words      for people; not kept by reference
 * @param media      kept by reference
 * @param keeper     kept by reference; empty
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return SLATE_OK; as slate_pass_start; what the keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_saving_start(struct slate_saving *saving, const struct slate_draft *draft,
                   const struct slate_journal_words *words,
                   struct slate_media *media, const struct slate_keeper *keeper,
                   void *work, size_t work_bytes);

/**
 * Keeps at most one work buffer. Until saving->finished, call it again; only
 * then is the journal worth anything.
 *
 * @param saving a started one
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE, SLATE_ERR_SWAPPED,
 * SLATE_ERR_TAKEN_OUT, SLATE_ERR_SOURCE; what the keeper says
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

/** A record of a journal: blocks in a row. */
struct slate_record {
    uint64_t at;   /**< byte where its head is */
    uint64_t data; /**< and its content */
    uint64_t end;  /**< and what follows */
    uint64_t first;
    uint32_t count;
    uint32_t sum; /**< of its content */
    uint8_t kind, kept, written, between, kept_byte, written_byte, stage;
};

/** A journal that is read. */
struct slate_journal {
    const struct slate_keeper *keeper;
    uint32_t block_bytes;
    uint64_t block_count;
    uint8_t identity[SLATE_DIGEST_BYTES]; /**< of the device */
    uint8_t seal[SLATE_DIGEST_BYTES];     /**< of the draft */
    char tag[SLATE_TAG_ROOM];             /**< of the device */
    struct slate_stamp stamp;             /**< of the draft */
    char gets[SLATE_JOURNAL_WORDS];       /**< what the device was to get */
    char had[SLATE_JOURNAL_WORDS];        /**< and what it had, or "" */
    bool marked; /**< a mark stands in block 0 meanwhile: the device was set
                      up anew */
    uint64_t head_bytes; /**< up to the first record */
    /** Known once it was checked: */
    uint64_t blocks;  /**< that are put back */
    uint64_t between; /**< that are written ahead of them, and do not stay */
    uint64_t lost;    /**< blocks that could not be read when it was kept: zeros
                           stand for them */
    struct slate_record record; /**< the present one */
    enum slate_status status;   /**< the first failure to read one */
};

/**
 * Opens a journal, and reads its head.
 *
 * @param journal filled in
 * @param keeper  kept by reference
 * @return SLATE_OK; SLATE_ERR_JOURNAL for what is none, or has a damaged head;
 *         SLATE_ERR_JOURNAL_VERSION for one of another version, of which the
 *         tag, the stamp, the seal and the identity are filled in; what the
 *         keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_journal_open(struct slate_journal *journal,
                   const struct slate_keeper *keeper);

/**
 * Reads all of a journal: is it whole?
 *
 * @param journal an open one
 * @param work    SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_JOURNAL; what the keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_journal_check(struct slate_journal *journal, void *work);

/** Rewinding; placed by the caller. */
struct slate_rewind {
    struct slate_enact enact; /**< its pass tells the progress of writing */
    struct slate_pass look;   /**< and this one that of looking, ahead of it */
    struct slate_journal *journal;
    uint64_t replaced; /**< blocks that hold what was written then */
    uint64_t changed;  /**< blocks that hold neither that nor what was kept */
    uint64_t first_changed;
};

/**
 * Begins to look whether a device is what enacting a draft has left, whole or
 * half-way. Writes nothing.
 *
 * @param rewind     filled in
 * @param journal    an open one that was checked; kept by reference
 * @param media      kept by reference
 * @param work       work buffer, kept by reference
 * @param work_bytes at least SLATE_WORK_MIN, and two blocks
 * @return SLATE_OK; SLATE_ERR_OTHER_DEVICE, SLATE_ERR_BUFFER
 */
SLATE_MUST_CHECK enum slate_status
slate_rewind_begin(struct slate_rewind *rewind, struct slate_journal *journal,
                   struct slate_media *media, void *work, size_t work_bytes);

/** Looks at one work buffer. Until rewind->look.finished, call it again.
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
