/* SPDX-License-Identifier: MIT */
/* The one place from which the core writes to a device: blocks that a composer
 * has filled, and zeros that the device clears by itself. */
#include "enact/enact.h"
#include "base/base.h"
#include "pass/pass.h"
#include "media/wire/wire.h"

/* Shorter runs are written as fast; longer ones are cleared in several steps,
 * so that progress is seen and the work can be stopped. */
#define CLEAR_LEAST_BYTES 65536u
#define CLEAR_MOST_BYTES 67108864u
#define DISCARD_BYTES 1073741824u
/* Blocks that are read afterwards, both ends among them. */
#define LOOKS 8u

enum slate_status slate_enact_write(struct slate_media *media,
                                    const struct slate_composer *composer,
                                    const void *plan, uint64_t first,
                                    uint32_t count, void *buffer)
{
    enum slate_status status = composer->fill(plan, first, count, buffer);

    return status == SLATE_OK ? slate_media_write(media, first, count, buffer)
                              : status;
}

/* What could not be written at once, in smaller pieces; blocks that fail by
 * themselves are noted. SLATE_ERR_BAD_LIST: there are too many. */
static enum slate_status write_pieces(struct slate_enact *enact,
                                      const struct slate_sending *sent)
{
    struct slate_media *media = enact->pass.media;
    uint32_t at = 0, count = sent->blocks, piece = (count + 1) / 2;
    enum slate_status status = SLATE_OK;

    while (at < count && status == SLATE_OK) {
        uint32_t blocks = piece < count - at ? piece : count - at;

        status = slate_media_write(
            media, sent->first + at, blocks,
            sent->data + (size_t)at * media->geometry.block_bytes);
        if (status == SLATE_OK) {
            enact->written += blocks;
            at += blocks;
            piece *= piece < count ? 2u : 1u;
        } else if (status == SLATE_ERR_WRITE && blocks > 1) {
            piece = blocks / 2;
            status = SLATE_OK;
        } else if (status == SLATE_ERR_WRITE) {
            status = slate_round_note(enact->failed, sent->first + at,
                                      &enact->unwritable);
            at++;
        }
    }
    if (status == SLATE_OK)
        media->fault = sent->fault; /* it is in the list */
    return status;
}

static enum slate_status finish(struct slate_enact *enact,
                                struct slate_sending *sent)
{
    enum slate_status status;

    if (!sent->begun)
        return SLATE_OK;
    status = slate_media_finish(enact->pass.media, &sent->pending);
    sent->begun = false;
    if (status == SLATE_ERR_WRITE && enact->failed != NULL && sent->round)
        return write_pieces(enact, sent);
    if (status == SLATE_OK)
        enact->written += sent->blocks;
    return status;
}

enum slate_status slate_enact_drain(struct slate_enact *enact)
{
    struct slate_media *media = enact->pass.media;
    enum slate_status older = finish(enact, &enact->sending[1 - enact->newest]);
    struct slate_fault first = media->fault;
    enum slate_status newer = finish(enact, &enact->sending[enact->newest]);

    if (older == SLATE_OK)
        return newer;
    media->fault = first;
    return older;
}

enum slate_status slate_enact_flush(struct slate_enact *enact)
{
    enum slate_status status = slate_enact_drain(enact);
    uint64_t began = slate_media_milliseconds(enact->pass.media);

    SLATE_THEN(status, slate_media_flush(enact->pass.media));
    if (status == SLATE_OK)
        enact->safe = enact->pass.done;
    enact->flushed_ms = slate_media_milliseconds(enact->pass.media);
    enact->flush_ms = (uint32_t)(enact->flushed_ms - began);
    return status;
}

/* The other half of the buffer is free: what was written from it is done. */
static void turn(struct slate_pass *pass)
{
    uint8_t *work = pass->work;

    pass->work = pass->scratch;
    pass->scratch = work;
}

static void begin(struct slate_enact *enact, uint32_t count)
{
    struct slate_pass *pass = &enact->pass;
    struct slate_sending *next;

    enact->newest = 1 - enact->newest;
    next = &enact->sending[enact->newest];
    next->begun = true;
    next->round = pass->extent.moment == SLATE_MOMENT_OVERWRITE;
    next->blocks = count;
    next->first = pass->extent.first;
    next->data = pass->work;
    next->fault = pass->media->fault;
    slate_media_begin_write(pass->media, &next->pending, next->first, count,
                            next->data);
}

/* Composing goes on while the device writes, and it gets the next transfer
 * before it is done with the last; not where the block is looked at afterwards,
 * nor where both halves are needed to compare. */
enum slate_status slate_enact_write_next(struct slate_enact *enact,
                                         uint32_t count, bool composed)
{
    struct slate_pass *pass = &enact->pass;
    const struct slate_extent *extent = &pass->extent;
    bool alone = extent->first == 0 || (enact->resumed && !enact->ahead) ||
                 enact->pace.compares;
    enum slate_status status = SLATE_OK;

    if (composed)
        turn(pass);
    else
        status = pass->supply.compose(pass->supply.context, extent,
                                      extent->first, count, pass->work);
    if (status == SLATE_OK && alone)
        status = slate_enact_drain(enact);
    SLATE_TRY(status);
    begin(enact, count);
    if (alone || !enact->sending[enact->newest].pending.under_way)
        return slate_enact_drain(enact);
    status = finish(enact, &enact->sending[1 - enact->newest]);
    turn(pass);
    return status;
}

