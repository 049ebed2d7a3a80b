/* SPDX-License-Identifier: MIT */
/* Carrying out a draft in steps, or in one call; and what it lifts ahead. */
#include "base/base.h"
#include "enact/enact.h"
#include "pass/pass.h"
#include "volume/files/files.h"
#include "trueslate/door.h"
#include "trueslate/journal.h"

static enum slate_status check_consent(const struct slate_draft *draft,
                                       const char *consent)
{
    return consent != NULL && slate_same_text(consent, draft->basis.tag)
               ? SLATE_OK
               : SLATE_ERR_CONSENT;
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
    if (status == SLATE_OK && draft->goal.overwrite.rounds > 0)
        slate_ahead_divide(&enact->reading, &enact->pass, work_bytes);
    SLATE_THEN(status, check_consent(draft, consent));
    SLATE_TRY(status);
    enact->switched = draft->switched;
    memcpy(enact->seal, draft->seal, sizeof enact->seal);
    return media->read_only && draft->basis.guards == 0 ? SLATE_ERR_PROTECTED
                                                        : SLATE_OK;
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

    SLATE_THEN(status, slate_enact_judge(enact));
    SLATE_THEN(status, slate_enact_guards(enact, guard, &count));
    return status == SLATE_OK ? slate_files_look(&draft->files) : status;
}

enum slate_status slate_enact_start(struct slate_enact *enact,
                                    const struct slate_draft *draft,
                                    struct slate_media *media,
                                    const char *consent, void *work,
                                    size_t work_bytes)
{
    const struct slate_agreement agreed = {consent, NULL};
    enum slate_status status =
        prepare(enact, draft, media, consent, work, work_bytes);

    SLATE_THEN(status, slate_door_enter(media, &agreed, NULL, 0));
    SLATE_TRY(status);
    /* Only now does nobody else change the content; by the draft's evidence. */
    status = slate_enact_judge(enact);
    SLATE_THEN(status, slate_files_look(&draft->files));
    SLATE_THEN(status, slate_enact_lift(enact));
    if (status == SLATE_OK && enact->resumed)
        status = slate_enact_find_round(enact);
    if (status != SLATE_OK) {
        enum slate_status second = slate_door_leave(media);

        (void)second; /* the first error counts */
    }
    return status;
}

/* Blocks that were read and compared. */
struct compared {
    bool equal;
    bool composed; /* they stand in the other half, as they should be */
};

/* Both halves of the buffer are needed for that. */
static enum slate_status compare_chunk(struct slate_enact *enact,
                                       uint32_t count,
                                       struct compared *compared)
{
    struct slate_pass *pass = &enact->pass;
    struct slate_fault before = pass->media->fault;
    struct slate_difference difference = {0};
    enum slate_status status = slate_enact_drain(enact);
    uint64_t began = slate_media_milliseconds(pass->media);

    SLATE_TRY(status);
    status =
        slate_media_read(pass->media, pass->extent.first, count, pass->work);
    slate_enact_note_read(enact, count, began);
    if (status == SLATE_ERR_READ) { /* it is written over */
        pass->media->fault = before;
        enact->pace.known = true; /* and no more is read than has to be */
        enact->pace.compares = false;
        return SLATE_OK;
    }
    SLATE_THEN(status, slate_pass_compare(pass, count, &difference));
    compared->composed = status == SLATE_OK && !pass->extent.zero;
    compared->equal = status == SLATE_OK && difference.blocks == 0;
    enact->equal += compared->equal ? count : 0;
    return status;
}

static enum slate_status write_chunk(struct slate_enact *enact, uint32_t count)
{
    bool compares = slate_enact_compares(enact);
    struct compared compared = {false, false};
    enum slate_status status = SLATE_OK;
    uint64_t began;

    /* block 0 is always written, but for what goes on */
    if (compares && (enact->resumed || enact->pass.extent.first > 0))
        status = compare_chunk(enact, count, &compared);
    if (status != SLATE_OK || compared.equal)
        return status;
    began = slate_media_milliseconds(enact->pass.media);
    status = slate_enact_write_next(enact, count, compared.composed);
    if (status == SLATE_OK && compares && !enact->pace.known)
        status = slate_enact_drain(enact); /* to be timed */
    if (status == SLATE_OK && compares)
        slate_enact_note_write(enact, count, began);
    return status;
}

