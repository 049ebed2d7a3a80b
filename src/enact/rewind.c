/* SPDX-License-Identifier: MIT */
/* Putting back what was replaced: a journal's records one after the other, as
 * they stand in it. */

#include "base/base.h"
#include "enact/enact.h"
#include "pass/pass.h"

/* The next record, as an extent. A journal was checked, but its place may fail
 * meanwhile: then the next one is one that cannot be composed, so that nobody
 * takes what was put back so far for all of it. */
static bool next(const void *context, struct slate_walk *walk,
                 struct slate_extent *extent)
{
    struct slate_journal *journal =
        ((const struct slate_rewind *)context)->journal;
    struct slate_record *record = &journal->record;
    uint8_t head[SLATE_RECORD_HEAD];

    if (journal->status == SLATE_OK)
        journal->status = slate_journal_next(
            journal, walk->at == 0 ? journal->head_bytes : walk->at, record,
            head);
    if (journal->status != SLATE_OK) {
        *extent =
            (struct slate_extent){.count = 1, .moment = SLATE_MOMENT_COMMIT};
        return true;
    }
    if (record->kind == SLATE_RECORD_END)
        return false;
    walk->at = record->end;
    *extent = (struct slate_extent){.first = record->first,
                                    .count = record->count,
                                    .moment = (enum slate_moment)record->stage};
    return true;
}

/* The same without what stands in between only. */
static bool next_kept(const void *context, struct slate_walk *walk,
                      struct slate_extent *extent)
{
    const struct slate_journal *journal =
        ((const struct slate_rewind *)context)->journal;

    while (next(context, walk, extent)) {
        if (journal->record.kind == SLATE_RECORD_BLOCKS ||
            journal->status != SLATE_OK)
            return true;
    }
    return false;
}

static enum slate_status compose(const void *context,
                                 const struct slate_extent *extent,
                                 uint64_t first, uint32_t count, void *data)
{
    const struct slate_journal *journal =
        ((const struct slate_rewind *)context)->journal;

    (void)extent;
    return journal->status == SLATE_OK
               ? slate_journal_fill(journal, first, count, data)
               : journal->status;
}

static const char *step(const void *context, const struct slate_extent *extent)
{
    const struct slate_journal *journal =
        ((const struct slate_rewind *)context)->journal;

    (void)extent;
    if (journal->record.kind != SLATE_RECORD_BETWEEN)
        return "put back what was there";
    return journal->marked ? "put the unfinished mark in block 0"
                           : "take what goes out of the table";
}

static enum slate_status begin(struct slate_rewind *rewind,
                               struct slate_pass *pass, bool kept,
                               struct slate_media *media, void *work,
                               size_t work_bytes)
{
    const struct slate_journal *journal = rewind->journal;
    const struct slate_supply supply = {
        rewind, kept ? next_kept : next, compose, step,
        journal->blocks + (kept ? 0 : journal->between)};

    return slate_pass_begin(pass, &supply, media, work, work_bytes);
}

