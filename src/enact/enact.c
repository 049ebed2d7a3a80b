/* SPDX-License-Identifier: MIT */
/* Carrying out a draft in steps. */
#include <string.h>

#include "base/same.h"
#include "enact/lift.h"
#include "media/evidence.h"

static enum slate_status check_consent(const struct slate_draft *draft,
                                       const char *consent)
{
    return consent != NULL && slate_same_text(consent, draft->basis.tag)
               ? SLATE_OK
               : SLATE_ERR_CONSENT;
}

/* Are these blocks as they should be? What cannot be read is not. */
static enum slate_status is_equal(struct slate_pass *pass,
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
    if (status == SLATE_OK)
        status = slate_draft_compare(pass->draft, extent, extent->first, count,
                                     pass->work, pass->scratch, &difference);
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
        status = is_equal(pass, &first, 1, &equal);
    if (status != SLATE_OK)
        return status;
    return equal ? SLATE_ERR_ALREADY : SLATE_ERR_CHANGED;
}

/* Is all but block 0 as the draft leaves it? Then the last write was cut. */
static enum slate_status is_all_but_the_first(struct slate_pass *pass,
                                              bool *equal)
{
    struct slate_walk walk = {0};
    struct slate_extent extent;
    enum slate_status status = SLATE_OK;

    *equal = true;
    while (status == SLATE_OK && *equal &&
           slate_draft_next(pass->draft, &walk, &extent)) {
        while (extent.first > 0 && extent.count > 0 && status == SLATE_OK &&
               *equal) {
            uint32_t count = extent.count < pass->work_blocks
                                 ? (uint32_t)extent.count
                                 : pass->work_blocks;

            status = is_equal(pass, &extent, count, equal);
            extent.first += count;
            extent.count -= count;
        }
    }
    return status;
}

/* Of the block in the work buffer. */
static void digest_block(const struct slate_pass *pass,
                         uint8_t digest[SLATE_DIGEST_BYTES])
{
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, pass->work, pass->media->geometry.block_bytes);
    slate_sha256_end(&sha, digest);
}

/* Reads block 0, and takes its digest; what cannot be read is not looked at. */
static enum slate_status look_at_first(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    struct slate_fault before = pass->media->fault;
    enum slate_status status = slate_media_read(pass->media, 0, 1, pass->work);

    enact->looked = status == SLATE_OK;
    if (enact->looked)
        digest_block(pass, enact->first);
    if (status != SLATE_ERR_READ)
        return status;
    pass->media->fault = before;
    return SLATE_OK;
}

/* What of the evidence is as it was. */
struct finding {
    bool first, rest; /* block 0; everything else */
};

static enum slate_status look_again(struct slate_pass *pass,
                                    struct finding *found)
{
    const struct slate_evidence *evidence = &pass->draft->basis.evidence;
    struct slate_unread unread = {0}, *before = pass->media->unread;
    enum slate_status status = SLATE_OK;