/* Block 0 is in the work buffer: it has to be as it was looked at, then hold
 * the mark. What still shows the old content does not keep what it is given.
 * Where partitions stay, it is as it was last written. */
static enum slate_status judge_first(const struct slate_enact *enact)
{
    const struct slate_pass *pass = &enact->pass;
    bool mark = pass->extent.moment == SLATE_MOMENT_MARK, old;
    uint8_t digest[SLATE_DIGEST_BYTES];

    if (!enact->switched && !mark &&
        slate_mark_names(pass->work, pass->media->geometry.block_bytes,
                         enact->seal))
        return SLATE_OK;
    slate_enact_digest(pass, digest);
    old = memcmp(digest, enact->first, sizeof digest) == 0;
    if (mark || enact->switched)
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
    /* what is still under way would come behind it */
    status = slate_enact_drain(enact);
    SLATE_THEN(status, slate_media_read(pass->media, 0, 1, pass->work));
    SLATE_THEN(status, judge_first(enact));
    return status == SLATE_ERR_SWAPPED &&
                   enact->moment == SLATE_MOMENT_OVERWRITE
               ? slate_enact_judge_alias(enact)
               : status;
}

/* The mark went to what was looked at, and not to a medium that came in just
 * ahead of it: from then on that one would bear it. What the draft was made
 * from, or was shown, holds still, the marked block apart. */
static enum slate_status look_behind_mark(const struct slate_enact *enact)
{
    const struct slate_pass *pass = &enact->pass;
    const struct slate_evidence *evidence =
        pass->draft == NULL ? pass->media->shown
        : enact->resumed    ? NULL
                            : &pass->draft->basis.evidence;
    struct slate_again again;

    if (!pass->media->removable || evidence == NULL)
        return SLATE_OK;
    SLATE_TRY(slate_evidence_again(pass->media, evidence, pass->extent.first,
                                   pass->work, &again));
    return again.rest ? SLATE_OK : SLATE_ERR_SWAPPED;
}

/* On a device that is set up anew, nothing may overtake the mark, nor the true
 * block 0 anything; where partitions stay, no moment may overtake another. */
static bool is_border(const struct slate_enact *enact, enum slate_moment moment)
{
    return enact->switched ? moment != enact->moment
                           : moment == SLATE_MOMENT_COMMIT;
}

/* Where the device clears zeros by itself, more blocks at a time; none, when it
 * turns out that it does not. */
static enum slate_status put_chunk(struct slate_enact *enact, uint32_t *count)
{
    uint32_t clearable = slate_enact_clearable(enact);
    bool cleared = false;
    enum slate_status status;

    if (clearable == 0)
        return write_chunk(enact, *count);
    SLATE_TRY(slate_enact_drain(enact));
    status = slate_enact_clear_next(enact, clearable, &cleared);
    *count = cleared ? clearable : 0;
    return status;
}

static enum slate_status do_chunk(struct slate_enact *enact, uint32_t *count)
{
    const struct slate_pass *pass = &enact->pass;
    enum slate_status status = check_medium(enact);

    if (status == SLATE_OK && is_border(enact, pass->extent.moment))
        status = slate_enact_flush(enact);
    if (status == SLATE_OK && enact->moment == SLATE_MOMENT_OVERWRITE &&
        pass->extent.moment != SLATE_MOMENT_OVERWRITE)
        status = slate_enact_over_end(enact);
    SLATE_TRY(status);
    if (pass->extent.moment == SLATE_MOMENT_OVERWRITE)
        status = slate_enact_over(enact, count);
    else
        status = put_chunk(enact, count);
    enact->moment = pass->extent.moment;
    if (status == SLATE_OK && pass->extent.first == 0 && enact->switched)
        slate_enact_digest(pass, enact->first); /* as it is from now on */
    if (status == SLATE_OK && (pass->extent.moment == SLATE_MOMENT_MARK ||
                               pass->done + *count == pass->total))
        status = slate_enact_flush(enact);
    if (status == SLATE_OK && pass->extent.moment == SLATE_MOMENT_MARK)
        status = look_behind_mark(enact);
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
    pass->status = do_chunk(enact, &count);
    if (pass->status == SLATE_OK)
        slate_pass_advance(pass, count);
    return pass->status;
}

