/* SPDX-License-Identifier: MIT */
/* Is a device what a draft was made from, or what enacting it has left
 * half-way, or neither? */
#include "base/base.h"
#include "enact/enact.h"

#include "media/wire/wire.h"
#include "draft/place/place.h"

/* Are these blocks as they should be? What cannot be read is not. */
enum slate_status slate_enact_equal(struct slate_pass *pass,
                                    const struct slate_extent *extent,
                                    uint32_t count, bool *equal)
{
    struct slate_fault before = pass->media->fault;
    struct slate_difference difference = {0};
    enum slate_status status =
        slate_media_read(pass->media, extent->first, count, pass->work);

    *equal = false;
    if (status == SLATE_ERR_READ) {
        pass->media->fault = before;
        return SLATE_OK;
    }
    SLATE_THEN(status,
               slate_draft_compare(pass->draft, extent, extent->first, count,
                                   pass->work, pass->scratch, &difference));
    *equal = status == SLATE_OK && difference.blocks == 0;
    return status;
}

/* Does block 0 already hold what the draft writes last? */
static enum slate_status judge_changed(struct slate_pass *pass)
{
    struct slate_walk walk = {.moment = SLATE_MOMENT_COMMIT};
    struct slate_extent first;
    enum slate_status status = SLATE_OK;
    bool equal = false;

    if (slate_draft_next(pass->draft, &walk, &first))
        status = slate_enact_equal(pass, &first, 1, &equal);
    SLATE_TRY(status);
    return equal ? SLATE_ERR_ALREADY : SLATE_ERR_CHANGED;
}

/* Is all but block 0 as the draft leaves it? Then the last write was cut. */
static enum slate_status is_all_but_the_first(struct slate_pass *pass,
                                              bool *equal)
{
    struct slate_walk walk = {0};
    struct slate_supply final;
    struct slate_extent extent;
    enum slate_status status = SLATE_OK;

    *equal = true;
    slate_draft_supply(pass->draft, true, &final);
    while (status == SLATE_OK && *equal &&
           final.next(final.context, &walk, &extent)) {
        while (extent.first > 0 && extent.count > 0 && status == SLATE_OK &&
               *equal) {
            uint32_t count = extent.count < pass->work_blocks
                                 ? (uint32_t)extent.count
                                 : pass->work_blocks;

            status = slate_enact_equal(pass, &extent, count, equal);
            extent.first += count;
            extent.count -= count;
        }
    }
    return status;
}

/* Of the block in the work buffer. */
void slate_enact_digest(const struct slate_pass *pass,
                        uint8_t digest[SLATE_DIGEST_BYTES])
{
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, pass->work, pass->media->geometry.block_bytes);
    slate_sha256_end(&sha, digest);
}

enum slate_status slate_enact_look(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    struct slate_fault before = pass->media->fault;
    enum slate_status status = slate_media_read(pass->media, 0, 1, pass->work);

    enact->looked = status == SLATE_OK;
    if (enact->looked)
        slate_enact_digest(pass, enact->first);
    if (status != SLATE_ERR_READ)
        return status;
    pass->media->fault = before;
    return SLATE_OK;
}

/* Block 0 cannot be read. Where all else is as before the first write, or as
 * before the last one, that write was cut. */
static enum slate_status judge_unread(struct slate_enact *enact, bool same)
{
    enum slate_status status = SLATE_OK;

    enact->resumed = same;
    if (!same)
        status = is_all_but_the_first(&enact->pass, &enact->resumed);
    return status != SLATE_OK || enact->resumed ? status : SLATE_ERR_CHANGED;
}

/* Is it what the draft was made from, or what enacting it has left half-way? */
enum slate_status slate_enact_judge(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    enum slate_status status = slate_enact_look(enact);
    struct slate_again found;

    SLATE_TRY(status);
    if (pass->draft->switched)
        return slate_enact_judge_switched(enact);
    enact->resumed =
        enact->looked &&
        slate_mark_names(pass->work, pass->media->geometry.block_bytes,
                         pass->draft->seal);
    if (enact->resumed)
        return SLATE_OK;
    SLATE_TRY(slate_evidence_again(pass->media, &pass->draft->basis.evidence, 0,
                                   pass->work, &found));
    if (!enact->looked)
        return judge_unread(enact, found.rest);
    return found.first && found.rest ? SLATE_OK : judge_changed(pass);
}
