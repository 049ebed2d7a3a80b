/* SPDX-License-Identifier: MIT */
/* SD cards: read, write, erase. */

#include "base/base.h"
#include "media/sd/sd.h"

#define BLOCK 512u

static enum slate_status sd_open(struct slate_media *media,
                                 const struct slate_port_facts *facts)
{
    enum slate_status status;

    if (media->ops.exchange == NULL)
        return SLATE_ERR_ARGUMENT;
    media->byte_mover = facts->commands == SLATE_COMMANDS_SD_SPI;
    media->removable = true;
    status = facts->card ? slate_sd_take_over(media, facts)
                         : slate_sd_identify(media);
    media->read_only = media->read_only || facts->read_only;
    media->abilities.discard = true; /* CMD38 */
    return status;
}

/* Standard capacity cards count in bytes (4.3.14). */
static uint32_t address_of(const struct slate_media *media, uint64_t lba)
{
    return (uint32_t)(media->byte_addressed ? lba * BLOCK : lba);
}

static enum slate_status judge(uint32_t card_status, enum slate_status fallback)
{
    if ((card_status & SLATE_SD_STATUS_WP_VIOLATION) != 0)
        return SLATE_ERR_PROTECTED;
    return (card_status & SLATE_SD_STATUS_ERRORS) != 0 ? fallback : SLATE_OK;
}

/* The errors of a write are told afterwards (4.10.1; over SPI: R2, 7.3.2.3,
 * whose second byte has "write protect violation" in bit 5). */
static enum slate_status ask_status(struct slate_media *media,
                                    enum slate_status fallback)
{
    uint32_t content;
    enum slate_status status =
        slate_sd_send(media, SLATE_SD_SEND_STATUS, media->address << 16,
                      SLATE_DIRECTION_NONE, NULL, 0, &content);

    if (status != SLATE_OK)
        return status == SLATE_ERR_COMMAND ? fallback : status;
    if (!slate_sd_is_spi(media))
        return judge(content, fallback);
    if ((content >> 8 & 0x20) != 0)
        return SLATE_ERR_PROTECTED;
    return content >> 8 != 0 ? fallback : SLATE_OK;
}

static enum slate_status transfer_native(struct slate_media *media,
                                         enum slate_direction direction,
                                         uint64_t lba, uint32_t count,
                                         uint8_t *data,
                                         enum slate_status fallback)
{
    bool in = direction == SLATE_DIRECTION_IN;
    uint8_t single = in ? SLATE_SD_READ_SINGLE : SLATE_SD_WRITE_SINGLE;
    uint8_t multiple = in ? SLATE_SD_READ_MULTIPLE : SLATE_SD_WRITE_MULTIPLE;
    uint32_t content = 0;
    enum slate_status stop = SLATE_OK;
    enum slate_status status = slate_sd_send(
        media, count == 1 ? single : multiple, address_of(media, lba),
        direction, data, count * BLOCK, &content);

    SLATE_THEN(status, judge(content, fallback));
    if (count > 1 && status != SLATE_ERR_NO_DEVICE)
        stop = slate_sd_send(media, SLATE_SD_STOP_TRANSMISSION, 0,
                             SLATE_DIRECTION_NONE, NULL, 0, &content);
    if (status == SLATE_OK && stop != SLATE_OK)
        status = stop;
    SLATE_THEN(status, count > 1 ? judge(content, fallback) : SLATE_OK);
    return status;
}

/* Over SPI a block at a time, with its CRC16 behind it. */
static enum slate_status transfer_spi(struct slate_media *media,
                                      enum slate_direction direction,
                                      uint64_t lba, uint8_t *data)
{
    bool in = direction == SLATE_DIRECTION_IN;
    uint8_t room[BLOCK + 2];
    enum slate_status status;

    if (!in) {
        memcpy(room, data, BLOCK);
        slate_put_be16(room + BLOCK, slate_crc16(room, BLOCK));
    }
    status = slate_sd_send(
        media, in ? SLATE_SD_READ_SINGLE : SLATE_SD_WRITE_SINGLE,
        address_of(media, lba), direction, room, sizeof room, NULL);
    if (status != SLATE_OK || !in)
        return status;
    if (slate_be16(room + BLOCK) != slate_crc16(room, BLOCK))
        return SLATE_ERR_COMMAND;
    memcpy(data, room, BLOCK);
    return SLATE_OK;
}

static enum slate_status transfer(struct slate_media *media,
                                  enum slate_direction direction, uint64_t lba,
                                  uint32_t count, uint8_t *data,
                                  enum slate_status fallback)
{
    enum slate_status status = SLATE_OK;

    if (!slate_sd_is_spi(media))
        status = transfer_native(media, direction, lba, count, data, fallback);
    for (uint32_t i = 0;
         slate_sd_is_spi(media) && i < count && status == SLATE_OK; i++)
        status =
            transfer_spi(media, direction, lba + i, data + (size_t)i * BLOCK);
    return status == SLATE_ERR_COMMAND ? fallback : status;
}

/* A host that has identified the card moves its blocks faster than commands of
 * ours do; what only these can do stays theirs. */
static bool has_block_path(const struct slate_media *media)
{
    return media->ops.read != NULL && media->ops.write != NULL;
}

static enum slate_status sd_transfer(struct slate_media *media, bool write,
                                     uint64_t lba, uint32_t count, void *data)
{
    enum slate_status status;

    if (has_block_path(media))
        return slate_speech_plain.transfer(media, write, lba, count, data);
    status = write ? transfer(media, SLATE_DIRECTION_OUT, lba, count, data,
                              SLATE_ERR_WRITE)
                   : transfer(media, SLATE_DIRECTION_IN, lba, count, data,
                              SLATE_ERR_READ);
    return status == SLATE_OK && write ? ask_status(media, SLATE_ERR_WRITE)
                                       : status;
}

/* A card is done when it no longer shows busy; its status tells. */
static enum slate_status sd_flush(struct slate_media *media)
{
    enum slate_status status =
        has_block_path(media) ? slate_speech_plain.flush(media) : SLATE_OK;

    return status == SLATE_OK ? ask_status(media, SLATE_ERR_WRITE) : status;
}

static enum slate_status sd_clear(struct slate_media *media, uint64_t lba,
                                  uint64_t count, enum slate_clear how)
{
    const struct {
        uint8_t command;
        uint32_t argument;
    } steps[] = {{SLATE_SD_ERASE_FIRST, address_of(media, lba)},
                 {SLATE_SD_ERASE_LAST, address_of(media, lba + count - 1)},
                 {SLATE_SD_ERASE, 0}};

    (void)how; /* zeros are not promised; abilities say so */
    for (size_t i = 0; i < sizeof steps / sizeof steps[0]; i++) {
        enum slate_status status =
            slate_sd_send(media, steps[i].command, steps[i].argument,
                          SLATE_DIRECTION_NONE, NULL, 0, NULL);

        if (status != SLATE_OK)
            return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
    }
    return ask_status(media, SLATE_ERR_WRITE);
}

const struct slate_speech slate_speech_sd = {
    .commands = SLATE_COMMANDS_SD,
    .open = sd_open,
    .transfer = sd_transfer,
    .flush = sd_flush,
    .clear = sd_clear,
};
