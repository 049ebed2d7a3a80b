/* SPDX-License-Identifier: MIT */
/* Transfers that go on while the next one is composed. */

#include "media/wire/wire.h"

static bool can_overlap(const struct slate_media *media, uint64_t lba,
                        uint32_t count)
{
    return media->ops.submit != NULL && media->ops.wait != NULL && count > 0 &&
           count <= media->largest_transfer &&
           slate_media_admit(media, lba, count) == SLATE_OK &&
           (media->speech->commands == SLATE_COMMANDS_NONE ||
            media->speech->prepare != NULL);
}

static enum slate_status at_once(struct slate_media *media,
                                 const struct slate_request *request)
{
    return request->write ? slate_media_write(media, request->lba,
                                              request->count, request->data)
                          : slate_media_read(media, request->lba,
                                             request->count, request->data);
}

static void begin(struct slate_media *media, struct slate_pending *pending,
                  bool write, uint64_t lba, uint32_t count, void *data)
{
    struct slate_request *request = &pending->request;

    *request = (struct slate_request){
        .write = write, .lba = lba, .count = count, .data = data};
    pending->under_way =
        (!write || media->entered) && can_overlap(media, lba, count);
    if (pending->under_way && media->speech->commands != SLATE_COMMANDS_NONE) {
        media->speech->prepare(media, write, lba, count, data,
                               &pending->exchange);
        pending->exchange.transferred = 0;
        pending->exchange.answer_length = 0;
        request->exchange = &pending->exchange;
    }
    if (pending->under_way)
        pending->under_way =
            media->ops.submit(media->port->context, request) == SLATE_OK;
    if (!pending->under_way)
        pending->status = at_once(media, request);
}

void slate_media_begin_read(struct slate_media *media,
                            struct slate_pending *pending, uint64_t lba,
                            uint32_t count, void *data)
{
    begin(media, pending, false, lba, count, data);
}

void slate_media_begin_write(struct slate_media *media,
                             struct slate_pending *pending, uint64_t lba,
                             uint32_t count, const void *data)
{
    begin(media, pending, true, lba, count, slate_outgoing(data));
}

static void count(struct slate_media *media,
                  const struct slate_request *request)
{
    media->traffic.commands++;
    if (request->write)
        media->traffic.blocks_written += request->count;
    else
        media->traffic.blocks_read += request->count;
}

/* Is a failing read as good as told, where the policy has one try for it? */
static bool is_told(const struct slate_media *media,
                    const struct slate_request *request,
                    enum slate_status status)
{
    return status == SLATE_ERR_READ && !request->write &&
           request->exchange == NULL && media->policy.tries == 1;
}

enum slate_status slate_media_finish(struct slate_media *media,
                                     struct slate_pending *pending)
{
    const struct slate_request *request = &pending->request;
    const struct slate_exchange *x = request->exchange;
    enum slate_status status;

    if (!pending->under_way)
        return pending->status;
    pending->under_way = false;
    status = media->ops.wait(media->port->context, &pending->request);
    if (status == SLATE_OK && x != NULL &&
        (x->state != 0 || x->transferred != x->data_length))
        status = SLATE_ERR_COMMAND;
    /* or it would be tried again, on another medium */
    if (status == SLATE_ERR_COMMAND && media->speech->heed != NULL)
        media->speech->heed(media, x);
    if (status == SLATE_OK)
        count(media, request);
    else if (is_told(media, request, status))
        status = slate_media_note(media, status, SLATE_OPERATION_READ,
                                  request->lba, request->count);
    else
        status = at_once(media, request);
    pending->status = status;
    return status;
}