uint32_t slate_enact_clearable(const struct slate_enact *enact)
{
    const struct slate_extent *extent = &enact->pass.extent;
    const struct slate_media *media = enact->pass.media;
    uint32_t block_bytes = media->geometry.block_bytes;
    uint64_t most = CLEAR_MOST_BYTES / block_bytes;

    if (!extent->zero || enact->resumed || enact->writes_zeros ||
        !media->abilities.zero ||
        extent->count < CLEAR_LEAST_BYTES / block_bytes)
        return 0;
    return (uint32_t)(extent->count < most ? extent->count : most);
}

static enum slate_status is_zero_at(struct slate_pass *pass, uint64_t lba,
                                    bool *zero)
{
    enum slate_status status =
        slate_media_read(pass->media, lba, 1, pass->work);

    *zero = *zero && status == SLATE_OK &&
            slate_is_zero(pass->work, pass->media->geometry.block_bytes);
    return status;
}

/* Of what the device says, and of what it does, only the latter counts. */
enum slate_status slate_enact_clear_next(struct slate_enact *enact,
                                         uint32_t count, bool *cleared)
{
    struct slate_pass *pass = &enact->pass;
    struct slate_fault before = pass->media->fault;
    uint64_t first = pass->extent.first;
    enum slate_status status =
        slate_media_clear(pass->media, first, count, SLATE_CLEAR_ZERO);

    *cleared = status == SLATE_OK;
    for (uint32_t i = 0; i < LOOKS && *cleared; i++)
        status = is_zero_at(
            pass, first + (uint64_t)i * (count - 1) / (LOOKS - 1), cleared);
    if (*cleared) {
        enact->cleared += count;
        return SLATE_OK;
    }
    enact->writes_zeros = true;
    if (slate_media_is_gone(status))
        return status;
    pass->media->fault = before;
    return SLATE_OK;
}

enum slate_status slate_enact_discard(struct slate_enact *enact,
                                      uint32_t *count)
{
    const struct slate_extent *extent = &enact->pass.extent;
    struct slate_media *media = enact->pass.media;
    struct slate_fault before = media->fault;
    uint64_t most = DISCARD_BYTES / media->geometry.block_bytes;
    enum slate_status status;

    *count = (uint32_t)(extent->count < most ? extent->count : most);
    if (!media->abilities.discard)
        return SLATE_OK;
    status =
        slate_media_clear(media, extent->first, *count, SLATE_CLEAR_DISCARD);
    if (status == SLATE_OK)
        enact->discarded += *count;
    if (status != SLATE_ERR_COMMAND && status != SLATE_ERR_WRITE)
        return status;
    media->fault = before;
    return SLATE_OK;
}

/* Is reading so much faster than writing that blocks which are equal already
 * are better left alone? Found out on the first ones, by the port's clock. */

/* Less is not worth finding out; so much of each is timed. */
#define WORTH_BYTES 4194304u
#define TIMED_BYTES 524288u
/* So many times faster, as what differs is read for nothing. */
#define FASTER 3u
/* A clock of milliseconds tells nothing about less; nor is it worth saving. */
#define NOTICED_MS 4u

static uint64_t bytes_of(const struct slate_enact *enact, uint64_t blocks)
{
    return blocks * enact->pass.media->geometry.block_bytes;
}

bool slate_enact_compares(const struct slate_enact *enact)
{
    const struct slate_pace *pace = &enact->pace;

    if (enact->resumed || pace->compares)
        return true;
    return !pace->known && enact->pass.media->ops.milliseconds != NULL &&
           bytes_of(enact, enact->pass.total) >= WORTH_BYTES;
}

/* Where nothing had to be written so far, reading goes on. */
static void decide(struct slate_enact *enact)
{
    struct slate_pace *pace = &enact->pace;

    if (bytes_of(enact, pace->read_blocks) < TIMED_BYTES ||
        bytes_of(enact, pace->written_blocks) < TIMED_BYTES)
        return;
    pace->known = true;
    pace->compares = pace->written_ms >= NOTICED_MS &&
                     pace->read_ms * FASTER * pace->written_blocks <
                         pace->written_ms * pace->read_blocks;
}

void slate_enact_note_read(struct slate_enact *enact, uint32_t count,
                           uint64_t began)
{
    struct slate_pace *pace = &enact->pace;

    if (pace->known)
        return;
    pace->read_blocks += count;
    pace->read_ms += slate_media_milliseconds(enact->pass.media) - began;
}

void slate_enact_note_write(struct slate_enact *enact, uint32_t count,
                            uint64_t began)
{
    struct slate_pace *pace = &enact->pace;

    if (pace->known)
        return;
    pace->written_blocks += count;
    pace->written_ms += slate_media_milliseconds(enact->pass.media) - began;
    decide(enact);
}
