/* SPDX-License-Identifier: MIT */
/* Journals of version 1, which need their draft: made into present ones. */
#ifndef TRUESLATE_JOURNAL_ONE_H
#define TRUESLATE_JOURNAL_ONE_H

#include "trueslate/journal.h"

#ifdef __cplusplus
extern "C" {
#endif

/** A journal of version 1. */
struct slate_journal_one {
    const struct slate_keeper *keeper;
    uint32_t block_bytes;
    uint64_t block_count;
    uint8_t identity[SLATE_DIGEST_BYTES];
    uint8_t seal[SLATE_DIGEST_BYTES]; /**< of the draft that it needs */
    uint64_t draft_at;                /**< byte where its stored form is */
    uint32_t draft_bytes;             /**< its length */
    uint64_t at;    /**< where the record is that is read next */
    uint64_t first; /**< the blocks of the present one */
    uint32_t count, done;
    uint64_t data; /**< byte where its content is */
    uint8_t kind, byte;
};

/**
 * Opens one, and reads its head.
 *
 * @param one    filled in
 * @param keeper kept by reference
 * @return SLATE_OK; SLATE_ERR_JOURNAL for what is none of version 1; what the
 *         keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_journal_one_open(struct slate_journal_one *one,
                       const struct slate_keeper *keeper);

/**
 * Reads all of it: is it whole, and of this draft?
 *
 * @param one   an open one
 * @param draft as it was restored from it
 * @param work  SLATE_WORK_MIN bytes
 * @return SLATE_OK; SLATE_ERR_JOURNAL; what the keeper says
 */
SLATE_MUST_CHECK enum slate_status
slate_journal_one_check(struct slate_journal_one *one,
                        const struct slate_draft *draft, void *work);

/**
 * Begins to make a present journal of it: slate_saving_step does the rest. No
 * device is needed; files that the draft places, where they are there still:
 * else nothing is known of what was written to their blocks, and whatever they
 * hold by now counts as changed.
 *
 * @param saving     filled in
 * @param draft      as it was restored from it; kept by reference
 * @param words      as with slate_saving_start
 * @param one        an open one that was checked; kept by reference
 * @param media      filled in with what is known of the device; kept by
 *                   reference
 * @param keeper     of the new one; kept by reference; empty
 * @param work       work buffer, kept by reference
 * @param work_bytes at least slate_draft_work_bytes
 * @return as slate_saving_start
 */
SLATE_MUST_CHECK enum slate_status slate_journal_one_convert(
    struct slate_saving *saving, const struct slate_draft *draft,
    const struct slate_journal_words *words, struct slate_journal_one *one,
    struct slate_media *media, const struct slate_keeper *keeper, void *work,
    size_t work_bytes);

#ifdef __cplusplus
}
#endif
#endif
