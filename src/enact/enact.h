/* SPDX-License-Identifier: MIT */
/* Inside enact: judging, saving, writing, rewinding. */
#ifndef SLATE_ENACT_ENACT_H
#define SLATE_ENACT_ENACT_H

#include "trueslate/enact.h"
#include "trueslate/journal_one.h"

/* How a journal is laid out (docs/formats.md). */

/* The head; up to the time stamp, of every version. */
enum {
    SLATE_JOURNAL_VERSION_AT = 8,
    SLATE_JOURNAL_BLOCK_AT = 12,
    SLATE_JOURNAL_BLOCKS_AT = 16,
    SLATE_JOURNAL_IDENTITY_AT = 24,
    SLATE_JOURNAL_SEAL_AT = 56,
    SLATE_JOURNAL_TAG_AT = 88,
    SLATE_JOURNAL_STAMP_AT = 104,
    SLATE_JOURNAL_GETS_AT = 112,
    SLATE_JOURNAL_HAD_AT = 116,
    SLATE_JOURNAL_FLAGS_AT = 120,
    SLATE_JOURNAL_SUM_AT = 124
};
#define SLATE_JOURNAL_MAGIC "TSREWIND"
#define SLATE_JOURNAL_VERSION 2u
#define SLATE_JOURNAL_MARKED 1u /* of the flags */

/* A record: its head, and its content. */
enum {
    SLATE_RECORD_KIND_AT = 0,
    SLATE_RECORD_KEPT_AT = 1,
    SLATE_RECORD_WRITTEN_AT = 2,
    SLATE_RECORD_BETWEEN_AT = 3,
    SLATE_RECORD_KEPT_BYTE_AT = 4,
    SLATE_RECORD_WRITTEN_BYTE_AT = 5,
    SLATE_RECORD_STAGE_AT = 6,
    SLATE_RECORD_FIRST_AT = 8,
    SLATE_RECORD_COUNT_AT = 16,
    SLATE_RECORD_CONTENT_SUM_AT = 20,
    SLATE_RECORD_SUM_AT = 28
};
#define SLATE_RECORD_HEAD 32u

enum slate_record_kind {
    SLATE_RECORD_BETWEEN = 1, /* blocks that are written, and do not stay */
    SLATE_RECORD_BLOCKS,      /* blocks that are put back */
    SLATE_RECORD_END
};

/* What was there. */
enum slate_kept_as {
    SLATE_KEPT_CONTENT, /* blocks, behind all else */
    SLATE_KEPT_BYTE,    /* one byte again and again */
    SLATE_KEPT_LOST     /* it could not be read */
};

/* What the draft writes. */
enum slate_written_as {
    SLATE_WRITTEN_BYTE,   /* one byte again and again */
    SLATE_WRITTEN_CHECKS, /* a checksum of each piece of a block */
    SLATE_WRITTEN_UNKNOWN /* it is out of a file that is not there any more */
};

/* A torn write leaves pieces of this size whole. */
#define SLATE_CHECKED_BYTES 64u

static inline uint32_t slate_piece_check(const uint8_t *piece)
{
    return slate_crc32c(UINT32_MAX, piece, SLATE_CHECKED_BYTES);
}

/* Words of a journal are without these. */
static inline bool slate_is_control(uint8_t byte)
{
    return byte < 0x20 || byte == 0x7F;
}

/* The end's content: blocks that are put back, that stand in between, that
 * could not be read; digest of the head, the words, and all heads of records */
#define SLATE_JOURNAL_END (24u + SLATE_DIGEST_BYTES)

/* Reads the head of a record, and checks it. */
enum slate_status slate_journal_next(const struct slate_journal *journal,
                                     uint64_t at, struct slate_record *record,
                                     uint8_t head[SLATE_RECORD_HEAD]);

/* Blocks of the present record, as they are put back. */
enum slate_status slate_journal_fill(const struct slate_journal *journal,
                                     uint64_t first, uint32_t count,
                                     uint8_t *data);

/* Takes from the odd pieces of a block of the present record those which hold
 * what was written, or stood there in between. */
enum slate_status slate_journal_explain(const struct slate_journal *journal,
                                        uint64_t lba, const uint8_t *block,
                                        uint64_t *odd);

/* What a draft writes, in the order in which it is put back. */
void slate_rewind_order(const struct slate_draft *draft,
                        struct slate_supply *supply);

/* Blocks of a journal of version 1, in any order. */
enum slate_status slate_journal_one_fill(struct slate_journal_one *one,
                                         uint64_t first, uint32_t count,
                                         uint8_t *data);

/* slate_saving_start with old content from elsewhere; one: NULL, from the
 * device. */
enum slate_status slate_saving_begin(struct slate_saving *saving,
                                     const struct slate_draft *draft,
                                     const struct slate_journal_words *words,
                                     struct slate_journal_one *one,
                                     struct slate_media *media,
                                     const struct slate_keeper *keeper,
                                     void *work, size_t work_bytes);

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
