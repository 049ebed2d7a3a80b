/* SPDX-License-Identifier: MIT */
/* Reading by a policy: how often a failing read is tried, what is noted and
 * left out, and who is shown what was read. */
#include <string.h>

#include "base/base.h"
#include "media/wire/wire.h"

/* How often a read is tried before it counts as failed. */
#define READ_TRIES 3

static bool is_noted(const struct slate_unread *unread, uint64_t lba,
                     uint32_t count)
{
    for (uint32_t i = 0; i < unread->count && i < SLATE_UNREAD_MOST; i++) {
        if (unread->lba[i] >= lba && unread->lba[i] - lba < count)
            return true;
    }
    return false;
}

/* No patience with blocks that are known to be bad, nor with a device that has
 * too many of them. */
static int tries_for(const struct slate_media *media, uint64_t lba,
                     uint32_t count)
{
    const struct slate_unread *unread = media->policy.unread;

    return unread != NULL && (unread->count >= SLATE_UNREAD_MOST ||
                              is_noted(unread, lba, count))
               ? 1
           : media->policy.tries != 0 ? (int)media->policy.tries
                                      : READ_TRIES;
}

/* Would reading these blocks take more than it may? */
static bool is_beyond_limit(const struct slate_media *media, uint32_t count)
{
    const struct slate_limit *limit = media->policy.limit;

    return limit != NULL &&
           (media->traffic.commands >= limit->commands ||
            (media->traffic.blocks_read + count) * media->geometry.block_bytes >
                limit->bytes);
}

/* What is skipped is not counted as read. */
static void skip(struct slate_media *media, uint32_t count, void *data)
{
    memset(data, 0, (size_t)count * media->geometry.block_bytes);
    media->policy.limit->skipped += count;
    media->traffic.blocks_read -= count; /* it is about to be added */
}

/* A failing block may still be read at the second or third try. */
static enum slate_status read_patiently(struct slate_media *media, uint64_t lba,
                                        uint32_t count, void *data)
{
    struct slate_fault before = media->fault;
    enum slate_status status = SLATE_ERR_READ;
    int tries = tries_for(media, lba, count);

    for (int i = 0; i < tries && status == SLATE_ERR_READ; i++) {
        if (is_beyond_limit(media, count)) {
            media->fault = before;
            skip(media, count, data);
            return SLATE_OK;
        }
        if (i > 0)
            media->fault = before;
        status = slate_media_move(media, false, lba, count, data);
    }
    return status;
}

/* Notes blocks that could not be read, and puts zeros in their place. */
static void note_unread(struct slate_media *media, uint64_t lba, uint32_t count,
                        uint8_t *data)
{
    struct slate_unread *unread = media->policy.unread;

    if (unread->count == 0)
        unread->fault = media->fault;
    for (uint32_t i = 0; i < count; i++) {
        if (is_noted(unread, lba + i, 1))
            continue;
        if (unread->count < SLATE_UNREAD_MOST)
            unread->lba[unread->count] = lba + i;
        unread->count++;
    }
    memset(data, 0, (size_t)count * media->geometry.block_bytes);
}

/* What can be had of a run that failed as a whole. */
static enum slate_status read_what_can_be(struct slate_media *media,
                                          uint64_t lba, uint32_t count,
                                          uint8_t *data)
{
    struct slate_fault before = media->fault;
    uint32_t step =
        media->policy.unread->count >= SLATE_UNREAD_MOST ? count : 1;

    for (uint32_t i = 0; i < count; i += step) {
        uint8_t *to = data + (size_t)i * media->geometry.block_bytes;
        enum slate_status status =
            count == step ? SLATE_ERR_READ
                          : read_patiently(media, lba + i, step, to);

        if (status == SLATE_ERR_READ) {
            (void)slate_media_note(media, status, SLATE_OPERATION_READ, lba + i,
                                   step);
            note_unread(media, lba + i, step, to);
        } else if (status != SLATE_OK) {
            return status;
        }
        media->fault = before;
    }
    return SLATE_OK;
}

static uint64_t skipped_by(const struct slate_media *media)
{
    return media->policy.limit == NULL ? 0 : media->policy.limit->skipped;
}

/* What was skipped is no evidence. Where blocks could not be read, what became
 * of a run depends on where it began and ended. */
static void show_witness(const struct slate_media *media, uint64_t lba,
                         uint32_t count, const uint8_t *data, uint64_t skipped)
{
    if (media->policy.witness != NULL && skipped_by(media) == skipped)
        slate_witness_see(media->policy.witness, lba, count, data,
                          media->geometry.block_bytes,
                          media->policy.unread == NULL ||
                              media->policy.unread->count == 0);
}

enum slate_status slate_media_read_run(struct slate_media *media, uint64_t lba,
                                       uint32_t count, void *data)
{
    struct slate_fault before = media->fault;
    uint64_t skipped = skipped_by(media);
    enum slate_status status = read_patiently(media, lba, count, data);

    if (status == SLATE_ERR_READ && media->policy.unread != NULL) {
        if (count > 1)
            media->fault = before;
        status = read_what_can_be(media, lba, count, data);
        if (status == SLATE_OK)
            media->fault = before;
    }
    SLATE_TRY(status);
    media->traffic.blocks_read += count;
    show_witness(media, lba, count, data, skipped);
    return SLATE_OK;
}

struct slate_policy slate_media_read_by(struct slate_media *media,
                                        const struct slate_policy *policy)
{
    struct slate_policy before = media->policy;

    media->policy = *policy;
    return before;
}

uint32_t slate_media_unread_count(const struct slate_media *media)
{
    return (media->policy.unread == NULL ? 0 : media->policy.unread->count) +
           (media->policy.limit == NULL
                ? 0
                : (uint32_t)media->policy.limit->skipped);
}

bool slate_media_unread_since(const struct slate_media *media, uint32_t count)
{
    return slate_media_unread_count(media) != count;
}
