/* SPDX-License-Identifier: MIT */
/* The one wrapper through which the core reaches a device: range checks,
 * splitting, counting and the first fault live here. */
#include <string.h>

#include "media/evidence.h"
#include "media/speech.h"
#include "media/tag.h"
#include "media/unread.h"

/* How often a read is tried before it counts as failed. */
#define READ_TRIES 3

static enum slate_status note_fault(struct slate_media *media,
                                    enum slate_status status,
                                    enum slate_operation operation,
                                    uint64_t lba, uint32_t count)
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

static bool geometry_is_usable(const struct slate_geometry *geometry)
{
    uint32_t bytes = geometry->block_bytes;

    return (bytes == 512 || bytes == 1024 || bytes == 2048 || bytes == 4096) &&
           geometry->block_count > 0 &&
           geometry->block_count <= UINT64_MAX / bytes;
}

/* The operations that a port knows: one that was built earlier has fewer of
 * them, one that is built later may have more. */
static bool take_operations(struct slate_media *media,
                            const struct slate_port *port)
{
    size_t size;

    if (port == NULL || port->ops == NULL)
        return false;
    size = port->ops->size;
    memcpy(&media->ops, port->ops,
           size < sizeof media->ops ? size : sizeof media->ops);
    return size >= offsetof(struct slate_port_ops, flush) &&
           media->ops.facts != NULL;
}

static void take_facts(struct slate_media *media,
                       const struct slate_port_facts *facts)
{
    struct slate_geometry *geometry = &media->geometry;
    uint32_t most = facts->largest_transfer_bytes;

    if (geometry->physical_bytes < facts->physical_bytes)
        geometry->physical_bytes = facts->physical_bytes;
    if (geometry->physical_bytes < geometry->block_bytes)
        geometry->physical_bytes = geometry->block_bytes;
    if (facts->erase_bytes > 0)
        geometry->erase_bytes = facts->erase_bytes;
    if (media->largest_transfer == 0)
        media->largest_transfer = UINT32_MAX;
    if (most > 0 && most / geometry->block_bytes < media->largest_transfer)
        media->largest_transfer = most / geometry->block_bytes;
    if (media->largest_transfer == 0)
        media->largest_transfer = 1;
    if (media->ops.clear != NULL && media->speech == &slate_speech_plain) {
        media->abilities.zero = true;
        media->abilities.discard = true;
    }
}

static const struct slate_speech *speech_of(enum slate_command_set commands)
{
    switch (commands) {
    case SLATE_COMMANDS_SCSI:
        return &slate_speech_scsi;
    case SLATE_COMMANDS_ATA:
        return &slate_speech_ata;
    case SLATE_COMMANDS_NVME:
        return &slate_speech_nvme;
    case SLATE_COMMANDS_SD:
    case SLATE_COMMANDS_SD_SPI:
        return &slate_speech_sd;
    case SLATE_COMMANDS_NONE:
    default:
        return &slate_speech_plain;
    }
}

enum slate_status slate_media_open(struct slate_media *media,
                                   const struct slate_port *port)
{
    struct slate_port_facts facts;
    enum slate_status status;

    if (media == NULL)
        return SLATE_ERR_ARGUMENT;
    memset(media, 0, sizeof *media);
    if (!take_operations(media, port))
        return SLATE_ERR_ARGUMENT;
    memset(&facts, 0, sizeof facts);
    status = media->ops.facts(port->context, &facts);
    if (status != SLATE_OK)
        return note_fault(media, status, SLATE_OPERATION_COMMAND, 0, 0);
    media->port = port;
    media->identity = facts.identity;
    media->speech = speech_of(facts.commands);
    media->units = 1;
    media->unit = facts.unit;
    media->slider = facts.slider;
    status = media->speech->open(media, &facts);
    if (status == SLATE_OK && !geometry_is_usable(&media->geometry))
        status = SLATE_ERR_GEOMETRY;
    slate_tag_derive(media); /* who it is, also when it cannot be used */
    if (status != SLATE_OK)
        return note_fault(media, status, SLATE_OPERATION_COMMAND, 0, 0);
    take_facts(media, &facts);
    media->settled = true;
    return SLATE_OK;
}

