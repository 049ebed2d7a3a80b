/* SPDX-License-Identifier: MIT */
/* Transfers of blocks that go on while the next one is composed: io_uring, by
 * liburing, one under way. Where the host has none, they are made one after the
 * other. */
#include "ring.h"

#ifdef TRUESLATE_URING

#include <liburing.h>
#include <stdlib.h>

#include "linux.h"

/* A transfer goes in so many pieces at once, as devices like it; each is a
 * whole number of blocks. */
#define PIECES 4u
#define PIECE_LEAST 65536u

static void prepare(const struct slate_linux *device,
                    const struct slate_request *request, uint64_t from,
                    unsigned length)
{
    struct io_uring_sqe *entry = io_uring_get_sqe(device->ring);
    uint64_t at = request->lba * device->block_bytes + from;
    uint8_t *data = (uint8_t *)request->data + from;

    if (request->write)
        io_uring_prep_write(entry, device->descriptor, data, length, at);
    else
        io_uring_prep_read(entry, device->descriptor, data, length, at);
    entry->user_data = length;
}

/* Waits for every piece that is under way; whole: receives whether none was cut
 * short. Nothing else is done before all of them have ended. */
static bool wait_for_pieces(struct slate_linux *device, bool *whole)
{
    *whole = true;
    while (device->pieces > 0) {
        struct io_uring_cqe *done = NULL;
        int waited = io_uring_wait_cqe(device->ring, &done);

        if (waited == -EINTR)
            continue;
        if (waited != 0)
            return false;
        *whole =
            *whole && done->res >= 0 && (uint64_t)done->res == done->user_data;
        io_uring_cqe_seen(device->ring, done);
        device->pieces--;
    }
    return true;
}

/* A transfer is all or nothing. */
static enum slate_status ring_wait(void *context, struct slate_request *request)
{
    bool whole;

    if (!wait_for_pieces(context, &whole))
        return SLATE_ERR_INTERNAL;
    if (whole)
        return SLATE_OK;
    return request->write ? SLATE_ERR_WRITE : SLATE_ERR_READ;
}

/* What does not go so is made in the usual way by whoever asks. The ring has
 * room for all pieces, as none is under way. */
static enum slate_status ring_submit(void *context,
                                     struct slate_request *request)
{
    struct slate_linux *device = context;
    uint64_t length = (uint64_t)request->count * device->block_bytes;
    uint64_t piece = length / PIECES / BOUNCE_ALIGNMENT * BOUNCE_ALIGNMENT,
             from = 0;
    int sent, wanted = 0;

    if (request->exchange != NULL || (request->write && !device->claimed) ||
        !linux_is_aligned(request->data))
        return SLATE_ERR_COMMAND;
    piece = piece < PIECE_LEAST ? length : piece;
    for (unsigned i = 0; i < PIECES && from < length; i++) {
        bool last = i + 1 == PIECES || length - from < 2 * piece;
        uint64_t part = last ? length - from : piece;

        prepare(device, request, from, (unsigned)part);
        from += part;
        wanted++;
    }
    sent = io_uring_submit(device->ring);
    device->pieces = sent < 0 ? 0 : (uint32_t)sent;
    if (sent == wanted)
        return SLATE_OK;
    (void)ring_wait(context, request); /* none of it may come later */
    return SLATE_ERR_COMMAND;
}

void linux_ring_open(struct slate_linux *device)
{
    struct io_uring *ring = calloc(1, sizeof *ring);

    if (ring == NULL)
        return;
    if (io_uring_queue_init(2 * PIECES, ring, 0) != 0) {
        free(ring);
        return;
    }
    device->ring = ring;
    device->ops.submit = ring_submit;
    device->ops.wait = ring_wait;
}

void linux_ring_close(struct slate_linux *device)
{
    bool whole;

    if (device->ring != NULL) {
        (void)wait_for_pieces(device, &whole); /* whose buffers go next */
        io_uring_queue_exit(device->ring);
    }
    free(device->ring);
    device->ring = NULL;
}

#else

void linux_ring_open(struct slate_linux *device)
{
    (void)device;
}

void linux_ring_close(struct slate_linux *device)
{
    (void)device;
}

#endif
