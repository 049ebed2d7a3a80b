/* SPDX-License-Identifier: MIT */
/* Keeping what a draft will replace, ahead of its first write: in the order in
 * which it is put back, and with what it takes to know again what was written.
 */

#include "base/base.h"
#include "enact/enact.h"
#include "pass/pass.h"

static enum slate_status append(struct slate_saving *saving, const void *bytes,
                                uint32_t count)
{
    if (count == 0)
        return SLATE_OK;
    SLATE_TRY(saving->keeper->append(saving->keeper->context, bytes, count));
    saving->bytes += count;
    return SLATE_OK;
}

/* What the digest at the end is of. */
static enum slate_status append_digested(struct slate_saving *saving,
                                         const void *bytes, uint32_t count)
{
    slate_sha256_add(&saving->sha, bytes, count);
    return append(saving, bytes, count);
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

/* So many bytes of them are kept: whole characters. */
static uint32_t words_bytes(const char *words)
{
    size_t bytes = strlen(words);

    if (bytes >= SLATE_JOURNAL_WORDS)
        for (bytes = SLATE_JOURNAL_WORDS - 1;
             bytes > 0 && ((uint8_t)words[bytes] & 0xC0) == 0x80;)
            bytes--;
    return (uint32_t)bytes;
}

/* Nothing that would not be printed as it is. */
static enum slate_status append_words(struct slate_saving *saving,
                                      const char *words)
{
    uint32_t bytes = words_bytes(words);
    uint8_t kept[SLATE_JOURNAL_WORDS] = {0}, sum[4];

    for (uint32_t i = 0; i < bytes; i++)
        kept[i] =
            (uint8_t)(slate_is_control((uint8_t)words[i]) ? '?' : words[i]);
    slate_put_le32(sum, slate_crc32c(UINT32_MAX, kept, bytes));
    SLATE_TRY(append_digested(saving, kept, bytes));
    return append_digested(saving, sum, sizeof sum);
}

static enum slate_status append_head(struct slate_saving *saving,
                                     const struct slate_draft *draft,
                                     const struct slate_journal_words *words)
{
    const struct slate_geometry *geometry = &saving->pass.media->geometry;
    uint8_t head[SLATE_JOURNAL_HEAD] = {0};

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
    slate_put_le32(head + SLATE_JOURNAL_GETS_AT, words_bytes(words->gets));
    slate_put_le32(head + SLATE_JOURNAL_HAD_AT, words_bytes(words->had));
    slate_put_le32(head + SLATE_JOURNAL_FLAGS_AT,
                   draft->switched ? 0 : SLATE_JOURNAL_MARKED);
    slate_put_le32(head + SLATE_JOURNAL_SUM_AT,
                   slate_crc32c(UINT32_MAX, head, SLATE_JOURNAL_SUM_AT));
    SLATE_TRY(append_digested(saving, head, sizeof head));
    SLATE_TRY(append_words(saving, words->gets));
    return append_words(saving, words->had);
}

enum slate_status slate_saving_begin(struct slate_saving *saving,
                                     const struct slate_draft *draft,
                                     const struct slate_journal_words *words,
                                     struct slate_journal_one *one,
                                     struct slate_media *media,
                                     const struct slate_keeper *keeper,
                                     void *work, size_t work_bytes)
{
    struct slate_supply order;

    if (saving == NULL || draft == NULL || words == NULL || keeper == NULL ||
        draft->goal.overwrite.rounds > 0)
        return SLATE_ERR_ARGUMENT;
    memset(saving, 0, sizeof *saving);
    SLATE_TRY(
        slate_pass_start(&saving->pass, draft, media, work, work_bytes, true));
    slate_rewind_order(draft, &order);
    SLATE_TRY(slate_pass_begin(&saving->pass, &order, media, work, work_bytes));
    saving->pass.draft = draft;
    saving->keeper = keeper;
    saving->from = one;
    slate_sha256_start(&saving->sha);
    return append_head(saving, draft, words);
}

enum slate_status slate_saving_start(struct slate_saving *saving,
                                     const struct slate_draft *draft,
                                     const struct slate_journal_words *words,
                                     struct slate_media *media,
                                     const struct slate_keeper *keeper,
                                     void *work, size_t work_bytes)
{
    return slate_saving_begin(saving, draft, words, NULL, media, keeper, work,
                              work_bytes);
}

/* What a record holds. */
struct content {
    const uint8_t *bytes;
    uint32_t count;
};

#define CONTENTS 3u

static enum slate_status append_record(struct slate_saving *saving,
                                       const struct slate_record *record,
                                       const struct content content[CONTENTS])
{
    uint8_t head[SLATE_RECORD_HEAD] = {0};
    uint32_t sum = UINT32_MAX;

    for (uint32_t i = 0; i < CONTENTS; i++)
        sum = slate_crc32c(sum, content[i].bytes, content[i].count);
    head[SLATE_RECORD_KIND_AT] = record->kind;
    head[SLATE_RECORD_KEPT_AT] = record->kept;
    head[SLATE_RECORD_WRITTEN_AT] = record->written;
    head[SLATE_RECORD_BETWEEN_AT] = record->between;
    head[SLATE_RECORD_KEPT_BYTE_AT] = record->kept_byte;
    head[SLATE_RECORD_WRITTEN_BYTE_AT] = record->written_byte;
    head[SLATE_RECORD_STAGE_AT] = record->stage;
    slate_put_le64(head + SLATE_RECORD_FIRST_AT, record->first);
    slate_put_le32(head + SLATE_RECORD_COUNT_AT, record->count);
    slate_put_le32(head + SLATE_RECORD_CONTENT_SUM_AT, sum);
    slate_put_le32(head + SLATE_RECORD_SUM_AT,
                   slate_crc32c(UINT32_MAX, head, SLATE_RECORD_SUM_AT));
    if (record->kind != SLATE_RECORD_END)
        slate_sha256_add(&saving->sha, head, sizeof head);
    SLATE_TRY(append(saving, head, sizeof head));
    for (uint32_t i = 0; i < CONTENTS; i++)
        SLATE_TRY(append(saving, content[i].bytes, content[i].count));
    saving->records++;
    return SLATE_OK;
}

static bool is_one_byte(const uint8_t *block, uint32_t bytes)
{
    return memcmp(block, block + 1, bytes - 1) == 0;
}

/* What is kept of a block, and what is written to it, as far as runs of blocks
 * have it in common. */
static void judge(const struct slate_saving *saving, uint32_t index, bool lost,
                  struct slate_record *record)
{
    const struct slate_pass *pass = &saving->pass;
    uint32_t bytes = pass->media->geometry.block_bytes;
    const uint8_t *old = pass->work + (size_t)index * bytes;
    const uint8_t *new = pass->scratch + (size_t)index *bytes;

    record->kept = lost                      ? SLATE_KEPT_LOST
                   : is_one_byte(old, bytes) ? SLATE_KEPT_BYTE
                                             : SLATE_KEPT_CONTENT;
    record->kept_byte = record->kept == SLATE_KEPT_BYTE ? old[0] : 0;
    record->written = saving->unknown ? SLATE_WRITTEN_UNKNOWN
                      : pass->extent.zero || is_one_byte(new, bytes)
                          ? SLATE_WRITTEN_BYTE
                          : SLATE_WRITTEN_CHECKS;
    record->written_byte =
        record->written == SLATE_WRITTEN_BYTE && !pass->extent.zero ? new[0]
                                                                    : 0;
}

static bool is_alike(const struct slate_record *one,
                     const struct slate_record *other)
{
    return one->kept == other->kept && one->kept_byte == other->kept_byte &&
           one->written == other->written &&
           one->written_byte == other->written_byte;
}

/* Checks of blocks, over these or ahead of them: they are a sixteenth. */
static uint32_t put_checks(const uint8_t *blocks, size_t bytes, uint8_t *check)
{
    uint32_t at = 0;

    for (size_t i = 0; i < bytes; i += SLATE_CHECKED_BYTES, at += 4)
        slate_put_le32(check + at, slate_piece_check(blocks + i));
    return at;
}

/* The part that stands in a block meanwhile; none: SLATE_PART_ERASED. */
static uint32_t part_between(const struct slate_pass *pass, uint64_t lba)
{
    const struct slate_draft *draft = pass->draft;

    if (lba == 0 && !draft->switched)
        return SLATE_PART_MARK;
    return draft->drops && pass->extent.part == SLATE_PART_TABLE
               ? SLATE_PART_DROPPED
               : SLATE_PART_ERASED;
}

/* Blocks at an index in the buffers that are alike. between: their checks, of
 * one block, or NULL. */
static enum slate_status append_run(struct slate_saving *saving,
                                    struct slate_record *record, uint32_t index,
                                    const uint8_t *between)
{
    const struct slate_pass *pass = &saving->pass;
    uint32_t bytes = pass->media->geometry.block_bytes;
    size_t at = (size_t)index * bytes, length = (size_t)record->count * bytes;
    struct content content[CONTENTS] = {{0}, {0}, {0}};

    record->kind = SLATE_RECORD_BLOCKS;
    record->between = between != NULL;
    record->stage = (uint8_t)pass->extent.moment;
    record->first = pass->extent.first + index;
    if (record->written == SLATE_WRITTEN_CHECKS)
        content[0] = (struct content){
            pass->scratch + at,
            put_checks(pass->scratch + at, length, pass->scratch + at)};
    if (between != NULL)
        content[1] = (struct content){between, bytes / SLATE_CHECKED_BYTES * 4};
    if (record->kept == SLATE_KEPT_CONTENT)
        content[2] = (struct content){pass->work + at, (uint32_t)length};
    saving->repeated += record->kept == SLATE_KEPT_BYTE ? record->count : 0;
    saving->lost += record->kept == SLATE_KEPT_LOST ? record->count : 0;
    return append_record(saving, record, content);
}

/* Blocks in the buffer, in runs of those which are alike. */
static enum slate_status append_blocks(struct slate_saving *saving,
                                       uint32_t count, bool lost,
                                       const uint8_t *between)
{
    struct slate_record record = {0}, next = {0};

    judge(saving, 0, lost, &record);
    for (uint32_t at = 0, end = 1; at < count; at = end++) {
        for (; end < count; end++) {
            judge(saving, end, lost, &next);
            if (!is_alike(&record, &next))
                break;
        }
        record.count = end - at;
        SLATE_TRY(append_run(saving, &record, at, between));
        record = next;
    }
    return SLATE_OK;
}

static enum slate_status compose(const struct slate_pass *pass, uint32_t part,
                                 uint32_t count)
{
    struct slate_extent extent = pass->extent;

    extent.zero = extent.zero && part == extent.part;
    extent.part = part;
    return extent.zero ? SLATE_OK
                       : slate_draft_compose(pass->draft, &extent, extent.first,
                                             count, pass->scratch);
}

/* What was there is in the work buffer, or is lost. */
static enum slate_status keep(struct slate_saving *saving, uint32_t count,
                              bool lost)
{
    struct slate_pass *pass = &saving->pass;
    uint32_t part = part_between(pass, pass->extent.first);
    uint8_t between[SLATE_BLOCK_MAX / SLATE_CHECKED_BYTES * 4];
    enum slate_status status;

    if (part != SLATE_PART_ERASED) { /* it is a single block */
        SLATE_TRY(compose(pass, part, 1));
        put_checks(pass->scratch, pass->media->geometry.block_bytes, between);
    }
    status = compose(pass, pass->extent.part, count);
    /* ahead of writing it would fail; of what was written it may be gone */
    saving->unknown = status == SLATE_ERR_SOURCE && saving->from != NULL;
    if (status != SLATE_OK && !saving->unknown)
        return status;
    return append_blocks(saving, count, lost,
                         part != SLATE_PART_ERASED ? between : NULL);
}

static enum slate_status read_old(struct slate_saving *saving, uint32_t count)
{
    struct slate_pass *pass = &saving->pass;
    struct slate_fault before = pass->media->fault;
    enum slate_status status;

    if (saving->from != NULL)
        return slate_journal_one_fill(saving->from, pass->extent.first, count,
                                      pass->work);
    status =
        slate_media_read(pass->media, pass->extent.first, count, pass->work);
    if (status == SLATE_ERR_READ)
        pass->media->fault = before;
    return status;
}

/* Stands in between only: the mark, or a table without what goes. */
static enum slate_status keep_between(struct slate_saving *saving,
                                      uint32_t count)
{
    const struct slate_pass *pass = &saving->pass;
    const struct slate_record record = {.kind = SLATE_RECORD_BETWEEN,
                                        .first = pass->extent.first,
                                        .count = count,
                                        .stage = (uint8_t)pass->extent.moment};
    const struct content content[CONTENTS] = {
        {pass->scratch, count * pass->media->geometry.block_bytes}, {0}, {0}};

    SLATE_TRY(slate_draft_compose(pass->draft, &pass->extent,
                                  pass->extent.first, count, pass->scratch));
    saving->between += count;
    return append_record(saving, &record, content);
}

/* A device on which much fails would take hours block by block. */
#define LOST_MOST 256u

/* Where a transfer fails, its blocks are read one by one. */
static bool goes_on_one_by_one(struct slate_saving *saving, uint32_t count)
{
    if (count == 1 || (saving->from == NULL && saving->lost >= LOST_MOST))
        return false;
    saving->careful = count;
    return true;
}

/* Keeps blocks at the start of the extent; *count: of them. */
static enum slate_status keep_next(struct slate_saving *saving, uint32_t *count)
{
    enum slate_status status;

    if (saving->pass.extent.moment <= SLATE_MOMENT_DROP)
        return keep_between(saving, *count);
    status = read_old(saving, *count);
    if (status == SLATE_ERR_READ && goes_on_one_by_one(saving, *count)) {
        *count = 1;
        status = read_old(saving, 1);
    }
    if (status != SLATE_OK && status != SLATE_ERR_READ)
        return status;
    saving->careful -= saving->careful > 0 ? 1 : 0;
    return keep(saving, *count, status == SLATE_ERR_READ);
}

/* The end tells that all of it is there. */
static enum slate_status append_end(struct slate_saving *saving)
{
    uint8_t end[SLATE_JOURNAL_END];
    const struct slate_record record = {.kind = SLATE_RECORD_END,
                                        .first = saving->records};
    const struct content content[CONTENTS] = {{end, sizeof end}, {0}, {0}};
    struct slate_sha256 sha = saving->sha;

    slate_put_le64(end, saving->pass.done - saving->between);
    slate_put_le64(end + 8, saving->between);
    slate_put_le64(end + 16, saving->lost);
    slate_sha256_end(&sha, end + 24);
    SLATE_TRY(append_record(saving, &record, content));
    SLATE_TRY(saving->keeper->sync(saving->keeper->context));
    saving->finished = true;
    return SLATE_OK;
}

/* Blocks of one record at most; where something stands in between, one. */
static uint32_t chunk(struct slate_saving *saving)
{
    struct slate_pass *pass = &saving->pass;
    uint32_t count = pass->finished ? 0 : slate_pass_chunk(pass);
    uint32_t bytes = pass->media->geometry.block_bytes;
    uint32_t most =
        SLATE_RECORD_MOST / (bytes + 2 * (bytes / SLATE_CHECKED_BYTES * 4));

    if (count > 1 && pass->extent.moment > SLATE_MOMENT_DROP &&
        (saving->careful > 0 ||
         part_between(pass, pass->extent.first) != SLATE_PART_ERASED))
        return 1;
    return count < most ? count : most;
}

enum slate_status slate_saving_step(struct slate_saving *saving)
{
    struct slate_pass *pass = &saving->pass;
    uint32_t count;

    if (pass->status != SLATE_OK || saving->finished)
        return pass->status;
    count = chunk(saving);
    pass->status = count == 0 ? append_end(saving) : keep_next(saving, &count);
    if (pass->status == SLATE_OK && count > 0)
        slate_pass_advance(pass, count);
    return pass->status;
}
