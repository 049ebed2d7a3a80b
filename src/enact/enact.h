/* SPDX-License-Identifier: MIT */
/* Inside enact: judging, saving, writing, rewinding. */
#ifndef SLATE_ENACT_ENACT_H
#define SLATE_ENACT_ENACT_H

#include "trueslate/enact.h"
#include "trueslate/journal.h"

/* How a journal is laid out (docs/formats.md). */

/* The head. */
enum {
    SLATE_JOURNAL_VERSION_AT = 8,
    SLATE_JOURNAL_BLOCK_AT = 12,
    SLATE_JOURNAL_BLOCKS_AT = 16,
    SLATE_JOURNAL_IDENTITY_AT = 24,
    SLATE_JOURNAL_SEAL_AT = 56,
    SLATE_JOURNAL_TAG_AT = 88,
    SLATE_JOURNAL_STAMP_AT = 104,
    SLATE_JOURNAL_DRAFT_AT = 112,
    SLATE_JOURNAL_SUM_AT = 124
};
#define SLATE_JOURNAL_MAGIC "TSREWIND"
#define SLATE_JOURNAL_VERSION 1u

/* A record: its head, and its content. */
enum {
    SLATE_RECORD_KIND_AT = 0,
    SLATE_RECORD_BYTE_AT = 1,
    SLATE_RECORD_COUNT_AT = 4,
    SLATE_RECORD_FIRST_AT = 8,
    SLATE_RECORD_CONTENT_SUM_AT = 16,
    SLATE_RECORD_SUM_AT = 20
};
#define SLATE_RECORD_HEAD 24u

enum slate_record_kind {
    SLATE_RECORD_KEPT = 1, /* blocks, as they were */
    SLATE_RECORD_BYTE,     /* blocks of one byte again and again */
    SLATE_RECORD_LOST,     /* blocks that could not be read */
    SLATE_RECORD_END       /* number of records; digest of all ahead of it */
};

/* Blocks as they were, in the order in which they were kept; what stands
 * further ahead is found again from the start. */
enum slate_status slate_journal_fill(struct slate_journal *journal,
                                     uint64_t first, uint32_t count,
                                     uint8_t *data);

/* Is a device what a draft was made from, or what enacting it has left
 * half-way, or neither? */

/* Sets enact->resumed, looked and first. SLATE_OK: go on; SLATE_ERR_CHANGED,
 * SLATE_ERR_ALREADY: do not. */
enum slate_status slate_enact_judge(struct slate_enact *enact);

/* Reads block 0, and takes its digest; what cannot be read is not looked at. */
enum slate_status slate_enact_look(struct slate_enact *enact);

/* The same for a draft that keeps partitions, where block 0 tells nothing. */
enum slate_status slate_enact_judge_switched(struct slate_enact *enact);

/* Are these blocks as they should be? What cannot be read is not. */
enum slate_status slate_enact_equal(struct slate_pass *pass,
                                    const struct slate_extent *extent,
                                    uint32_t count, bool *equal);

/* Of the block in the work buffer. */
void slate_enact_digest(const struct slate_pass *pass,
                        uint8_t digest[SLATE_DIGEST_BYTES]);

/* Inside the enact room: lifting what protects the device. */

/* What protects the device now; SLATE_ERR_PROTECTED when the draft does not
 * lift all of it. */
enum slate_status slate_enact_guards(const struct slate_enact *enact,
                                     struct slate_guard guard[SLATE_GUARDS_MAX],
                                     uint32_t *count);

/* Lifts what the draft says, on a claimed device; SLATE_ERR_PROTECTED when
 * more than that protects it. */
enum slate_status slate_enact_lift(struct slate_enact *enact);

/* The rounds of overwriting. */

/* Does what is to be done to the blocks that stand next; *count: of them, and
 * more where the device does it by itself. */
enum slate_status slate_enact_over(struct slate_enact *enact, uint32_t *count);

/* Block 0, in the work buffer, is not what it was: does it show what a round
 * has just written elsewhere? SLATE_ERR_ALIAS; else SLATE_ERR_SWAPPED. */
enum slate_status slate_enact_judge_alias(struct slate_enact *enact);

/* Behind the last round. SLATE_ERR_BAD_BLOCK when a volume would come over
 * blocks that have failed. */
enum slate_status slate_enact_over_end(struct slate_enact *enact);

/* Looks on the device how far an interrupted run has come, and goes on from
 * there. */
enum slate_status slate_enact_find_round(struct slate_enact *enact);

/* Is reading so much faster than writing that blocks which are equal already
 * are better left alone? */

/* Shall the next blocks be read and compared before they are written? */
bool slate_enact_compares(const struct slate_enact *enact);

/* Takes note of how long blocks took, begun at a time of the port's clock; once
 * it is known, decides. */
void slate_enact_note_read(struct slate_enact *enact, uint32_t count,
                           uint64_t began);
void slate_enact_note_write(struct slate_enact *enact, uint32_t count,
                            uint64_t began);

/* The one place from which the core writes to a device. */

/* Composes blocks into a buffer, and writes them. */
enum slate_status slate_enact_write(struct slate_media *media,
                                    const struct slate_composer *composer,
                                    const void *plan, uint64_t first,
                                    uint32_t count, void *buffer);

/* Waits for what is being written. */
enum slate_status slate_enact_drain(struct slate_enact *enact);

/* The same, and until it has come to rest on the medium. */
enum slate_status slate_enact_flush(struct slate_enact *enact);

/* The blocks that stand next in a pass; composed: they stand in the other half
 * of the buffer already. */
enum slate_status slate_enact_write_next(struct slate_enact *enact,
                                         uint32_t count, bool composed);

/* Blocks of zeros that the device can clear by itself: so many are next; 0:
 * none, or it has turned out that it does not. */
uint32_t slate_enact_clearable(const struct slate_enact *enact);

/* Clears them, and looks at some of them. Where that does not come out as
 * zeros, *cleared is false, and zeros are written from then on. */
enum slate_status slate_enact_clear_next(struct slate_enact *enact,
                                         uint32_t count, bool *cleared);

/* Tells the device that it may forget the blocks that stand next; *count: of
 * them. A hint: one that does not take it is none the worse. */
enum slate_status slate_enact_discard(struct slate_enact *enact,
                                      uint32_t *count);

#endif
