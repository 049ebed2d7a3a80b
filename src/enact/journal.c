/* SPDX-License-Identifier: MIT */
/* Reading a journal: everything in it is checked before it is used. */
#include "enact/enact.h"

#include "base/base.h"
#include "draft/place/place.h"

static enum slate_status read(const struct slate_journal *journal, uint64_t at,
                              void *bytes, uint32_t count)
{
    return journal->keeper->read(journal->keeper->context, at, bytes, count);
}

static bool is_head(const uint8_t *head)
{
    uint32_t block = slate_le32(head + SLATE_JOURNAL_BLOCK_AT);

    return memcmp(head, SLATE_JOURNAL_MAGIC, 8) == 0 &&
           slate_le32(head + SLATE_JOURNAL_SUM_AT) ==
               slate_crc32c(UINT32_MAX, head, SLATE_JOURNAL_SUM_AT) &&
           slate_le32(head + SLATE_JOURNAL_VERSION_AT) ==
               SLATE_JOURNAL_VERSION &&
           slate_is_block_size(block) &&
           head[SLATE_JOURNAL_TAG_AT + SLATE_TAG_ROOM - 1] == 0;
}

_Static_assert(SLATE_JOURNAL_TAG_AT + SLATE_TAG_ROOM <= SLATE_JOURNAL_STAMP_AT,
               "a tag has its place in a journal's head");

static void rewind_records(struct slate_journal *journal)
{
    journal->at = journal->draft_at + journal->draft_bytes + 4;
    journal->count = journal->done = 0;
}

enum slate_status slate_journal_open(struct slate_journal *journal,
                                     const struct slate_keeper *keeper)
{
    uint8_t head[SLATE_JOURNAL_HEAD];
    const uint8_t *stamp = head + SLATE_JOURNAL_STAMP_AT;

    memset(journal, 0, sizeof *journal);
    journal->keeper = keeper;
    SLATE_TRY(read(journal, 0, head, sizeof head));
    if (!is_head(head))
        return SLATE_ERR_JOURNAL;
    journal->block_bytes = slate_le32(head + SLATE_JOURNAL_BLOCK_AT);
    journal->block_count = slate_le64(head + SLATE_JOURNAL_BLOCKS_AT);
    memcpy(journal->identity, head + SLATE_JOURNAL_IDENTITY_AT,
           SLATE_DIGEST_BYTES);
    memcpy(journal->seal, head + SLATE_JOURNAL_SEAL_AT, SLATE_DIGEST_BYTES);
    memcpy(journal->tag, head + SLATE_JOURNAL_TAG_AT, SLATE_TAG_ROOM);
    journal->stamp = (struct slate_stamp){
        slate_le16(stamp), stamp[2], stamp[3], stamp[4], stamp[5], stamp[6]};
    journal->draft_at = SLATE_JOURNAL_HEAD;
    journal->draft_bytes = slate_le32(head + SLATE_JOURNAL_DRAFT_AT);
    rewind_records(journal);
    return SLATE_OK;
}

/* The next record; its head has to be whole, and its content is left to be
 * read. */
static enum slate_status next_record(struct slate_journal *journal,
                                     uint32_t *content_sum)
{
    uint8_t head[SLATE_RECORD_HEAD];

    SLATE_TRY(read(journal, journal->at, head, sizeof head));
    if (slate_le32(head + SLATE_RECORD_SUM_AT) !=
        slate_crc32c(UINT32_MAX, head, SLATE_RECORD_SUM_AT))
        return SLATE_ERR_JOURNAL;
    journal->kind = head[SLATE_RECORD_KIND_AT];
    journal->byte = head[SLATE_RECORD_BYTE_AT];
    journal->first = slate_le64(head + SLATE_RECORD_FIRST_AT);
    journal->count = slate_le32(head + SLATE_RECORD_COUNT_AT);
    journal->done = 0;
    journal->data = journal->at + SLATE_RECORD_HEAD;
    journal->at = journal->data;
    if (journal->kind == SLATE_RECORD_KEPT)
        journal->at += (uint64_t)journal->count * journal->block_bytes;
    *content_sum = slate_le32(head + SLATE_RECORD_CONTENT_SUM_AT);
    return journal->kind >= SLATE_RECORD_KEPT &&
                   journal->kind <= SLATE_RECORD_END
               ? SLATE_OK
               : SLATE_ERR_JOURNAL;
}

/* Adds so many bytes of the journal to a digest and a checksum. */
static enum slate_status add(const struct slate_journal *journal, uint64_t at,
                             uint64_t bytes, struct slate_sha256 *sha,
                             uint32_t *sum, uint8_t *work)
{
    while (bytes > 0) {
        uint32_t part =
            bytes < SLATE_WORK_MIN ? (uint32_t)bytes : SLATE_WORK_MIN;
        SLATE_TRY(read(journal, at, work, part));
        slate_sha256_add(sha, work, part);
        *sum = slate_crc32c(*sum, work, part);
        at += part;
        bytes -= part;
    }
    return SLATE_OK;
}