enum slate_status slate_enact_end(struct slate_enact *enact)
{
    struct slate_media *media = enact->pass.media;
    struct slate_fault first = media->fault;
    enum slate_status dropped = slate_ahead_end(&enact->reading, media);
    bool over = enact->moment == SLATE_MOMENT_OVERWRITE &&
                enact->pass.status == SLATE_OK;
    enum slate_status drained, released;

    (void)dropped; /* nobody asks for it any more */
    media->fault = first;
    drained = over ? slate_enact_flush(enact) : slate_enact_drain(enact);
    released = slate_door_leave(media);
    if (enact->pass.status != SLATE_OK)
        media->fault = first; /* it ended the work */

    return drained != SLATE_OK && enact->pass.status == SLATE_OK ? drained
                                                                 : released;
}

/* Enacting, keeping and looking in one blocking call each. */

enum slate_status slate_enact_complete(struct slate_enact *enact,
                                       slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK, end;

    SLATE_PASS_ALL(status, slate_enact_step(enact), &enact->pass,
                   enact->pass.finished);
    end = slate_enact_end(enact);
    return status != SLATE_OK ? status : end;
}

enum slate_status
slate_enact_run(struct slate_enact *enact, const struct slate_draft *draft,
                struct slate_media *media, const char *consent, void *work,
                size_t work_bytes, slate_progress progress, void *context)
{
    enum slate_status status =
        slate_enact_start(enact, draft, media, consent, work, work_bytes);

    return status == SLATE_OK ? slate_enact_complete(enact, progress, context)
                              : status;
}

enum slate_status slate_saving_run(struct slate_saving *saving,
                                   slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK;

    SLATE_PASS_ALL(status, slate_saving_step(saving), &saving->pass,
                   saving->finished);
    return status;
}

enum slate_status slate_rewind_find(struct slate_rewind *rewind,
                                    slate_progress progress, void *context)
{
    enum slate_status status = SLATE_OK;

    SLATE_PASS_ALL(status, slate_rewind_look(rewind), &rewind->look,
                   rewind->look.finished);
    return status;
}

/* Lifting guards ahead of writing: those of the draft, and no others. */

static bool is_drafted(const struct slate_draft *draft,
                       const struct slate_guard *guard)
{
    return (draft->basis.guards & SLATE_GUARD_BIT(guard->kind)) != 0;
}

/* A guard may have come since the draft was made: then nothing is lifted. */
static bool all_are_drafted(const struct slate_draft *draft,
                            const struct slate_guard *guard, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++) {
        if (slate_guard_stops_writing(guard[i].kind) &&
            !is_drafted(draft, &guard[i]))
            return false;
    }
    return true;
}

enum slate_status slate_enact_guards(const struct slate_enact *enact,
                                     struct slate_guard guard[SLATE_GUARDS_MAX],
                                     uint32_t *count)
{
    enum slate_status status =
        slate_guard_find(enact->pass.media, guard, count);

    return status == SLATE_OK &&
                   !all_are_drafted(enact->pass.draft, guard, *count)
               ? SLATE_ERR_PROTECTED
               : status;
}

enum slate_status slate_enact_lift(struct slate_enact *enact)
{
    const struct slate_draft *draft = enact->pass.draft;
    struct slate_media *media = enact->pass.media;
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count = 0;
    enum slate_status status = slate_enact_guards(enact, guard, &count);

    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (!is_drafted(draft, &guard[i]))
            continue;
        status = slate_guard_lift(media, &guard[i], NULL, draft->goal.lasting);
        if (status == SLATE_OK)
            enact->lifted |= SLATE_GUARD_BIT(guard[i].kind);
    }
    if (status == SLATE_OK && media->read_only)
        status = SLATE_ERR_PROTECTED;
    return status;
}