static uint32_t next_transfer(const struct slate_media *media, uint32_t count)
{
    return count < media->largest_transfer ? count : media->largest_transfer;
}

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
    const struct slate_unread *unread = media->unread;

    return unread != NULL && (unread->count >= SLATE_UNREAD_MOST ||
                              is_noted(unread, lba, count))
               ? 1
               : READ_TRIES;
}

/* Would reading these blocks take more than it may? */
static bool is_beyond_limit(const struct slate_media *media, uint32_t count)
{
    const struct slate_limit *limit = media->limit;

    return limit != NULL &&
           (media->traffic.commands >= limit->commands ||
            (media->traffic.blocks_read + count) * media->geometry.block_bytes >
                limit->bytes);
}

/* What is skipped is not counted as read. */
static void skip(struct slate_media *media, uint32_t count, void *data)
{
    memset(data, 0, (size_t)count * media->geometry.block_bytes);
    media->limit->skipped += count;
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
        status = media->speech->read(media, lba, count, data);
    }
    return status;
}

/* Notes blocks that could not be read, and puts zeros in their place. */
static void note_unread(struct slate_media *media, uint64_t lba, uint32_t count,
                        uint8_t *data)
{
    struct slate_unread *unread = media->unread;

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
    uint32_t step = media->unread->count >= SLATE_UNREAD_MOST ? count : 1;

    for (uint32_t i = 0; i < count; i += step) {
        uint8_t *to = data + (size_t)i * media->geometry.block_bytes;
        enum slate_status status =
            count == step ? SLATE_ERR_READ
                          : read_patiently(media, lba + i, step, to);

        if (status == SLATE_ERR_READ) {
            (void)note_fault(media, status, SLATE_OPERATION_READ, lba + i,
                             step);
            note_unread(media, lba + i, step, to);
        } else if (status != SLATE_OK) {
            return status;
        }
        media->fault = before;
    }
    return SLATE_OK;
}

/* May these blocks be asked for? */
static enum slate_status admit(const struct slate_media *media, uint64_t lba,
                               uint64_t count)
{
    if (media->swapped)
        return SLATE_ERR_SWAPPED;
    return lba <= media->geometry.block_count &&
                   count <= media->geometry.block_count - lba
               ? SLATE_OK
               : SLATE_ERR_RANGE;
}

static uint64_t skipped_by(const struct slate_media *media)
{
    return media->limit == NULL ? 0 : media->limit->skipped;
}

/* What was skipped is no evidence. Where blocks could not be read, what became
 * of a run depends on where it began and ended. */
static void show_witness(const struct slate_media *media, uint64_t lba,
                         uint32_t count, const uint8_t *data, uint64_t skipped)
{
    if (media->witness != NULL && skipped_by(media) == skipped)
        slate_witness_see(media->witness, lba, count, data,
                          media->geometry.block_bytes,
                          media->unread == NULL || media->unread->count == 0);
}

enum slate_status slate_media_read(struct slate_media *media, uint64_t lba,
                                   uint32_t count, void *data)
{
    uint8_t *to = data;
    enum slate_status status = admit(media, lba, count);

    if (status != SLATE_OK)
        return note_fault(media, status, SLATE_OPERATION_READ, lba, count);
    while (count > 0) {
        uint32_t n = next_transfer(media, count);

        struct slate_fault before = media->fault;
        uint64_t skipped = skipped_by(media);

        status = read_patiently(media, lba, n, to);
        if (status == SLATE_ERR_READ && media->unread != NULL) {
            if (n > 1)
                media->fault = before;
            status = read_what_can_be(media, lba, n, to);
            if (status == SLATE_OK)
                media->fault = before;
        }
        if (status != SLATE_OK)
            return note_fault(media, status, SLATE_OPERATION_READ, lba, n);
        media->traffic.blocks_read += n;
        show_witness(media, lba, n, to, skipped);
        lba += n;
        count -= n;
        to += (size_t)n * media->geometry.block_bytes;
    }
    return SLATE_OK;
}

uint32_t slate_media_unread_count(const struct slate_media *media)
{
    return (media->unread == NULL ? 0 : media->unread->count) +
           (media->limit == NULL ? 0 : (uint32_t)media->limit->skipped);
}

bool slate_media_unread_since(const struct slate_media *media, uint32_t count)
{
    return slate_media_unread_count(media) != count;
}

