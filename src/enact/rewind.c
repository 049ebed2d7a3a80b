/* SPDX-License-Identifier: MIT */
/* Putting back what a draft has replaced: the same walk, with what was kept as
 * its content. On a device that was set up anew the draft's own mark stands in
 * block 0 meanwhile; where partitions stay, a table of these alone; a change in
 * place is gone back over from its end. */

#include "base/base.h"
#include "enact/enact.h"
#include "pass/pass.h"

/* Where partitions stay, and none went, the old table is that of these alone:
 * it comes first. */
static bool table_first(const struct slate_draft *draft)
{
    return draft->switched && !draft->drops;
}

static bool is_table(const struct slate_extent *extent)
{
    return extent->moment >= SLATE_MOMENT_TABLE_COPY;
}

/* The walk of the draft, twice: the table, then all else. */
static bool next_table_first(const struct slate_draft *draft,
                             struct slate_walk *walk,
                             struct slate_extent *extent)
{
    for (;;) {
        bool second = walk->moment >= SLATE_MOMENTS;
        struct slate_walk inner = *walk;

        inner.moment -= second ? SLATE_MOMENTS : 0;
        if (slate_draft_next(draft, &inner, extent)) {
            *walk = inner;
            walk->moment += second ? SLATE_MOMENTS : 0;
            if (is_table(extent) != second)
                return true;
        } else if (second) {
            return false;
        } else {
            *walk = (struct slate_walk){.moment = SLATE_MOMENTS};
        }
    }
}

/* What is changed in place goes back the way it came: the last moment first,
 * so that the device passes through the same states. */
static bool next_backwards(const struct slate_draft *draft,
                           struct slate_walk *walk, struct slate_extent *extent)
{
    for (; walk->moment < SLATE_MOMENTS; walk->moment++) {
        struct slate_walk inner = *walk;
        uint32_t moment = SLATE_MOMENTS - 1 - walk->moment;

        inner.moment = moment;
        if (slate_draft_next(draft, &inner, extent) &&
            extent->moment == (enum slate_moment)moment) {
            inner.moment = walk->moment;
            *walk = inner;
            return true;
        }
        walk->index = 0;
        walk->at = 0;
    }
    return false;
}

/* All that the draft writes, its mark and the tables in between included. */
static bool next(const void *context, struct slate_walk *walk,
                 struct slate_extent *extent)
{
    const struct slate_draft *draft =
        ((const struct slate_rewind *)context)->draft;
    bool more = slate_draft_is_change(draft)
                    ? next_backwards(draft, walk, extent)
                : table_first(draft) ? next_table_first(draft, walk, extent)
                                     : slate_draft_next(draft, walk, extent);

    extent->zero = false;
    return more;
}

static enum slate_status compose(const void *context,
                                 const struct slate_extent *extent,
                                 uint64_t first, uint32_t count, void *data)
{
    const struct slate_rewind *rewind = context;

    return extent->moment <= SLATE_MOMENT_DROP
               ? slate_draft_compose(rewind->draft, extent, first, count, data)
               : slate_journal_fill(rewind->journal, first, count, data);
}

static const char *step(const void *context, const struct slate_extent *extent)
{
    const struct slate_rewind *rewind = context;

    return extent->moment <= SLATE_MOMENT_DROP
               ? slate_draft_step(rewind->draft, extent)
               : "put back what was there";
}

