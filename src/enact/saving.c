/* SPDX-License-Identifier: MIT */
/* Keeping what a draft will replace, ahead of its first write. */

#include "base/base.h"
#include "enact/enact.h"
#include "pass/pass.h"

static enum slate_status append(struct slate_saving *saving, const void *bytes,
                                uint32_t count)
{
    enum slate_status status =
        count == 0
            ? SLATE_OK
            : saving->keeper->append(saving->keeper->context, bytes, count);

    if (status == SLATE_OK) {
        slate_sha256_add(&saving->sha, bytes, count);
        saving->bytes += count;
    }
    return status;
}

static void put_stamp(const struct slate_stamp *stamp, uint8_t *at)
{
    slate_put_le16(at, stamp->year);
    at[2] = stamp->month;
    at[3] = stamp->day;
    at[4] = stamp->hour;
    at[5] = stamp->minute;
    at[6] = stamp->second;
}

static enum slate_status append_head(struct slate_saving *saving,
                                     const struct slate_draft *draft,
                                     const struct slate_bytes *stored)
{
    const struct slate_geometry *geometry = &draft->basis.geometry;
    uint8_t head[SLATE_JOURNAL_HEAD] = {0}, sum[4];
    enum slate_status status;

    memcpy(head, SLATE_JOURNAL_MAGIC, 8);
    slate_put_le32(head + SLATE_JOURNAL_VERSION_AT, SLATE_JOURNAL_VERSION);
    slate_put_le32(head + SLATE_JOURNAL_BLOCK_AT, geometry->block_bytes);
    slate_put_le64(head + SLATE_JOURNAL_BLOCKS_AT, geometry->block_count);
    memcpy(head + SLATE_JOURNAL_IDENTITY_AT, draft->basis.identity,
           SLATE_DIGEST_BYTES);
    memcpy(head + SLATE_JOURNAL_SEAL_AT, draft->seal, SLATE_DIGEST_BYTES);
    memcpy(head + SLATE_JOURNAL_TAG_AT, draft->basis.tag,
           strlen(draft->basis.tag));
    put_stamp(&draft->choices.stamp, head + SLATE_JOURNAL_STAMP_AT);
    slate_put_le32(head + SLATE_JOURNAL_DRAFT_AT, (uint32_t)stored->count);
    slate_put_le32(head + SLATE_JOURNAL_SUM_AT,
                   slate_crc32c(UINT32_MAX, head, SLATE_JOURNAL_SUM_AT));
    slate_put_le32(sum, slate_crc32c(UINT32_MAX, stored->byte, stored->count));
    status = append(saving, head, sizeof head);
    SLATE_THEN(status, append(saving, stored->byte, (uint32_t)stored->count));
    return status == SLATE_OK ? append(saving, sum, sizeof sum) : status;
}

enum slate_status slate_saving_start(struct slate_saving *saving,
                                     const struct slate_draft *draft,
                                     const struct slate_bytes *stored,
                                     struct slate_media *media,
                                     const struct slate_keeper *keeper,
                                     void *work, size_t work_bytes)
{
    if (saving == NULL || draft == NULL || stored == NULL || keeper == NULL ||
        draft->goal.overwrite.rounds > 0)
        return SLATE_ERR_ARGUMENT;
    memset(saving, 0, sizeof *saving);
    SLATE_TRY(
        slate_pass_start(&saving->pass, draft, media, work, work_bytes, true));
    saving->keeper = keeper;
    slate_sha256_start(&saving->sha);
    return append_head(saving, draft, stored);
}

static enum slate_status append_record(struct slate_saving *saving,
                                       enum slate_record_kind kind,
                                       uint64_t first, uint32_t count,
                                       const uint8_t *content, uint32_t bytes)
{
    uint8_t head[SLATE_RECORD_HEAD] = {0};
    enum slate_status status;

    head[SLATE_RECORD_KIND_AT] = (uint8_t)kind;
    head[SLATE_RECORD_BYTE_AT] =
        kind == SLATE_RECORD_BYTE ? content[0] : (uint8_t)0;
    slate_put_le32(head + SLATE_RECORD_COUNT_AT, count);
    slate_put_le64(head + SLATE_RECORD_FIRST_AT, first);
    slate_put_le32(head + SLATE_RECORD_CONTENT_SUM_AT,
                   slate_crc32c(UINT32_MAX, content, bytes));
    slate_put_le32(head + SLATE_RECORD_SUM_AT,
                   slate_crc32c(UINT32_MAX, head, SLATE_RECORD_SUM_AT));
    status = append(saving, head, sizeof head);
    saving->records++;
    return status == SLATE_OK ? append(saving, content, bytes) : status;
}

