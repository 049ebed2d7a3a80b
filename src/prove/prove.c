/* SPDX-License-Identifier: MIT */
/* Reading back all that a draft writes, and comparing it. */
#include <string.h>

#include "base/base.h"
#include "pass/pass.h"

#include "draft/place/place.h"
#include "trueslate/prove.h"

static enum slate_status begin(struct slate_prove *prove,
                               enum slate_status status, size_t work_bytes)
{
    if (status == SLATE_OK)
        slate_ahead_divide(&prove->reading, &prove->pass, work_bytes);
    return status;
}

enum slate_status slate_prove_start(struct slate_prove *prove,
                                    const struct slate_draft *draft,
                                    struct slate_media *media, void *work,
                                    size_t work_bytes)
{
    if (prove == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(prove, 0, sizeof *prove);
    return begin(
        prove,
        slate_pass_start(&prove->pass, draft, media, work, work_bytes, true),
        work_bytes);
}

enum slate_status slate_prove_begin(struct slate_prove *prove,
                                    const struct slate_supply *supply,
                                    struct slate_media *media, void *work,
                                    size_t work_bytes)
{
    if (prove == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(prove, 0, sizeof *prove);
    return begin(
        prove, slate_pass_begin(&prove->pass, supply, media, work, work_bytes),
        work_bytes);
}

/* Counts every block of the chunk that differs. */
static enum slate_status count_different(struct slate_prove *prove,
                                         uint32_t count)
{
    const struct slate_pass *pass = &prove->pass;
    struct slate_difference found;
    enum slate_status status = slate_pass_compare(pass, count, &found);

    if (status == SLATE_OK && prove->different == 0 && found.blocks > 0) {
        prove->first_different = found.first;
        prove->first_step =
            pass->supply.step(pass->supply.context, &pass->extent);
    }
    prove->different += found.blocks;
    return status;
}

/* Of a round of overwriting, whose failing blocks are noted one by one? */
static bool is_tolerated(const struct slate_prove *prove)
{
    return prove->failed != NULL &&
           prove->pass.extent.part == SLATE_PART_OVERWRITTEN &&
           prove->pass.extent.moment == SLATE_MOMENT_OVERWRITE;
}

/* Are the present blocks, which could be read or not, as they should be? */
static enum slate_status judge(struct slate_prove *prove, uint32_t count,
                               enum slate_status fetched)
{
    struct slate_difference found = {0};
    enum slate_status status = fetched;

    if (!is_tolerated(prove))
        return status == SLATE_OK ? count_different(prove, count) : status;
    SLATE_THEN(status, slate_pass_compare(&prove->pass, count, &found));
    if (status != SLATE_ERR_READ && (status != SLATE_OK || found.blocks == 0))
        return status;
    return slate_round_judge_each(&prove->pass, &prove->reading, count,
                                  prove->failed, &prove->unreadable,
                                  &prove->altered);
}

enum slate_status slate_prove_step(struct slate_prove *prove)
{
    struct slate_pass *pass = &prove->pass;
    uint32_t count;

    if (pass->status != SLATE_OK || pass->finished)
        return pass->status;
    count = slate_pass_chunk(pass);
    if (count == 0)
        return SLATE_OK;
    pass->status =
        judge(prove, count, slate_ahead_fetch(&prove->reading, pass, count));
    if (pass->status == SLATE_OK)
        slate_pass_advance(pass, count);
    return pass->status;
}

enum slate_status slate_prove_end(struct slate_prove *prove)
{
    struct slate_media *media = prove->pass.media;
    struct slate_fault first = media->fault;
    enum slate_status status = slate_ahead_end(&prove->reading, media);

    if (prove->pass.status != SLATE_OK)
        media->fault = first; /* it ended the proof */
    return status;
}

static void digest(const struct slate_pass *pass,
                   uint8_t digest[SLATE_DIGEST_BYTES])
{
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, pass->work, pass->media->geometry.block_bytes);
    slate_sha256_end(&sha, digest);
}

/* Does the last block of a range show what the first one holds? A copy that the
 * draft writes there may; what is one byte again and again tells nothing. */
static enum slate_status try_range(struct slate_prove *prove,
                                   const struct slate_range *range)
{
    const struct slate_pass *pass = &prove->pass;
    uint32_t bytes = pass->media->geometry.block_bytes;
    uint64_t last = range->first + range->count - 1, until;
    uint8_t first[SLATE_DIGEST_BYTES], other[SLATE_DIGEST_BYTES];
    bool same;

    SLATE_TRY(slate_media_read(pass->media, range->first, 1, pass->work));
    if (memcmp(pass->work, pass->work + 1, bytes - 1) == 0 ||
        slate_draft_covers(pass->draft, last, &until))
        return SLATE_OK;
    digest(pass, first);
    SLATE_TRY(slate_media_read(pass->media, last, 1, pass->work));
    digest(pass, other);
    same = memcmp(first, other, sizeof first) == 0;
    SLATE_TRY(slate_media_read(pass->media, range->first, 1, pass->work));
    digest(pass, other);
    if (!same && memcmp(first, other, sizeof first) == 0)
        return SLATE_OK;
    prove->alias = last;
    prove->alias_of = range->first;
    return SLATE_ERR_ALIAS;
}

/* The ends of a device that is set up anew, and of each new volume, in turns:
 * one that starts over at its beginning shows it. What stays may have a copy
 * there; what cannot be read there was not written. */
static enum slate_status try_ends(struct slate_prove *prove)
{
    const struct slate_draft *draft = prove->pass.draft;
    struct slate_media *media = prove->pass.media;
    struct slate_range range = {0, 0};
    struct slate_fault before = media->fault;
    enum slate_status status = SLATE_OK;

    if (draft != NULL && !draft->switched)
        range.count = media->geometry.block_count;
    for (uint32_t i = 0; draft != NULL && i <= draft->parts; i++) {
        if (status == SLATE_OK && range.count > 1)
            status = try_range(prove, &range);
        if (status == SLATE_ERR_READ) {
            media->fault = before;
            status = SLATE_OK;
        }
        range.count = 0;
        if (i < draft->parts && draft->part[i].format != NULL &&
            draft->part[i].ask.keep == 0)
            range = draft->part[i].range;
    }
    return status;
}

enum slate_status slate_prove_complete(struct slate_prove *prove,
                                       slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK, end;

    SLATE_PASS_ALL(status, slate_prove_step(prove), &prove->pass,
                   prove->pass.finished);
    end = slate_prove_end(prove);
    status = status == SLATE_OK ? end : status;
    if (status == SLATE_OK && prove->different > 0)
        return SLATE_ERR_UNPROVED;
    return status == SLATE_OK ? try_ends(prove) : status;
}

enum slate_status slate_prove_run(struct slate_prove *prove,
                                  const struct slate_draft *draft,
                                  struct slate_media *media, void *work,
                                  size_t work_bytes, slate_progress progress,
                                  void *context)
{
    enum slate_status status =
        slate_prove_start(prove, draft, media, work, work_bytes);

    return status == SLATE_OK ? slate_prove_complete(prove, progress, context)
                              : status;
}
