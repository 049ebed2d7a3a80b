/* SPDX-License-Identifier: MIT */
/* Journals of version 1: what was there, in the order in which their draft
 * writes. Everything in one is checked before it is used. */
#include "enact/enact.h"

#include "base/base.h"
#include "draft/place/place.h"

#define DRAFT_AT 112 /* of the head */

/* A record: its head, and its content. */
enum {
    KIND_AT = 0,
    BYTE_AT = 1,
    COUNT_AT = 4,
    FIRST_AT = 8,
    CONTENT_SUM_AT = 16,
    SUM_AT = 20
};
#define RECORD_HEAD 24u

enum record_kind {
    RECORD_KEPT = 1, /* blocks, as they were */
    RECORD_BYTE,     /* blocks of one byte again and again */
    RECORD_LOST,     /* blocks that could not be read */
    RECORD_END       /* number of records; digest of all ahead of it */
};

static enum slate_status read(const struct slate_journal_one *one, uint64_t at,
                              void *bytes, uint32_t count)
{
    return one->keeper->read(one->keeper->context, at, bytes, count);
}

static bool is_head(const uint8_t *head)
{
    uint32_t block = slate_le32(head + SLATE_JOURNAL_BLOCK_AT);

    return memcmp(head, SLATE_JOURNAL_MAGIC, 8) == 0 &&
           slate_le32(head + SLATE_JOURNAL_SUM_AT) ==
               slate_crc32c(UINT32_MAX, head, SLATE_JOURNAL_SUM_AT) &&
           slate_le32(head + SLATE_JOURNAL_VERSION_AT) == 1 &&
           slate_is_block_size(block);
}

static void rewind_records(struct slate_journal_one *one)
{
    one->at = one->draft_at + one->draft_bytes + 4;
    one->count = one->done = 0;
}

enum slate_status slate_journal_one_open(struct slate_journal_one *one,
                                         const struct slate_keeper *keeper)
{
    uint8_t head[SLATE_JOURNAL_HEAD];

    memset(one, 0, sizeof *one);
    one->keeper = keeper;
    SLATE_TRY(read(one, 0, head, sizeof head));
    if (!is_head(head))
        return SLATE_ERR_JOURNAL;
    one->block_bytes = slate_le32(head + SLATE_JOURNAL_BLOCK_AT);
    one->block_count = slate_le64(head + SLATE_JOURNAL_BLOCKS_AT);
    memcpy(one->identity, head + SLATE_JOURNAL_IDENTITY_AT, SLATE_DIGEST_BYTES);
    memcpy(one->seal, head + SLATE_JOURNAL_SEAL_AT, SLATE_DIGEST_BYTES);
    one->draft_at = SLATE_JOURNAL_HEAD;
    one->draft_bytes = slate_le32(head + DRAFT_AT);
    rewind_records(one);
    return SLATE_OK;
}

/* The next record; its head has to be whole, and its content is left to be
 * read. */
static enum slate_status next_record(struct slate_journal_one *one,
                                     uint32_t *content_sum)
{
    uint8_t head[RECORD_HEAD];

    SLATE_TRY(read(one, one->at, head, sizeof head));
    if (slate_le32(head + SUM_AT) != slate_crc32c(UINT32_MAX, head, SUM_AT))
        return SLATE_ERR_JOURNAL;
    one->kind = head[KIND_AT];
    one->byte = head[BYTE_AT];
    one->first = slate_le64(head + FIRST_AT);
    one->count = slate_le32(head + COUNT_AT);
    one->done = 0;
    one->data = one->at + RECORD_HEAD;
    one->at = one->data;
    if (one->kind == RECORD_KEPT)
        one->at += (uint64_t)one->count * one->block_bytes;
    *content_sum = slate_le32(head + CONTENT_SUM_AT);
    return one->kind >= RECORD_KEPT && one->kind <= RECORD_END
               ? SLATE_OK
               : SLATE_ERR_JOURNAL;
}

