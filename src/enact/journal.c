/* SPDX-License-Identifier: MIT */
/* Reading a journal: everything in it is checked before it is used. */
#include "enact/enact.h"

#include "base/base.h"

static enum slate_status read(const struct slate_journal *journal, uint64_t at,
                              void *bytes, uint32_t count)
{
    return journal->keeper->read(journal->keeper->context, at, bytes, count);
}

static bool is_head(const uint8_t *head)
{
    return memcmp(head, SLATE_JOURNAL_MAGIC, 8) == 0 &&
           slate_le32(head + SLATE_JOURNAL_SUM_AT) ==
               slate_crc32c(UINT32_MAX, head, SLATE_JOURNAL_SUM_AT) &&
           slate_is_block_size(slate_le32(head + SLATE_JOURNAL_BLOCK_AT)) &&
           head[SLATE_JOURNAL_TAG_AT + SLATE_TAG_ROOM - 1] == 0;
}

_Static_assert(SLATE_JOURNAL_TAG_AT + SLATE_TAG_ROOM <= SLATE_JOURNAL_STAMP_AT,
               "a tag has its place in a journal's head");

/* What heads of every version have. */
static void take_head(struct slate_journal *journal, const uint8_t *head)
{
    const uint8_t *stamp = head + SLATE_JOURNAL_STAMP_AT;

    journal->block_bytes = slate_le32(head + SLATE_JOURNAL_BLOCK_AT);
    journal->block_count = slate_le64(head + SLATE_JOURNAL_BLOCKS_AT);
    memcpy(journal->identity, head + SLATE_JOURNAL_IDENTITY_AT,
           SLATE_DIGEST_BYTES);
    memcpy(journal->seal, head + SLATE_JOURNAL_SEAL_AT, SLATE_DIGEST_BYTES);
    memcpy(journal->tag, head + SLATE_JOURNAL_TAG_AT, SLATE_TAG_ROOM);
    journal->stamp = (struct slate_stamp){
        slate_le16(stamp), stamp[2], stamp[3], stamp[4], stamp[5], stamp[6]};
}

/* Words that can be printed as they are. */
static bool are_words(const char *words, uint32_t bytes)
{
    for (uint32_t i = 0; i < bytes; i++) {
        if (slate_is_control((uint8_t)words[i]))
            return false;
    }
    return true;
}

/* Words, and the sum behind them. */
static enum slate_status read_words(struct slate_journal *journal,
                                    char words[SLATE_JOURNAL_WORDS],
                                    uint32_t bytes)
{
    uint8_t sum[4];

    if (bytes >= SLATE_JOURNAL_WORDS)
        return SLATE_ERR_JOURNAL;
    SLATE_TRY(read(journal, journal->head_bytes, words, bytes));
    SLATE_TRY(read(journal, journal->head_bytes + bytes, sum, sizeof sum));
    words[bytes] = '\0';
    journal->head_bytes += bytes + sizeof sum;
    return slate_le32(sum) == slate_crc32c(UINT32_MAX, words, bytes) &&
                   are_words(words, bytes)
               ? SLATE_OK
               : SLATE_ERR_JOURNAL;
}

enum slate_status slate_journal_open(struct slate_journal *journal,
                                     const struct slate_keeper *keeper)
{
    uint8_t head[SLATE_JOURNAL_HEAD];

    memset(journal, 0, sizeof *journal);
    journal->keeper = keeper;
    SLATE_TRY(read(journal, 0, head, sizeof head));
    if (!is_head(head))
        return SLATE_ERR_JOURNAL;
    take_head(journal, head);
    if (slate_le32(head + SLATE_JOURNAL_VERSION_AT) != SLATE_JOURNAL_VERSION)
        return SLATE_ERR_JOURNAL_VERSION;
    journal->marked =
        (slate_le32(head + SLATE_JOURNAL_FLAGS_AT) & SLATE_JOURNAL_MARKED) != 0;
    journal->head_bytes = SLATE_JOURNAL_HEAD;
    SLATE_TRY(read_words(journal, journal->gets,
                         slate_le32(head + SLATE_JOURNAL_GETS_AT)));
    return read_words(journal, journal->had,
                      slate_le32(head + SLATE_JOURNAL_HAD_AT));
}

/* Bytes of the checks of a record's blocks. */
static uint64_t check_bytes(const struct slate_journal *journal, uint64_t count)
{
    return count * (journal->block_bytes / SLATE_CHECKED_BYTES) * 4;
}

