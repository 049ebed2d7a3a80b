/* SPDX-License-Identifier: MIT */
/* Transfers of blocks that go on while the next one is composed: io_uring, by
 * liburing, two under way. Where the host has none, they are made one after the
 * other. */

#ifdef TRUESLATE_URING

#include <liburing.h>

#include "linux.h"

/* A transfer goes in so many pieces at once, as devices like it; each is a
 * whole number of blocks. */
#define PIECES 4u
#define PIECE_LEAST 65536u
#define SLOTS 2u

/* A transfer that is under way. */
struct slot {
    uint32_t pieces; /* that have not ended yet */
    bool whole;      /* none was cut short so far */
};

struct ring {
    struct io_uring uring;
    struct slot slot[SLOTS];
    uint32_t next; /* in turns */
};

/* What a piece is told by when it has ended: the slot, and its length. */
static uint64_t name_of(uint32_t slot, unsigned length)
{
    return (uint64_t)slot << 32 | length;
}

static void prepare(const struct slate_linux *device, uint32_t slot,
                    const struct slate_request *request, uint64_t from,
                    unsigned length)
{
    struct ring *ring = device->ring;
    struct io_uring_sqe *entry = io_uring_get_sqe(&ring->uring);
    uint64_t at = request->lba * device->block_bytes + from;
    uint8_t *data = (uint8_t *)request->data + from;

    if (request->write)
        io_uring_prep_write(entry, device->descriptor, data, length, at);
    else
        io_uring_prep_read(entry, device->descriptor, data, length, at);
    entry->user_data = name_of(slot, length);
}

/* Waits for every piece of a transfer; those of the other one may end first. */
static bool wait_for_pieces(struct ring *ring, uint32_t slot)
{
    while (ring->slot[slot].pieces > 0) {
        struct io_uring_cqe *done = NULL;
        int waited = io_uring_wait_cqe(&ring->uring, &done);
        struct slot *ended;

        if (waited == -EINTR)
            continue;
        if (waited != 0)
            return false;
        ended = &ring->slot[done->user_data >> 32];
        ended->whole = ended->whole && done->res >= 0 &&
                       (uint32_t)done->res == (uint32_t)done->user_data;
        ended->pieces--;
        io_uring_cqe_seen(&ring->uring, done);
    }
    return true;
}

/* A transfer is all or nothing. */
static enum slate_status ring_wait(void *context, struct slate_request *request)
{
    struct slate_linux *device = context;
    struct ring *ring = device->ring;
    struct slot *slot = request->mark;

    if (!wait_for_pieces(ring, (uint32_t)(slot - ring->slot)))
        return SLATE_ERR_INTERNAL;
    if (slot->whole)
        return SLATE_OK;
    return request->write ? SLATE_ERR_WRITE : SLATE_ERR_READ;
}

/* What does not go so is made in the usual way by whoever asks. The ring has
 * room for all pieces of two transfers. */
static enum slate_status ring_submit(void *context,
                                     struct slate_request *request)
{
    struct slate_linux *device = context;
    struct ring *ring = device->ring;
    struct slot *slot = &ring->slot[ring->next];
    uint64_t length = (uint64_t)request->count * device->block_bytes;
    uint64_t piece = length / PIECES / BOUNCE_ALIGNMENT * BOUNCE_ALIGNMENT,
             from = 0;
    int sent, wanted = 0;

    if (request->exchange != NULL || (request->write && !device->claimed) ||
        slot->pieces > 0 || !linux_is_aligned(request->data))
        return SLATE_ERR_COMMAND;
    piece = piece < PIECE_LEAST ? length : piece;
    for (unsigned i = 0; i < PIECES && from < length; i++) {
        bool last = i + 1 == PIECES || length - from < 2 * piece;
        uint64_t part = last ? length - from : piece;

        prepare(device, ring->next, request, from, (unsigned)part);
        from += part;
        wanted++;
    }
    sent = io_uring_submit(&ring->uring);
    slot->pieces = sent < 0 ? 0 : (uint32_t)sent;
    slot->whole = true;
    request->mark = slot;
    ring->next = (ring->next + 1) % SLOTS;
    if (sent == wanted)
        return SLATE_OK;
    (void)ring_wait(context, request); /* none of it may come later */
    return SLATE_ERR_COMMAND;
}

void linux_ring_open(struct slate_linux *device)
{
    struct ring *ring = calloc(1, sizeof *ring);

    if (ring == NULL)
        return;
    if (io_uring_queue_init(2 * SLOTS * PIECES, &ring->uring, 0) != 0) {
        free(ring);
        return;
    }
    device->ring = ring;
    device->ops.submit = ring_submit;
    device->ops.wait = ring_wait;
}

void linux_ring_close(struct slate_linux *device)
{
    struct ring *ring = device->ring;

    if (ring == NULL)
        return;
    for (uint32_t i = 0; i < SLOTS; i++)
        (void)wait_for_pieces(ring, i); /* whose buffers go next */
    io_uring_queue_exit(&ring->uring);
    free(ring);
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