enum slate_status slate_rewind_begin(struct slate_rewind *rewind,
                                     struct slate_journal *journal,
                                     struct slate_media *media, void *work,
                                     size_t work_bytes)
{
    if (rewind == NULL || journal == NULL || media == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(rewind, 0, sizeof *rewind);
    rewind->journal = journal;
    journal->status = SLATE_OK;
    if (memcmp(media->digest, journal->identity, SLATE_DIGEST_BYTES) != 0 ||
        media->geometry.block_bytes != journal->block_bytes ||
        media->geometry.block_count != journal->block_count)
        return SLATE_ERR_OTHER_DEVICE;
    return begin(rewind, &rewind->look, true, media, work, work_bytes);
}

static uint64_t all_pieces(const struct slate_pass *look)
{
    uint32_t pieces = look->media->geometry.block_bytes / SLATE_CHECKED_BYTES;

    return pieces < 64 ? ((uint64_t)1 << pieces) - 1 : UINT64_MAX;
}

/* Pieces of a block that are not as they were. */
static uint64_t odd_pieces(const struct slate_pass *look, const uint8_t *block)
{
    uint32_t bytes = look->media->geometry.block_bytes;
    uint64_t odd = 0;

    if (memcmp(block, look->scratch, bytes) == 0) /* as a rule */
        return 0;
    for (uint32_t at = 0; at < bytes; at += SLATE_CHECKED_BYTES) {
        if (memcmp(block + at, look->scratch + at, SLATE_CHECKED_BYTES) != 0)
            odd |= (uint64_t)1 << at / SLATE_CHECKED_BYTES;
    }
    return odd;
}

/* A torn write leaves some pieces of each. */
static enum slate_status look_at(struct slate_rewind *rewind, uint64_t lba,
                                 const uint8_t *block)
{
    struct slate_pass *look = &rewind->look;
    uint64_t odd;

    SLATE_TRY(slate_journal_fill(rewind->journal, lba, 1, look->scratch));
    odd = odd_pieces(look, block);
    if (odd == 0)
        return SLATE_OK;
    SLATE_TRY(slate_journal_explain(rewind->journal, lba, block, &odd));
    if ((odd & all_pieces(look)) == 0)
        rewind->replaced++;
    else if (rewind->changed++ == 0)
        rewind->first_changed = lba;
    return SLATE_OK;
}

static enum slate_status look_chunk(struct slate_rewind *rewind, uint32_t count)
{
    struct slate_pass *look = &rewind->look;
    uint32_t bytes = look->media->geometry.block_bytes;
    struct slate_fault before = look->media->fault;
    enum slate_status status =
        slate_media_read(look->media, look->extent.first, count, look->work);

    if (status == SLATE_ERR_READ) { /* it is written over, as by enacting */
        look->media->fault = before;
        rewind->replaced += count;
        return SLATE_OK;
    }
    for (uint32_t i = 0; status == SLATE_OK && i < count; i++)
        status = look_at(rewind, look->extent.first + i,
                         look->work + (size_t)i * bytes);
    return status;
}

enum slate_status slate_rewind_look(struct slate_rewind *rewind)
{
    struct slate_pass *look = &rewind->look;
    uint32_t count;

    if (look->status != SLATE_OK || look->finished)
        return look->status;
    count = slate_pass_chunk(look);
    look->status = rewind->journal->status;
    if (count == 0 || look->status != SLATE_OK)
        return look->status;
    look->status = look_chunk(rewind, count);
    if (look->status == SLATE_OK)
        slate_pass_advance(look, count);
    return look->status;
}

/* Block 0 is taken first: a medium that comes in behind what is looked at then
 * has another one. */
static enum slate_status enter(struct slate_rewind *rewind,
                               const struct slate_agreement *agreed)
{
    struct slate_enact *enact = &rewind->enact;
    const struct slate_pass *pass = &enact->pass;

    SLATE_TRY(slate_enact_look(enact));
    return slate_door_enter(pass->media, agreed, pass->work, SLATE_WORK_MIN);
}

enum slate_status slate_rewind_start(struct slate_rewind *rewind,
                                     const struct slate_agreement *agreed,
                                     bool anyway)
{
    const struct slate_pass *look = &rewind->look;
    const struct slate_journal *journal = rewind->journal;
    struct slate_enact *enact = &rewind->enact;
    size_t bytes =
        (size_t)look->work_blocks * 2 * look->media->geometry.block_bytes;

    if (agreed == NULL || agreed->consent == NULL ||
        !slate_same_text(agreed->consent, journal->tag))
        return SLATE_ERR_CONSENT;
    if (look->media->read_only)
        return SLATE_ERR_PROTECTED;
    if (rewind->changed > 0 && !anyway)
        return SLATE_ERR_USED;
    if (rewind->changed == 0 && rewind->replaced == 0)
        return SLATE_ERR_ALREADY;
    memset(enact, 0, sizeof *enact);
    enact->switched = !journal->marked;
    memcpy(enact->seal, journal->seal, sizeof enact->seal);
    enact->resumed = true; /* what is back already is left alone */
    SLATE_TRY(
        begin(rewind, &enact->pass, false, look->media, look->work, bytes));
    return enter(rewind, agreed);
}
