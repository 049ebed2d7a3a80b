/* SPDX-License-Identifier: MIT */
/* Inside pass: steps ahead of each other, and rounds. */
#ifndef SLATE_PASS_PASS_H
#define SLATE_PASS_PASS_H

#include "trueslate/pass.h"

/* Reading ahead: the device has the next blocks before it is done with the
 * present ones, which are compared meanwhile. */

/* Divides the work buffer of a pass that was just begun by three, where the
 * port can have transfers under way, and there is room. */
void slate_ahead_divide(struct slate_ahead *ahead, struct slate_pass *pass,
                        size_t work_bytes);

/* Reads blocks into *work, which another part of the buffer may stand for then,
 * and begins to read the next ones, if there are any: those are the present
 * ones of the next call. */
enum slate_status slate_ahead_read(struct slate_ahead *ahead,
                                   struct slate_media *media,
                                   const struct slate_range *present,
                                   const struct slate_range *next,
                                   uint8_t **work);

/* The same of a pass: reads the present blocks into pass->work, and begins to
 * read those behind them, as long as these are for the same deed. */
enum slate_status slate_ahead_fetch(struct slate_ahead *ahead,
                                    struct slate_pass *pass, uint32_t count);

/* Waits for what is under way, and drops it. SLATE_OK; or what became of it. */
enum slate_status slate_ahead_end(struct slate_ahead *ahead,
                                  struct slate_media *media);

/* Going over what a supply has, piece by piece. */

/* Prepares a pass over anything that has extents. Reads and writes nothing.
 * Returns SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER. */
SLATE_MUST_CHECK enum slate_status
slate_pass_begin(struct slate_pass *pass, const struct slate_supply *supply,
                 struct slate_media *media, void *work, size_t work_bytes);

/* Prepares a pass over a draft. Reads and writes nothing. Returns SLATE_OK,
 * SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER, SLATE_ERR_OTHER_DEVICE. */
SLATE_MUST_CHECK enum slate_status
slate_pass_start(struct slate_pass *pass, const struct slate_draft *draft,
                 struct slate_media *media, void *work, size_t work_bytes,
                 bool final);

/* The blocks to work on next: the start of pass->extent, as many as fit the
 * work buffer. Returns number of blocks; 0 when the pass has finished. */
uint32_t slate_pass_chunk(struct slate_pass *pass);

/* Compares the blocks in the work buffer with what the start of the extent is
 * composed as. Returns SLATE_OK; or what a source says. */
SLATE_MUST_CHECK enum slate_status
slate_pass_compare(const struct slate_pass *pass, uint32_t count,
                   struct slate_difference *difference);

/* Moves on by blocks that slate_pass_chunk offered. */
void slate_pass_advance(struct slate_pass *pass, uint64_t blocks);

/* Blocks of a round of overwriting, judged one by one. */

/* Notes a block that failed; each counts once, for what was found first.
 * SLATE_ERR_BAD_LIST: there is no room. */
enum slate_status slate_round_note(struct slate_ranges *failed, uint64_t block,
                                   uint64_t *count);

/* Blocks at the start of the current extent that failed together, each by
 * itself; what is read ahead is dropped. */
enum slate_status
slate_round_judge_each(struct slate_pass *pass, struct slate_ahead *reading,
                       uint32_t count, struct slate_ranges *failed,
                       uint64_t *unreadable, uint64_t *altered);

/* All steps of a pass, until something fails, it has finished, or a caller's
 * progress(context, pass) stops it. */
#define SLATE_PASS_ALL(status, step, pass, finished)                           \
    while ((status) == SLATE_OK && !(finished)) {                              \
        (status) = (step);                                                     \
        if ((status) == SLATE_OK && progress != NULL &&                        \
            !progress(context, pass) && !(finished))                           \
            (status) = SLATE_ERR_STOPPED;                                      \
    }

#endif
