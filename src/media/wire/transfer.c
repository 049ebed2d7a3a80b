/* SPDX-License-Identifier: MIT */
/* Transfers of any length: checked, split, counted, with the first fault. */
#include "base/base.h"
#include "media/wire/wire.h"

enum slate_status slate_media_note(struct slate_media *media,
                                   enum slate_status status,
                                   enum slate_operation operation, uint64_t lba,
                                   uint32_t count)
{
    struct slate_fault *fault = &media->fault;

    if (status != SLATE_OK && fault->status == SLATE_OK) {
        fault->status = status;
        fault->operation = operation;
        fault->lba = lba;
        fault->count = count;
    }
    return status;
}

bool slate_media_is_gone(enum slate_status status)
{
    return status == SLATE_ERR_NO_DEVICE || status == SLATE_ERR_NO_MEDIUM ||
           status == SLATE_ERR_TAKEN_OUT;
}

/* May these blocks be asked for? */
enum slate_status slate_media_admit(const struct slate_media *media,
                                    uint64_t lba, uint64_t count)
{
    if (media->swapped)
        return SLATE_ERR_TAKEN_OUT;
    return lba <= media->geometry.block_count &&
                   count <= media->geometry.block_count - lba
               ? SLATE_OK
               : SLATE_ERR_RANGE;
}

enum slate_status slate_media_move(struct slate_media *media, bool write,
                                   uint64_t lba, uint32_t count, void *data)
{
    enum slate_status status =
        media->speech->transfer(media, write, lba, count, data);

    if (status == SLATE_ERR_COMMAND)
        return write ? SLATE_ERR_WRITE : SLATE_ERR_READ;
    return status;
}

/* What is done to blocks, and what it needs for that. */
struct transfer {
    enum slate_operation operation;
    uint64_t most; /* blocks at a time */
    enum slate_status (*run)(struct slate_media *media,
                             const struct transfer *transfer, uint64_t lba,
                             uint64_t count);
    uint64_t first;
    uint8_t *to;         /* reading */
    const uint8_t *from; /* writing */
    enum slate_clear how;
};

/* The one place where transfers are split. */
static enum slate_status split(struct slate_media *media,
                               const struct transfer *transfer, uint64_t count)
{
    uint64_t lba = transfer->first;
    enum slate_status status = slate_media_admit(media, lba, count);

    if (transfer->operation == SLATE_OPERATION_WRITE)
        SLATE_THEN(status, slate_media_inside(media));
    if (status != SLATE_OK)
        return slate_media_note(media, status, transfer->operation, lba,
                                (uint32_t)count);
    while (count > 0) {
        uint64_t n = count < transfer->most ? count : transfer->most;

        status = transfer->run(media, transfer, lba, n);
        if (status != SLATE_OK)
            return slate_media_note(media, status, transfer->operation, lba,
                                    (uint32_t)n);
        lba += n;
        count -= n;
    }
    return SLATE_OK;
}

static size_t offset(const struct slate_media *media,
                     const struct transfer *transfer, uint64_t lba)
{
    return (size_t)(lba - transfer->first) * media->geometry.block_bytes;
}

static enum slate_status read_run(struct slate_media *media,
                                  const struct transfer *transfer, uint64_t lba,
                                  uint64_t count)
{
    return slate_media_read_run(media, lba, (uint32_t)count,
                                transfer->to + offset(media, transfer, lba));
}

static enum slate_status write_run(struct slate_media *media,
                                   const struct transfer *transfer,
                                   uint64_t lba, uint64_t count)
{
    enum slate_status status = slate_media_move(
        media, true, lba, (uint32_t)count,
        slate_outgoing(transfer->from + offset(media, transfer, lba)));

    if (status == SLATE_OK)
        media->traffic.blocks_written += count;
    return status;
}

static enum slate_status clear_run(struct slate_media *media,
                                   const struct transfer *transfer,
                                   uint64_t lba, uint64_t count)
{
    return media->speech->clear(media, lba, count, transfer->how);
}

enum slate_status slate_media_read(struct slate_media *media, uint64_t lba,
                                   uint32_t count, void *data)
{
    const struct transfer transfer = {.operation = SLATE_OPERATION_READ,
                                      .most = media->largest_transfer,
                                      .run = read_run,
                                      .first = lba,
                                      .to = data};

    return split(media, &transfer, count);
}

enum slate_status slate_media_write(struct slate_media *media, uint64_t lba,
                                    uint32_t count, const void *data)
{
    const struct transfer transfer = {.operation = SLATE_OPERATION_WRITE,
                                      .most = media->largest_transfer,
                                      .run = write_run,
                                      .first = lba,
                                      .from = data};

    return split(media, &transfer, count);
}

enum slate_status slate_media_clear(struct slate_media *media, uint64_t lba,
                                    uint64_t count, enum slate_clear how)
{
    bool able = how == SLATE_CLEAR_ZERO ? media->abilities.zero
                                        : media->abilities.discard;
    uint64_t most = media->abilities.clear_most;
    const struct transfer transfer = {.operation = SLATE_OPERATION_WRITE,
                                      .most = most == 0 ? UINT64_MAX : most,
                                      .run = clear_run,
                                      .first = lba,
                                      .how = how};

    return able && media->speech->clear != NULL ? split(media, &transfer, count)
                                                : SLATE_ERR_COMMAND;
}