/* Adds so many bytes of the journal to a digest and a checksum. */
static enum slate_status add(const struct slate_journal_one *one, uint64_t at,
                             uint64_t bytes, struct slate_sha256 *sha,
                             uint32_t *sum, uint8_t *work)
{
    while (bytes > 0) {
        uint32_t part =
            bytes < SLATE_WORK_MIN ? (uint32_t)bytes : SLATE_WORK_MIN;
        SLATE_TRY(read(one, at, work, part));
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

static enum slate_status check_end(const struct slate_journal_one *one,
                                   uint64_t records, struct slate_sha256 *sha)
{
    uint8_t digest[SLATE_DIGEST_BYTES], kept[SLATE_DIGEST_BYTES];
    enum slate_status status = read(one, one->data, kept, sizeof kept);

    slate_sha256_end(sha, digest);
    SLATE_TRY(status);
    return one->first == records && memcmp(kept, digest, sizeof digest) == 0
               ? SLATE_OK
               : SLATE_ERR_JOURNAL;
}

static enum slate_status check_records(struct slate_journal_one *one,
                                       struct beside *beside,
                                       struct slate_sha256 *sha, uint8_t *work)
{
    for (uint64_t records = 0;; records++) {
        uint64_t head = one->at;
        uint32_t wanted, sum = UINT32_MAX;
        enum slate_status status = next_record(one, &wanted);

        SLATE_TRY(status);
        if (one->kind == RECORD_END)
            return is_at_end(beside) ? check_end(one, records, sha)
                                     : SLATE_ERR_JOURNAL;
        if (!goes_beside(beside, one->first, one->count))
            return SLATE_ERR_JOURNAL;
        status = add(one, head, RECORD_HEAD, sha, &sum, work);
        sum = UINT32_MAX;
        SLATE_THEN(status,
                   add(one, one->data, one->at - one->data, sha, &sum, work));
        if (status == SLATE_OK && sum != wanted)
            status = SLATE_ERR_JOURNAL;
        SLATE_TRY(status);
    }
}

enum slate_status slate_journal_one_check(struct slate_journal_one *one,
                                          const struct slate_draft *draft,
                                          void *work)
{
    struct beside beside = {{0}, {0}, {0}};
    struct slate_sha256 sha;
    uint32_t sum = UINT32_MAX;
    enum slate_status status;

    if (memcmp(one->seal, draft->seal, SLATE_DIGEST_BYTES) != 0 ||
        memcmp(one->identity, draft->basis.identity, SLATE_DIGEST_BYTES) != 0 ||
        one->block_bytes != draft->basis.geometry.block_bytes)
        return SLATE_ERR_JOURNAL;
    slate_draft_supply(draft, true, &beside.supply);
    slate_sha256_start(&sha);
    rewind_records(one);
    status = add(one, 0, one->at, &sha, &sum, work);
    SLATE_THEN(status, check_records(one, &beside, &sha, work));
    rewind_records(one);
    return status;
}

/* Goes to the record that holds a block, and to the block in it. */
static enum slate_status seek(struct slate_journal_one *one, uint64_t lba)
{
    bool again = false;
    uint32_t sum;

    while (lba < one->first || lba >= one->first + one->count) {
        SLATE_TRY(next_record(one, &sum));
        if (one->kind == RECORD_END) {
            if (again)
                return SLATE_ERR_JOURNAL; /* it is nowhere */
            again = true;
            rewind_records(one);
            one->first = 0;
        }
    }
    one->done = (uint32_t)(lba - one->first);
    return SLATE_OK;
}

enum slate_status slate_journal_one_fill(struct slate_journal_one *one,
                                         uint64_t first, uint32_t count,
                                         uint8_t *data)
{
    while (count > 0) {
        enum slate_status status = seek(one, first);
        uint32_t part = one->count - one->done;
        uint32_t bytes;

        SLATE_TRY(status);
        part = part < count ? part : count;
        bytes = part * one->block_bytes;
        if (one->kind == RECORD_LOST)
            status = SLATE_ERR_READ;
        else if (one->kind == RECORD_KEPT)
            status =
                read(one, one->data + (uint64_t)one->done * one->block_bytes,
                     data, bytes);
        else
            memset(data, one->byte, bytes);
        SLATE_TRY(status);
        one->done += part;
        first += part;
        count -= part;
        data += bytes;
    }
    return SLATE_OK;
}

enum slate_status slate_journal_one_convert(
    struct slate_saving *saving, const struct slate_draft *draft,
    const struct slate_journal_words *words, struct slate_journal_one *one,
    struct slate_media *media, const struct slate_keeper *keeper, void *work,
    size_t work_bytes)
{
    if (one == NULL || draft == NULL || media == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(media, 0, sizeof *media);
    media->geometry = draft->basis.geometry;
    media->geometry.block_count = slate_draft_claimed(draft);
    memcpy(media->digest, draft->basis.identity, sizeof media->digest);
    memcpy(media->tag, draft->basis.tag, sizeof media->tag);
    return slate_saving_begin(saving, draft, words, one, media, keeper, work,
                              work_bytes);
}