enum slate_status slate_rewind_begin(struct slate_rewind *rewind,
                                     struct slate_journal *journal,
                                     const struct slate_draft *draft,
                                     struct slate_media *media, void *work,
                                     size_t work_bytes)
{
    if (rewind == NULL || journal == NULL || draft == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(rewind, 0, sizeof *rewind);
    rewind->journal = journal;
    rewind->draft = draft;
    return slate_pass_start(&rewind->look, draft, media, work, work_bytes,
                            true);
}

/* Takes from the bytes that are odd those which are as in the other buffer. */
static void explain(const struct slate_pass *look, const uint8_t *block,
                    uint8_t odd[SLATE_BLOCK_MAX / 8])
{
    uint32_t bytes = look->media->geometry.block_bytes;

    if (memcmp(block, look->scratch, bytes) == 0) { /* as a rule */
        memset(odd, 0, bytes / 8);
        return;
    }
    for (uint32_t i = 0; i < bytes; i++) {
        if (block[i] == look->scratch[i])
            odd[i / 8] &= (uint8_t) ~(1u << i % 8);
    }
}

static bool is_explained(const struct slate_pass *look, const uint8_t *odd)
{
    for (uint32_t i = 0; i < look->media->geometry.block_bytes / 8; i++) {
        if (odd[i] != 0)
            return false;
    }
    return true;
}

/* As the draft composes a block for a part: what it ends as, or its mark, or
 * the table without what goes. */
static enum slate_status explain_by(struct slate_rewind *rewind, uint32_t part,
                                    uint64_t lba, const uint8_t *block,
                                    uint8_t odd[SLATE_BLOCK_MAX / 8])
{
    struct slate_pass *look = &rewind->look;
    struct slate_extent extent = look->extent;
    enum slate_status status;

    extent.zero = extent.zero && part == extent.part;
    extent.part = part;
    status = slate_draft_compose(rewind->draft, &extent, lba, 1, look->scratch);
    if (status == SLATE_OK)
        explain(look, block, odd);
    return status == SLATE_ERR_SOURCE ? SLATE_OK : status;
}

/* A torn write leaves some bytes of each. */
static enum slate_status look_at(struct slate_rewind *rewind, uint64_t lba,
                                 const uint8_t *block)
{
    struct slate_pass *look = &rewind->look;
    const struct slate_draft *draft = rewind->draft;
    uint8_t odd[SLATE_BLOCK_MAX / 8];
    enum slate_status status =
        slate_journal_fill(rewind->journal, lba, 1, look->scratch);

    memset(odd, 0xFF, sizeof odd);
    if (status == SLATE_OK)
        explain(look, block, odd);
    if (status != SLATE_OK || is_explained(look, odd))
        return status;
    status = explain_by(rewind, look->extent.part, lba, block, odd);
    if (status == SLATE_OK && lba == 0 && !draft->switched)
        status = explain_by(rewind, SLATE_PART_MARK, lba, block, odd);
    if (status == SLATE_OK && draft->drops &&
        look->extent.part == SLATE_PART_TABLE)
        status = explain_by(rewind, SLATE_PART_DROPPED, lba, block, odd);
    SLATE_TRY(status);
    if (is_explained(look, odd))
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
    if (count == 0)
        return SLATE_OK;
    look->status = look_chunk(rewind, count);
    if (look->status == SLATE_OK)
        slate_pass_advance(look, count);
    return look->status;
}

static enum slate_status enter(struct slate_rewind *rewind,
                               const struct slate_agreement *agreed)
{
    struct slate_enact *enact = &rewind->enact;
    const struct slate_pass *pass = &enact->pass;
    enum slate_status status =
        slate_door_enter(pass->media, agreed, pass->work, SLATE_WORK_MIN);

    SLATE_TRY(status);
    status = slate_enact_look(enact);
    if (status != SLATE_OK) {
        enum slate_status second = slate_door_leave(pass->media);

        (void)second; /* the first error counts */
    }
    return status;
}

enum slate_status slate_rewind_start(struct slate_rewind *rewind,
                                     const struct slate_agreement *agreed,
                                     bool anyway)
{
    const struct slate_pass *look = &rewind->look;
    struct slate_enact *enact = &rewind->enact;
    const struct slate_supply supply = {rewind, next, compose, step};
    uint32_t block_bytes = look->media->geometry.block_bytes;
    size_t bytes = (size_t)look->work_blocks * 2 * block_bytes;
    enum slate_status status;

    if (agreed == NULL || agreed->consent == NULL ||
        !slate_same_text(agreed->consent, rewind->draft->basis.tag))
        return SLATE_ERR_CONSENT;
    if (look->media->read_only)
        return SLATE_ERR_PROTECTED;
    if (rewind->changed > 0 && !anyway)
        return SLATE_ERR_USED;
    if (rewind->changed == 0 && rewind->replaced == 0)
        return SLATE_ERR_ALREADY;
    memset(enact, 0, sizeof *enact);
    status =
        slate_pass_begin(&enact->pass, &supply, look->media, look->work, bytes);
    enact->pass.draft = rewind->draft;
    enact->resumed = true; /* what is back already is left alone */
    return status == SLATE_OK ? enter(rewind, agreed) : status;
}
