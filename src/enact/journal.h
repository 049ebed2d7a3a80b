/* SPDX-License-Identifier: MIT */
/* How a journal is laid out (docs/formats.md). */
#ifndef SLATE_ENACT_JOURNAL_H
#define SLATE_ENACT_JOURNAL_H

#include "trueslate/journal.h"

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

#endif
