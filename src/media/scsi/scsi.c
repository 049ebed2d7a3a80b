/* SPDX-License-Identifier: MIT */
/* Devices that speak SCSI: read, write, clear, eject (SPC-4, SBC-3). */

#include "base/base.h"
#include "media/scsi/scsi.h"

/* Most bytes per command: adapters are known to fail beyond 240 KiB. */
#define LARGEST_TRANSFER 122880u

static void limit_transfer(struct slate_media *media)
{
    uint32_t most = media->geometry.block_bytes == 0
                        ? 0
                        : LARGEST_TRANSFER / media->geometry.block_bytes;

    if (media->largest_transfer == 0 || media->largest_transfer > most)
        media->largest_transfer = most;
}

static enum slate_status scsi_open(struct slate_media *media,
                                   const struct slate_port_facts *facts)
{
    enum slate_status status;

    if (media->ops.exchange == NULL)
        return SLATE_ERR_ARGUMENT;
    status = slate_scsi_identify(media);
    SLATE_THEN(status, slate_scsi_measure(media));
    limit_transfer(media);
    media->read_only = media->read_only || facts->read_only;
    return status;
}

static void scsi_prepare(struct slate_media *media, bool write, uint64_t lba,
                         uint32_t count, void *data, struct slate_exchange *x)
{
    slate_scsi_transfer(x, write ? SLATE_DIRECTION_OUT : SLATE_DIRECTION_IN,
                        lba, count, data, count * media->geometry.block_bytes);
}

/* So often in a row less than a block may come, or go. */
#define SHORT_MOST 3u

/* A device may transfer less than it was asked for, but not nothing: what is
 * left is asked for again, also where that is all of a single block. */
static enum slate_status transfer(struct slate_media *media, bool write,
                                  uint64_t lba, uint32_t count, void *data)
{
    uint8_t *to = data;
    uint32_t block_bytes = media->geometry.block_bytes, shorts = 0;

    while (count > 0) {
        struct slate_exchange x;
        uint32_t n;

        scsi_prepare(media, write, lba, count, to, &x);
        SLATE_TRY(slate_scsi_send(media, &x));
        n = x.transferred / block_bytes;
        shorts = n == 0 ? shorts + 1 : 0;
        if (x.transferred == 0 || x.transferred > x.data_length ||
            shorts == SHORT_MOST)
            return SLATE_ERR_COMMAND;
        lba += n;
        count -= n;
        to += (size_t)n * block_bytes;
    }
    return SLATE_OK;
}

static enum slate_status scsi_flush(struct slate_media *media)
{
    struct slate_fault before = media->fault;
    struct slate_exchange x;
    enum slate_status status;

    slate_scsi_synchronize_cache_10(&x);
    status = slate_scsi_send(media, &x);
    if (status != SLATE_ERR_COMMAND)
        return status;
    /* A device without a cache may not know the command (SBC-3, 4.15). */
    if (media->fault.has_sense && media->fault.sense_key == 0x5) {
        media->fault = before;
        return SLATE_OK;
    }
    return SLATE_ERR_WRITE;
}

static enum slate_status scsi_clear(struct slate_media *media, uint64_t lba,
                                    uint64_t count, enum slate_clear how)
{
    static const uint8_t zeros[SLATE_BLOCK_MAX];
    struct slate_exchange x;
    uint8_t list[24];
    enum slate_status status;

    if (how == SLATE_CLEAR_DISCARD)
        slate_scsi_unmap(&x, lba, (uint32_t)count, list);
    else
        slate_scsi_write_same_16(&x, lba, (uint32_t)count,
                                 slate_outgoing(zeros),
                                 media->geometry.block_bytes);
    status = slate_scsi_send(media, &x);
    return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
}

/* Many sticks know neither command; then flushing was enough. */
static enum slate_status scsi_eject(struct slate_media *media)
{
    struct slate_exchange x;
    enum slate_status status;

    slate_scsi_prevent_removal(&x, false);
    status = slate_scsi_ask(media, &x);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    slate_scsi_start_stop(&x, false, media->removable);
    status = slate_scsi_ask(media, &x);
    return status == SLATE_ERR_COMMAND ? SLATE_OK : status;
}

static enum slate_status scsi_rest(struct slate_media *media)
{
    struct slate_exchange x;

    slate_scsi_start_stop(&x, false, false);
    return slate_scsi_ask(media, &x);
}

const struct slate_speech slate_speech_scsi = {
    .commands = SLATE_COMMANDS_SCSI,
    .open = scsi_open,
    .transfer = transfer,
    .prepare = scsi_prepare,
    .heed = slate_scsi_heed,
    .flush = scsi_flush,
    .clear = scsi_clear,
    .eject = scsi_eject,
    .rest = scsi_rest,
};
