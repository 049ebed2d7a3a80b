/* SPDX-License-Identifier: MIT */
/* Devices that speak SCSI: identify, size, read, write (SPC-4, SBC-3). */
#include <string.h>

#include "base/bytes.h"
#include "media/scsi_command.h"
#include "media/speech.h"

#define STATE_GOOD 0x00
#define STATE_CHECK_CONDITION 0x02
#define STATE_BUSY 0x08

#define KEY_NOT_READY 0x2
#define KEY_UNIT_ATTENTION 0x6
#define KEY_DATA_PROTECT 0x7

#define ASC_BECOMING_READY 0x04
#define ASC_NO_MEDIUM 0x3A

/* Unit attentions and "becoming ready" pass; this many are waited out. */
#define PATIENCE 8

/* Most bytes per command: adapters are known to fail beyond 240 KiB. */
#define LARGEST_TRANSFER 122880u

static void read_sense(const struct slate_exchange *x,
                       struct slate_fault *fault)
{
    uint8_t format = x->sense_length > 0 ? x->sense[0] & 0x7F : 0;

    fault->has_sense = false;
    if ((format == 0x70 || format == 0x71) && x->sense_length >= 14) {
        fault->sense_key = x->sense[2] & 0x0F; /* fixed: SPC-4, 4.5.3 */
        fault->asc = x->sense[12];
        fault->ascq = x->sense[13];
        fault->has_sense = true;
    } else if ((format == 0x72 || format == 0x73) && x->sense_length >= 4) {
        fault->sense_key = x->sense[1] & 0x0F; /* descriptor: 4.5.2 */
        fault->asc = x->sense[2];
        fault->ascq = x->sense[3];
        fault->has_sense = true;
    }
}

static bool passes_by_itself(const struct slate_exchange *x,
                             const struct slate_fault *fault)
{
    if (x->state == STATE_BUSY)
        return true;
    if (!fault->has_sense)
        return false;
    return fault->sense_key == KEY_UNIT_ATTENTION ||
           (fault->sense_key == KEY_NOT_READY &&
            fault->asc == ASC_BECOMING_READY && fault->ascq == 0x01);
}

static enum slate_status refusal(const struct slate_fault *fault)
{
    if (fault->has_sense && fault->sense_key == KEY_DATA_PROTECT)
        return SLATE_ERR_PROTECTED;
    if (fault->has_sense && fault->sense_key == KEY_NOT_READY &&
        fault->asc == ASC_NO_MEDIUM)
        return SLATE_ERR_NO_MEDIUM;
    return SLATE_ERR_COMMAND;
}

/* Sends a command, again while the device asks for patience; the sense data
 * of a final refusal is kept unless an earlier fault stands. */
static enum slate_status send(struct slate_media *media,
                              struct slate_exchange *x)
{
    const struct slate_port *port = media->port;
    struct slate_fault fault = {0};

    for (int i = 0; i < PATIENCE; i++) {
        enum slate_status status;

        x->transferred = 0;
        x->sense_length = 0;
        media->traffic.commands++;
        status = port->ops->exchange(port->context, x);
        if (status != SLATE_OK)
            return status;
        if (x->state == STATE_GOOD)
            return SLATE_OK;
        read_sense(x, &fault);
        if (!passes_by_itself(x, &fault))
            break;
    }
    if (media->fault.status == SLATE_OK)
        media->fault = fault;
    return refusal(&fault);
}

/* Printable ASCII without spaces at either end (SPC-4, 4.3.1). */
static void take_text(char *to, size_t room, const uint8_t *from, size_t length)
{
    size_t n = 0;

    while (length > 0 && (from[length - 1] == ' ' || from[length - 1] == 0))
        length--;
    while (length > 0 && *from == ' ') {
        from++;
        length--;
    }
    for (; n < length && n < room - 1; n++)
        to[n] = (char)(from[n] >= 0x20 && from[n] < 0x7F ? from[n] : '?');
    to[n] = '\0';
}

static enum slate_status inquire(struct slate_media *media)
{
    struct slate_identity *identity = &media->identity;
    struct slate_exchange x;
    uint8_t data[252] = {0};
    enum slate_status status;

    slate_scsi_inquiry(&x, -1, data, 36);
    status = send(media, &x);
    if (status != SLATE_OK)
        return status;
    if (x.transferred < 36)
        return SLATE_ERR_COMMAND;
    media->removable = (data[1] & 0x80) != 0;
    take_text(identity->maker, SLATE_MAKER_ROOM, data + 8, 8);
    take_text(identity->model, SLATE_MODEL_ROOM, data + 16, 16);
    take_text(identity->revision, SLATE_REVISION_ROOM, data + 32, 4);

    /* Unit serial number (SPC-4, 7.8.15); many sticks have none. */
    memset(data, 0, sizeof data);
    slate_scsi_inquiry(&x, 0x80, data, sizeof data);
    status = send(media, &x);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (status == SLATE_OK && x.transferred >= 4 && data[1] == 0x80 &&
        data[3] <= x.transferred - 4)
        take_text(identity->serial, SLATE_SERIAL_ROOM, data + 4, data[3]);
    return SLATE_OK;
}