static uint64_t content_bytes(const struct slate_journal *journal,
                              const struct slate_record *record)
{
    uint64_t blocks = (uint64_t)record->count * journal->block_bytes;
    uint64_t checks = check_bytes(journal, record->count);

    if (record->kind == SLATE_RECORD_END)
        return SLATE_JOURNAL_END;
    if (record->kind == SLATE_RECORD_BETWEEN)
        return blocks;
    return (record->written == SLATE_WRITTEN_CHECKS ? checks : 0) +
           (record->between != 0 ? checks : 0) +
           (record->kept == SLATE_KEPT_CONTENT ? blocks : 0);
}

/* Of blocks of the device, and no more of them than a window holds. */
static bool is_possible(const struct slate_journal *journal,
                        const struct slate_record *record)
{
    if (record->kind == SLATE_RECORD_END)
        return true;
    return (record->kind == SLATE_RECORD_BETWEEN ||
            record->kind == SLATE_RECORD_BLOCKS) &&
           record->kept <= SLATE_KEPT_LOST &&
           record->written <= SLATE_WRITTEN_UNKNOWN && record->between <= 1 &&
           record->stage < SLATE_MOMENTS && record->count > 0 &&
           record->first < journal->block_count &&
           record->count <= journal->block_count - record->first &&
           (record->count == 1 ||
            content_bytes(journal, record) <= SLATE_RECORD_MOST);
}

enum slate_status slate_journal_next(const struct slate_journal *journal,
                                     uint64_t at, struct slate_record *record,
                                     uint8_t head[SLATE_RECORD_HEAD])
{
    SLATE_TRY(read(journal, at, head, SLATE_RECORD_HEAD));
    if (slate_le32(head + SLATE_RECORD_SUM_AT) !=
        slate_crc32c(UINT32_MAX, head, SLATE_RECORD_SUM_AT))
        return SLATE_ERR_JOURNAL;
    *record = (struct slate_record){
        .at = at,
        .data = at + SLATE_RECORD_HEAD,
        .first = slate_le64(head + SLATE_RECORD_FIRST_AT),
        .count = slate_le32(head + SLATE_RECORD_COUNT_AT),
        .sum = slate_le32(head + SLATE_RECORD_CONTENT_SUM_AT),
        .kind = head[SLATE_RECORD_KIND_AT],
        .kept = head[SLATE_RECORD_KEPT_AT],
        .written = head[SLATE_RECORD_WRITTEN_AT],
        .between = head[SLATE_RECORD_BETWEEN_AT],
        .kept_byte = head[SLATE_RECORD_KEPT_BYTE_AT],
        .written_byte = head[SLATE_RECORD_WRITTEN_BYTE_AT],
        .stage = head[SLATE_RECORD_STAGE_AT]};
    if (!is_possible(journal, record))
        return SLATE_ERR_JOURNAL;
    record->end = record->data + content_bytes(journal, record);
    return SLATE_OK;
}

static enum slate_status check_content(const struct slate_journal *journal,
                                       const struct slate_record *record,
                                       uint8_t *work)
{
    uint32_t sum = UINT32_MAX;

    for (uint64_t at = record->data; at < record->end;) {
        uint64_t left = record->end - at;
        uint32_t part = left < SLATE_WORK_MIN ? (uint32_t)left : SLATE_WORK_MIN;

        SLATE_TRY(read(journal, at, work, part));
        sum = slate_crc32c(sum, work, part);
        at += part;
    }
    return sum == record->sum ? SLATE_OK : SLATE_ERR_JOURNAL;
}

/* What the end counts, and the digest of all heads. */
static enum slate_status check_end(const struct slate_journal *journal,
                                   const struct slate_record *end,
                                   uint64_t records, struct slate_sha256 *sha)
{
    uint8_t kept[SLATE_JOURNAL_END], digest[SLATE_DIGEST_BYTES];

    slate_sha256_end(sha, digest);
    SLATE_TRY(read(journal, end->data, kept, sizeof kept));
    return end->first == records && end->count == 0 &&
                   slate_le64(kept) == journal->blocks &&
                   slate_le64(kept + 8) == journal->between &&
                   slate_le64(kept + 16) == journal->lost &&
                   memcmp(kept + 24, digest, sizeof digest) == 0
               ? SLATE_OK
               : SLATE_ERR_JOURNAL;
}

