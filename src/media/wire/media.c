/* SPDX-License-Identifier: MIT */
/* A device, opened: its facts, its driver, and what is asked of its host. */

#include "base/base.h"
#include "media/wire/wire.h"

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
    if (media->ops.clear != NULL &&
        media->speech->commands == SLATE_COMMANDS_NONE) {
        media->abilities.zero = true;
        media->abilities.discard = true;
    }
}

static const struct slate_speech *speech_of(enum slate_command_set commands)
{
    static const struct slate_speech *const speeches[] = {
        [SLATE_COMMANDS_NONE] = &slate_speech_plain,
        [SLATE_COMMANDS_SCSI] = &slate_speech_scsi,
        [SLATE_COMMANDS_ATA] = &slate_speech_ata,
        [SLATE_COMMANDS_NVME] = &slate_speech_nvme,
        [SLATE_COMMANDS_SD] = &slate_speech_sd,
        [SLATE_COMMANDS_SD_SPI] = &slate_speech_sd};

    return *SLATE_ROW_OF(speeches, commands);
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
        return slate_media_note(media, status, SLATE_OPERATION_COMMAND, 0, 0);
    media->port = port;
    media->identity = facts.identity;
    media->speech = speech_of(facts.commands);
    media->units = 1;
    media->unit = facts.unit;
    media->slider = facts.slider;
    media->in_use = facts.in_use;
    status = media->speech->open(media, &facts);
    if (status == SLATE_OK && !geometry_is_usable(&media->geometry))
        status = SLATE_ERR_GEOMETRY;
    slate_tag_derive(media); /* who it is, also when it cannot be used */
    if (status != SLATE_OK)
        return slate_media_note(media, status, SLATE_OPERATION_COMMAND, 0, 0);
    take_facts(media, &facts);
    media->settled = true;
    return SLATE_OK;
}

enum slate_status slate_media_flush(struct slate_media *media)
{
    return slate_media_note(media, media->speech->flush(media),
                            SLATE_OPERATION_FLUSH, 0, 0);
}

static enum slate_status eject(struct slate_media *media)
{
    const struct slate_port *port = media->port;

    SLATE_TRY(slate_media_flush(media));
    if (media->speech->eject != NULL)
        SLATE_TRY(media->speech->eject(media));
    return media->ops.eject != NULL ? media->ops.eject(port->context)
                                    : SLATE_OK;
}

enum slate_status slate_media_eject(struct slate_media *media)
{
    enum slate_status status = slate_media_claim(media), released;

    if (status != SLATE_OK)
        return status == SLATE_ERR_BUSY ? SLATE_ERR_ACCESS : status;
    status = eject(media);
    released = slate_media_release(media);
    /* gone is what an ejected device may be */
    return status == SLATE_OK && released != SLATE_ERR_NO_DEVICE ? released
                                                                 : status;
}

enum slate_status slate_media_rest(struct slate_media *media)
{
    SLATE_TRY(slate_media_flush(media));
    return media->speech->rest == NULL ? SLATE_ERR_COMMAND
                                       : media->speech->rest(media);
}

enum slate_status slate_media_leave(struct slate_media *media,
                                    enum slate_leave how)
{
    const struct slate_port *port = media->port;
    enum slate_status status;

    if (media->ops.leave == NULL)
        return SLATE_ERR_COMMAND;
    status = slate_media_rest(media);
    if (status != SLATE_OK && status != SLATE_ERR_COMMAND)
        return status;
    return media->ops.leave(port->context, how);
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

    SLATE_TRY(slate_media_inside(media));
    if (media->ops.allow_writes == NULL)
        return SLATE_ERR_COMMAND;
    status = media->ops.allow_writes(port->context);
    memset(&facts, 0, sizeof facts);
    SLATE_THEN(status, media->ops.facts(port->context, &facts));
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