/* What has been kept, beside what the draft writes: the same blocks, in the
 * same order. */
struct beside {
    struct slate_supply supply;
    struct slate_walk walk;
    struct slate_extent extent;
};

static bool goes_beside(struct beside *beside, uint64_t first, uint64_t count)
{
    while (count > 0) {
        uint64_t part;

        if (beside->extent.count == 0 &&
            !beside->supply.next(beside->supply.context, &beside->walk,
                                 &beside->extent))
            return false;
        part = beside->extent.count < count ? beside->extent.count : count;
        if (beside->extent.first != first)
            return false;
        beside->extent.first += part;
        beside->extent.count -= part;
        first += part;
        count -= part;
    }
    return true;
}

static bool is_at_end(struct beside *beside)
{
    return beside->extent.count == 0 &&
           !beside->supply.next(beside->supply.context, &beside->walk,
                                &beside->extent);
}

static enum slate_status check_end(const struct slate_journal *journal,
                                   uint64_t records, struct slate_sha256 *sha)
{
    uint8_t digest[SLATE_DIGEST_BYTES], kept[SLATE_DIGEST_BYTES];
    enum slate_status status = read(journal, journal->data, kept, sizeof kept);

    slate_sha256_end(sha, digest);
    SLATE_TRY(status);
    return journal->first == records && memcmp(kept, digest, sizeof digest) == 0
               ? SLATE_OK
               : SLATE_ERR_JOURNAL;
}

static enum slate_status check_records(struct slate_journal *journal,
                                       struct beside *beside,
                                       struct slate_sha256 *sha, uint8_t *work)
{
    for (uint64_t records = 0;; records++) {
        uint64_t head = journal->at;
        uint32_t wanted, sum = UINT32_MAX;
        enum slate_status status = next_record(journal, &wanted);

        SLATE_TRY(status);
        if (journal->kind == SLATE_RECORD_END)
            return is_at_end(beside) ? check_end(journal, records, sha)
                                     : SLATE_ERR_JOURNAL;
        if (!goes_beside(beside, journal->first, journal->count))
            return SLATE_ERR_JOURNAL;
        journal->lost +=
            journal->kind == SLATE_RECORD_LOST ? journal->count : 0;
        status = add(journal, head, SLATE_RECORD_HEAD, sha, &sum, work);
        sum = UINT32_MAX;
        SLATE_THEN(status, add(journal, journal->data,
                               journal->at - journal->data, sha, &sum, work));
        if (status == SLATE_OK && sum != wanted)
            status = SLATE_ERR_JOURNAL;
        SLATE_TRY(status);
    }
}

enum slate_status slate_journal_check(struct slate_journal *journal,
                                      const struct slate_draft *draft,
                                      void *work)
{
    struct beside beside = {{0}, {0}, {0}};
    struct slate_sha256 sha;
    uint32_t sum = UINT32_MAX;
    enum slate_status status;

    if (memcmp(journal->seal, draft->seal, SLATE_DIGEST_BYTES) != 0 ||
        memcmp(journal->identity, draft->basis.identity, SLATE_DIGEST_BYTES) !=
            0 ||
        journal->block_bytes != draft->basis.geometry.block_bytes)
        return SLATE_ERR_JOURNAL;
    slate_draft_supply(draft, true, &beside.supply);
    slate_sha256_start(&sha);
    rewind_records(journal);
    journal->lost = 0;
    status = add(journal, 0, journal->at, &sha, &sum, work);
    SLATE_THEN(status, check_records(journal, &beside, &sha, work));
    rewind_records(journal);
    return status;
}

/* Goes to the record that holds a block, and to the block in it. */
static enum slate_status seek(struct slate_journal *journal, uint64_t lba)
{
    bool again = false;
    uint32_t sum;

    while (lba < journal->first || lba >= journal->first + journal->count) {
        SLATE_TRY(next_record(journal, &sum));
        if (journal->kind == SLATE_RECORD_END) {
            if (again)
                return SLATE_ERR_JOURNAL; /* it is nowhere */
            again = true;
            rewind_records(journal);
            journal->first = 0;
        }
    }
    journal->done = (uint32_t)(lba - journal->first);
    return SLATE_OK;
}

enum slate_status slate_journal_fill(struct slate_journal *journal,
                                     uint64_t first, uint32_t count,
                                     uint8_t *data)
{
    while (count > 0) {
        enum slate_status status = seek(journal, first);
        uint32_t part = journal->count - journal->done;
        uint32_t bytes;

        SLATE_TRY(status);
        part = part < count ? part : count;
        bytes = part * journal->block_bytes;
        if (journal->kind == SLATE_RECORD_KEPT)
            status = read(journal,
                          journal->data +
                              (uint64_t)journal->done * journal->block_bytes,
                          data, bytes);
        else
            memset(data, journal->byte, bytes);
        SLATE_TRY(status);
        journal->done += part;
        first += part;
        count -= part;
        data += bytes;
    }
    return SLATE_OK;
}