enum slate_status slate_media_write(struct slate_media *media, uint64_t lba,
                                    uint32_t count, const void *data)
{
    const uint8_t *from = data;
    enum slate_status status = admit(media, lba, count);

    if (status != SLATE_OK)
        return note_fault(media, status, SLATE_OPERATION_WRITE, lba, count);
    while (count > 0) {
        uint32_t n = next_transfer(media, count);

        status = media->speech->write(media, lba, n, from);
        if (status != SLATE_OK)
            return note_fault(media, status, SLATE_OPERATION_WRITE, lba, n);
        media->traffic.blocks_written += n;
        lba += n;
        count -= n;
        from += (size_t)n * media->geometry.block_bytes;
    }
    return SLATE_OK;
}

enum slate_status slate_media_flush(struct slate_media *media)
{
    return note_fault(media, media->speech->flush(media), SLATE_OPERATION_FLUSH,
                      0, 0);
}

enum slate_status slate_media_clear(struct slate_media *media, uint64_t lba,
                                    uint64_t count, enum slate_clear how)
{
    bool able = how == SLATE_CLEAR_ZERO ? media->abilities.zero
                                        : media->abilities.discard;
    uint64_t most = media->abilities.clear_most;
    enum slate_status admitted = admit(media, lba, count);

    if (!able || media->speech->clear == NULL)
        return SLATE_ERR_COMMAND;
    if (admitted != SLATE_OK)
        return note_fault(media, admitted, SLATE_OPERATION_WRITE, lba, 0);
    while (count > 0) {
        uint64_t n = most > 0 && count > most ? most : count;
        enum slate_status status = media->speech->clear(media, lba, n, how);

        if (status != SLATE_OK)
            return note_fault(media, status, SLATE_OPERATION_WRITE, lba, 0);
        lba += n;
        count -= n;
    }
    return SLATE_OK;
}

enum slate_status slate_media_eject(struct slate_media *media)
{
    const struct slate_port *port = media->port;
    enum slate_status status = slate_media_flush(media);

    if (status == SLATE_OK && media->speech->eject != NULL)
        status = media->speech->eject(media);
    if (status == SLATE_OK && media->ops.eject != NULL)
        status = media->ops.eject(port->context);
    return status;
}

enum slate_status slate_media_exchange(struct slate_media *media,
                                       struct slate_exchange *x)
{
    const struct slate_port *port = media->port;

    x->transferred = 0;
    x->answer_length = 0;
    media->traffic.commands++;
    return media->ops.exchange(port->context, x);
}

enum slate_status slate_media_claim(struct slate_media *media)
{
    const struct slate_port *port = media->port;

    return media->ops.claim == NULL ? SLATE_OK
                                    : media->ops.claim(port->context);
}

enum slate_status slate_media_allow_writes(struct slate_media *media)
{
    const struct slate_port *port = media->port;
    struct slate_port_facts facts;
    enum slate_status status;

    if (media->ops.allow_writes == NULL)
        return SLATE_ERR_COMMAND;
    status = media->ops.allow_writes(port->context);
    memset(&facts, 0, sizeof facts);
    if (status == SLATE_OK)
        status = media->ops.facts(port->context, &facts);
    if (status == SLATE_OK && facts.read_only)
        status = SLATE_ERR_STILL_GUARDED;
    if (status == SLATE_OK)
        media->read_only = false;
    return status;
}

enum slate_status slate_media_release(struct slate_media *media)
{
    const struct slate_port *port = media->port;
    enum slate_status reread = SLATE_OK, release = SLATE_OK;

    if (media->ops.reread != NULL)
        reread = media->ops.reread(port->context);
    if (media->ops.release != NULL)
        release = media->ops.release(port->context);
    return reread != SLATE_OK ? reread : release;
}

enum slate_status slate_media_random(struct slate_media *media, void *bytes,
                                     size_t length)
{
    const struct slate_port *port = media->port;

    if (length > SLATE_DIGEST_BYTES)
        return SLATE_ERR_ARGUMENT;
    if (media->ops.random != NULL)
        return media->ops.random(port->context, bytes, length);
    memcpy(bytes, media->digest, length);
    return SLATE_OK;
}

uint64_t slate_media_milliseconds(const struct slate_media *media)
{
    const struct slate_port *port = media->port;

    return media->ops.milliseconds == NULL
               ? 0
               : media->ops.milliseconds(port->context);
}

uint64_t slate_geometry_bytes(const struct slate_geometry *geometry)
{
    return geometry->block_count * geometry->block_bytes;
}