    found->first = found->rest = true;
    pass->media->unread = &unread;
    for (uint32_t i = 0; i < evidence->count && status == SLATE_OK; i++) {
        const struct slate_seen *seen = &evidence->seen[i];
        bool same;

        status = slate_seen_again(pass->media, seen, pass->work, &same);
        if (seen->first == 0)
            found->first = same;
        else
            found->rest = found->rest && same;
    }
    pass->media->unread = before;
    return status;
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
static enum slate_status check_content(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    enum slate_status status = look_at_first(enact);
    struct finding found;

    if (status != SLATE_OK)
        return status;
    enact->resumed =
        enact->looked &&
        slate_mark_names(pass->work, pass->media->geometry.block_bytes,
                         pass->draft->seal);
    if (enact->resumed)
        return SLATE_OK;
    status = look_again(pass, &found);
    if (status != SLATE_OK)
        return status;
    if (!enact->looked)
        return judge_unread(enact, found.rest);
    return found.first && found.rest ? SLATE_OK : judge_changed(pass);
}

/* What can be checked without having the device for oneself. */
static enum slate_status prepare(struct slate_enact *enact,
                                 const struct slate_draft *draft,
                                 struct slate_media *media, const char *consent,
                                 void *work, size_t work_bytes)
{
    enum slate_status status;

    if (enact == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(enact, 0, sizeof *enact);
    status =
        slate_pass_start(&enact->pass, draft, media, work, work_bytes, false);
    if (status == SLATE_OK)
        status = check_consent(draft, consent);
    if (status == SLATE_OK && media->read_only && draft->basis.guards == 0)
        status = SLATE_ERR_PROTECTED;
    return status;
}

enum slate_status slate_enact_check(struct slate_enact *enact,
                                    const struct slate_draft *draft,
                                    struct slate_media *media,
                                    const char *consent, void *work,
                                    size_t work_bytes)
{
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count;
    enum slate_status status =
        prepare(enact, draft, media, consent, work, work_bytes);

    if (status == SLATE_OK)
        status = check_content(enact);
    return status == SLATE_OK ? slate_enact_guards(enact, guard, &count)
                              : status;
}

enum slate_status slate_enact_start(struct slate_enact *enact,
                                    const struct slate_draft *draft,
                                    struct slate_media *media,
                                    const char *consent, void *work,
                                    size_t work_bytes)
{
    enum slate_status status =
        prepare(enact, draft, media, consent, work, work_bytes);

    if (status == SLATE_OK)
        status = slate_media_claim(media);
    if (status != SLATE_OK)
        return status;
    /* Only now does nobody else change the content. */
    status = check_content(enact);
    if (status == SLATE_OK)
        status = slate_enact_lift(enact);
    if (status != SLATE_OK) {
        enum slate_status second = slate_media_release(media);

        (void)second; /* the first error counts */
    }
    return status;
}

static enum slate_status write_chunk(struct slate_enact *enact, uint32_t count)
{
    struct slate_pass *pass = &enact->pass;
    const struct slate_extent *extent = &pass->extent;
    enum slate_status status = SLATE_OK;
    bool equal = false;

    if (enact->resumed)
        status = is_equal(pass, extent, count, &equal);
    if (status != SLATE_OK || equal)
        return status;
    status = slate_draft_compose(pass->draft, extent, extent->first, count,
                                 pass->work);
    if (status == SLATE_OK)
        status =
            slate_media_write(pass->media, extent->first, count, pass->work);
    if (status == SLATE_OK)
        enact->written += count;
    return status;
}

/* Block 0 is in the work buffer: it has to be as it was looked at, then hold
 * the mark. What still shows the old content does not keep what it is given. */
static enum slate_status judge_first(const struct slate_enact *enact)
{
    const struct slate_pass *pass = &enact->pass;
    bool mark = pass->extent.moment == SLATE_MOMENT_MARK, old;
    uint8_t digest[SLATE_DIGEST_BYTES];

    if (!mark && slate_mark_names(pass->work, pass->media->geometry.block_bytes,
                                  pass->draft->seal))
        return SLATE_OK;
    digest_block(pass, digest);
    old = memcmp(digest, enact->first, sizeof digest) == 0;
    if (mark)
        return old ? SLATE_OK : SLATE_ERR_SWAPPED;
    return old ? SLATE_ERR_UNPROVED : SLATE_ERR_SWAPPED;
}

/* Where media can be changed, and not every reader tells of it. */
static enum slate_status check_medium(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    enum slate_status status;

    if (!pass->media->removable || !enact->looked)
        return SLATE_OK;
    status = slate_media_read(pass->media, 0, 1, pass->work);
    return status == SLATE_OK ? judge_first(enact) : status;
}

/* Nothing may overtake the mark, nor the true block 0 anything. */
static enum slate_status do_chunk(struct slate_enact *enact, uint32_t count)
{
    enum slate_moment moment = enact->pass.extent.moment;
    struct slate_media *media = enact->pass.media;
    enum slate_status status = check_medium(enact);

    if (status == SLATE_OK && moment == SLATE_MOMENT_COMMIT)
        status = slate_media_flush(media);
    if (status == SLATE_OK)
        status = write_chunk(enact, count);
    if (status == SLATE_OK &&
        (moment == SLATE_MOMENT_MARK || moment == SLATE_MOMENT_COMMIT))
        status = slate_media_flush(media);
    return status;
}

enum slate_status slate_enact_step(struct slate_enact *enact)
{
    struct slate_pass *pass = &enact->pass;
    uint32_t count;

    if (pass->status != SLATE_OK || pass->finished)
        return pass->status;
    count = slate_pass_chunk(pass);
    if (count == 0)
        return SLATE_OK;
    pass->status = do_chunk(enact, count);
    if (pass->status == SLATE_OK)
        slate_pass_advance(pass, count);
    return pass->status;
}

enum slate_status slate_enact_end(struct slate_enact *enact)
{
    return slate_media_release(enact->pass.media);
}
