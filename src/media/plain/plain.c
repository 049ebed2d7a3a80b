/* SPDX-License-Identifier: MIT */
/* Devices without a command set: the port itself reads and writes blocks. */
#include "media/sd/sd.h"

/* The card's own registers tell more than the host does; its blocks stay as
 * the host counts them. */
static void take_card(struct slate_media *media,
                      const struct slate_port_facts *facts)
{
    struct slate_geometry geometry = media->geometry;

    slate_sd_take_cid(media, facts->cid);
    (void)slate_sd_take_csd(media, facts->csd);
    media->geometry = geometry;
    media->read_only = media->read_only || facts->read_only;
}

static enum slate_status plain_open(struct slate_media *media,
                                    const struct slate_port_facts *facts)
{
    if (media->ops.read == NULL || media->ops.write == NULL)
        return SLATE_ERR_ARGUMENT;
    media->geometry.block_bytes = facts->block_bytes;
    media->geometry.block_count = facts->block_count;
    media->read_only = facts->read_only;
    media->removable = facts->removable;
    if (facts->card)
        take_card(media, facts);
    return SLATE_OK;
}

static enum slate_status plain_transfer(struct slate_media *media, bool write,
                                        uint64_t lba, uint32_t count,
                                        void *data)
{
    media->traffic.commands++;
    return write ? media->ops.write(media->port->context, lba, count, data)
                 : media->ops.read(media->port->context, lba, count, data);
}

static enum slate_status plain_flush(struct slate_media *media)
{
    if (media->ops.flush == NULL)
        return SLATE_OK;
    media->traffic.commands++;
    return media->ops.flush(media->port->context);
}

static enum slate_status plain_clear(struct slate_media *media, uint64_t lba,
                                     uint64_t count, enum slate_clear how)
{
    media->traffic.commands++;
    return media->ops.clear(media->port->context, lba, count, how);
}

const struct slate_speech slate_speech_plain = {
    .commands = SLATE_COMMANDS_NONE,
    .open = plain_open,
    .transfer = plain_transfer,
    .flush = plain_flush,
    .clear = plain_clear,
};