static enum slate_status measure_large(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t data[32] = {0};
    enum slate_status status;
    uint64_t last;

    slate_scsi_read_capacity_16(&x, data);
    status = send(media, &x);
    if (status != SLATE_OK)
        return status;
    last = slate_be64(data);
    if (x.transferred < 12 || last == UINT64_MAX)
        return SLATE_ERR_GEOMETRY;
    media->geometry.block_count = last + 1;
    media->geometry.block_bytes = slate_be32(data + 8);
    if (x.transferred >= 14 && media->geometry.block_bytes <= SLATE_BLOCK_MAX)
        media->geometry.physical_bytes = media->geometry.block_bytes
                                         << (data[13] & 0x07);
    return SLATE_OK;
}

static enum slate_status measure(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t data[8] = {0};
    enum slate_status status;

    slate_scsi_read_capacity_10(&x, data);
    status = send(media, &x);
    if (status != SLATE_OK)
        return status;
    if (x.transferred < 8)
        return SLATE_ERR_GEOMETRY;
    if (slate_be32(data) == UINT32_MAX) /* too large for this command */
        return measure_large(media);
    media->geometry.block_count = (uint64_t)slate_be32(data) + 1;
    media->geometry.block_bytes = slate_be32(data + 4);
    return SLATE_OK;
}

/* Bit 7 of the device-specific parameter (SBC-3, 6.4.1). Devices that refuse
 * MODE SENSE are taken as writable until a write fails. */
static void look_for_protection(struct slate_media *media)
{
    struct slate_fault before = media->fault;
    struct slate_exchange x;
    uint8_t data[4] = {0};

    slate_scsi_mode_sense_6(&x, 0x3F, data, sizeof data);
    if (send(media, &x) == SLATE_OK && x.transferred >= 3)
        media->read_only = (data[2] & 0x80) != 0;
    media->fault = before;
}

static enum slate_status scsi_open(struct slate_media *media,
                                   const struct slate_port_facts *facts)
{
    struct slate_exchange x;
    enum slate_status status;

    if (media->port->ops->exchange == NULL)
        return SLATE_ERR_ARGUMENT;
    status = inquire(media);
    if (status != SLATE_OK)
        return status;
    memset(&media->fault, 0, sizeof media->fault);
    slate_scsi_test_unit_ready(&x);
    status = send(media, &x);
    if (status != SLATE_OK)
        return status;
    status = measure(media);
    if (status != SLATE_OK)
        return status;
    look_for_protection(media);
    media->read_only = media->read_only || facts->read_only;
    return SLATE_OK;
}

static enum slate_status transfer(struct slate_media *media,
                                  enum slate_direction direction, uint64_t lba,
                                  uint32_t count, uint8_t *data)
{
    uint32_t block_bytes = media->geometry.block_bytes;
    uint32_t most = LARGEST_TRANSFER / block_bytes;

    while (count > 0) {
        uint32_t n = count < most ? count : most;
        struct slate_exchange x;
        enum slate_status status;

        slate_scsi_transfer(&x, direction, lba, n, data, n * block_bytes);
        status = send(media, &x);
        if (status != SLATE_OK)
            return status;
        if (x.transferred != n * block_bytes)
            return SLATE_ERR_COMMAND;
        lba += n;
        count -= n;
        data += (size_t)n * block_bytes;
    }
    return SLATE_OK;
}

static enum slate_status scsi_read(struct slate_media *media, uint64_t lba,
                                   uint32_t count, void *data)
{
    enum slate_status status =
        transfer(media, SLATE_DIRECTION_IN, lba, count, data);

    return status == SLATE_ERR_COMMAND ? SLATE_ERR_READ : status;
}

static enum slate_status scsi_write(struct slate_media *media, uint64_t lba,
                                    uint32_t count, const void *data)
{
    /* The exchange carries data either way in one pointer; with direction OUT
     * a port only reads from it. */
    union {
        const void *from;
        uint8_t *bytes;
    } pointer = {data};
    enum slate_status status =
        transfer(media, SLATE_DIRECTION_OUT, lba, count, pointer.bytes);

    return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
}

static enum slate_status scsi_flush(struct slate_media *media)
{
    struct slate_fault before = media->fault;
    struct slate_exchange x;
    enum slate_status status;

    slate_scsi_synchronize_cache_10(&x);
    status = send(media, &x);
    if (status != SLATE_ERR_COMMAND)
        return status;
    /* A device without a cache may not know the command (SBC-3, 4.15). */
    if (media->fault.has_sense && media->fault.sense_key == 0x5) {
        media->fault = before;
        return SLATE_OK;
    }
    return SLATE_ERR_WRITE;
}

const struct slate_speech slate_speech_scsi = {scsi_open, scsi_read, scsi_write,
                                               scsi_flush};
