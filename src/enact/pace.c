/* SPDX-License-Identifier: MIT */
/* Is reading so much faster than writing that blocks which are equal already
 * are better left alone? Found out on the first ones, by the port's clock. */
#include "enact/enact.h"

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