static bool is_one_byte(const uint8_t *block, uint32_t bytes)
{
    for (uint32_t i = 1; i < bytes; i++)
        if (block[i] != block[0])
            return false;
    return true;
}

/* Blocks in the buffer, in runs: of one byte again and again, or of others. */
static enum slate_status append_blocks(struct slate_saving *saving,
                                       uint64_t first, uint32_t count)
{
    uint32_t size = saving->pass.media->geometry.block_bytes, at = 0;
    const uint8_t *work = saving->pass.work;
    enum slate_status status = SLATE_OK;

    while (at < count && status == SLATE_OK) {
        const uint8_t *block = work + (size_t)at * size;
        bool one = is_one_byte(block, size);
        uint32_t end = at + 1;

        while (end < count &&
               is_one_byte(work + (size_t)end * size, size) == one &&
               (!one || work[(size_t)end * size] == block[0]))
            end++;
        status = append_record(
            saving, one ? SLATE_RECORD_BYTE : SLATE_RECORD_KEPT, first + at,
            end - at, block, one ? 0 : (end - at) * size);
        saving->repeated += one ? end - at : 0;
        at = end;
    }
    return status;
}

static enum slate_status keep_one(struct slate_saving *saving, uint64_t lba)
{
    struct slate_pass *pass = &saving->pass;
    struct slate_fault before = pass->media->fault;
    enum slate_status status =
        slate_media_read(pass->media, lba, 1, pass->work);

    if (status == SLATE_OK)
        return append_blocks(saving, lba, 1);
    if (status != SLATE_ERR_READ)
        return status;
    pass->media->fault = before;
    saving->lost++;
    return append_record(saving, SLATE_RECORD_LOST, lba, 1, pass->work, 0);
}

/* A device on which much fails would take hours block by block. */
#define LOST_MOST 256u

static enum slate_status keep(struct slate_saving *saving, uint32_t count)
{
    struct slate_pass *pass = &saving->pass;
    struct slate_fault before = pass->media->fault;
    uint64_t first = pass->extent.first;
    enum slate_status status =
        slate_media_read(pass->media, first, count, pass->work);

    if (status == SLATE_OK)
        return append_blocks(saving, first, count);
    if (status != SLATE_ERR_READ)
        return status;
    pass->media->fault = before;
    if (saving->lost >= LOST_MOST) {
        saving->lost += count;
        return append_record(saving, SLATE_RECORD_LOST, first, count,
                             pass->work, 0);
    }
    status = SLATE_OK;
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++)
        status = keep_one(saving, first + i);
    return status;
}

/* The end tells that all of it is there. */
static enum slate_status append_end(struct slate_saving *saving)
{
    struct slate_sha256 sha = saving->sha;
    uint8_t digest[SLATE_DIGEST_BYTES];
    enum slate_status status;

    slate_sha256_end(&sha, digest);
    status = append_record(saving, SLATE_RECORD_END, saving->records, 0, digest,
                           sizeof digest);
    SLATE_THEN(status, saving->keeper->sync(saving->keeper->context));
    saving->finished = status == SLATE_OK;
    return status;
}

enum slate_status slate_saving_step(struct slate_saving *saving)
{
    struct slate_pass *pass = &saving->pass;
    uint32_t count;

    if (pass->status != SLATE_OK || saving->finished)
        return pass->status;
    count = pass->finished ? 0 : slate_pass_chunk(pass);
    if (count == 0) {
        pass->status = append_end(saving);
        return pass->status;
    }
    pass->status = keep(saving, count);
    if (pass->status == SLATE_OK)
        slate_pass_advance(pass, count);
    return pass->status;
}