static void count(struct slate_journal *journal,
                  const struct slate_record *record)
{
    if (record->kind == SLATE_RECORD_BETWEEN)
        journal->between += record->count;
    else
        journal->blocks += record->count;
    if (record->kept == SLATE_KEPT_LOST)
        journal->lost += record->count;
}

enum slate_status slate_journal_check(struct slate_journal *journal, void *work)
{
    uint8_t head[SLATE_RECORD_HEAD];
    struct slate_record *record = &journal->record;
    struct slate_sha256 sha;
    uint64_t at = journal->head_bytes;

    journal->blocks = journal->between = journal->lost = 0;
    slate_sha256_start(&sha);
    for (uint64_t done = 0; done < at;) { /* head and words */
        uint32_t part =
            at - done < SLATE_WORK_MIN ? (uint32_t)(at - done) : SLATE_WORK_MIN;

        SLATE_TRY(read(journal, done, work, part));
        slate_sha256_add(&sha, work, part);
        done += part;
    }
    for (uint64_t records = 0;; records++, at = record->end) {
        SLATE_TRY(slate_journal_next(journal, at, record, head));
        SLATE_TRY(check_content(journal, record, work));
        if (record->kind == SLATE_RECORD_END)
            return check_end(journal, record, records, &sha);
        slate_sha256_add(&sha, head, sizeof head);
        count(journal, record);
    }
}

enum slate_status slate_journal_fill(const struct slate_journal *journal,
                                     uint64_t first, uint32_t count,
                                     uint8_t *data)
{
    const struct slate_record *record = &journal->record;
    uint32_t bytes = count * journal->block_bytes;
    bool content = record->kind == SLATE_RECORD_BETWEEN ||
                   record->kept == SLATE_KEPT_CONTENT;

    if (first < record->first || first - record->first > record->count ||
        count > record->count - (first - record->first))
        return SLATE_ERR_INTERNAL;
    if (content) /* it stands last */
        return read(journal,
                    record->end - (record->count - (first - record->first)) *
                                      (uint64_t)journal->block_bytes,
                    data, bytes);
    memset(data, record->kept == SLATE_KEPT_BYTE ? record->kept_byte : 0,
           bytes);
    return SLATE_OK;
}

/* Are pieces of a block what checks say? Takes these from the odd ones. */
static enum slate_status explain(const struct slate_journal *journal,
                                 uint64_t at, uint64_t index,
                                 const uint8_t *block, uint64_t *odd)
{
    uint8_t check[SLATE_BLOCK_MAX / SLATE_CHECKED_BYTES * 4];
    uint32_t pieces = journal->block_bytes / SLATE_CHECKED_BYTES;

    SLATE_TRY(
        read(journal, at + check_bytes(journal, index), check, pieces * 4));
    for (uint32_t i = 0; i < pieces; i++) {
        if (slate_le32(check + (size_t)i * 4) ==
            slate_piece_check(block + (size_t)i * SLATE_CHECKED_BYTES))
            *odd &= ~((uint64_t)1 << i);
    }
    return SLATE_OK;
}

static void explain_byte(const struct slate_journal *journal,
                         const uint8_t *block, uint8_t byte, uint64_t *odd)
{
    for (uint32_t i = 0; i < journal->block_bytes / SLATE_CHECKED_BYTES; i++) {
        const uint8_t *piece = block + (size_t)i * SLATE_CHECKED_BYTES;

        if (piece[0] == byte &&
            memcmp(piece, piece + 1, SLATE_CHECKED_BYTES - 1) == 0)
            *odd &= ~((uint64_t)1 << i);
    }
}

enum slate_status slate_journal_explain(const struct slate_journal *journal,
                                        uint64_t lba, const uint8_t *block,
                                        uint64_t *odd)
{
    const struct slate_record *record = &journal->record;
    uint64_t index = lba - record->first, at = record->data;

    if (record->written == SLATE_WRITTEN_BYTE) {
        explain_byte(journal, block, record->written_byte, odd);
    } else if (record->written == SLATE_WRITTEN_CHECKS) {
        SLATE_TRY(explain(journal, at, index, block, odd));
        at += check_bytes(journal, record->count);
    }
    return record->between != 0 && *odd != 0
               ? explain(journal, at, index, block, odd)
               : SLATE_OK;
}
