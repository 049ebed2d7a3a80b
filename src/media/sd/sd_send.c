/* SPDX-License-Identifier: MIT */
/* SD command frames and their responses, on the native bus and over SPI (4.7,
 * 4.9, 7.3). */

#include "base/base.h"
#include "media/sd/sd.h"

bool slate_sd_is_spi(const struct slate_media *media)
{
    return media->byte_mover;
}

/* A forced erase may take so long (4.3.7). */
#define FORCED_ERASE_SECONDS 180u

static void frame(struct slate_exchange *x, uint8_t index, uint32_t argument)
{
    memset(x, 0, sizeof *x);
    x->command_length = 6;
    x->command[0] = (uint8_t)(0x40 | index);
    slate_put_be32(x->command + 1, argument);
    x->command[5] = (uint8_t)(slate_crc7(x->command, 5) << 1 | 1);
    if (index == SLATE_SD_LOCK_UNLOCK)
        x->seconds = FORCED_ERASE_SECONDS;
}

/* R1, R6, R7 hold 32 bits between index and CRC7; R3 has no valid CRC. */
static enum slate_status read_native(const struct slate_exchange *x,
                                     uint32_t *content)
{
    if (x->answer_length == 0)
        return SLATE_OK; /* CMD0 has no response */
    if (x->answer_length != 6)
        return SLATE_ERR_COMMAND;
    if (x->answer[0] != 0x3F &&
        x->answer[5] != (slate_crc7(x->answer, 5) << 1 | 1))
        return SLATE_ERR_COMMAND;
    *content = slate_be32(x->answer + 1);
    return SLATE_OK;
}

/* R1 in the first byte: bit 0 idle, the others refuse; R3 and R7 have 32 bits
 * behind it, R2 eight. */
static enum slate_status read_spi(const struct slate_exchange *x,
                                  uint32_t *content)
{
    if (x->answer_length == 0 || (x->answer[0] & 0xFE) != 0)
        return SLATE_ERR_COMMAND;
    *content = x->answer[0];
    if (x->answer_length >= 5)
        *content = slate_be32(x->answer + 1);
    else if (x->answer_length == 2)
        *content |= (uint32_t)x->answer[1] << 8;
    return SLATE_OK;
}

enum slate_status slate_sd_send(struct slate_media *media, uint8_t index,
                                uint32_t argument,
                                enum slate_direction direction, void *data,
                                uint32_t data_length, uint32_t *content)
{
    struct slate_exchange x;
    uint32_t ignored;
    enum slate_status status;

    frame(&x, index, argument);
    x.direction = direction;
    x.data = data;
    x.data_length = data_length;
    SLATE_TRY(slate_media_exchange(media, &x));
    if (content == NULL)
        content = &ignored;
    *content = 0;
    if (x.state != 0)
        return SLATE_ERR_COMMAND;
    status = slate_sd_is_spi(media) ? read_spi(&x, content)
                                    : read_native(&x, content);
    if (status == SLATE_OK && x.transferred != data_length)
        return SLATE_ERR_COMMAND;
    return status;
}

enum slate_status slate_sd_receive(struct slate_media *media, uint8_t index,
                                   uint32_t argument, void *data,
                                   uint32_t data_length, uint32_t *content)
{
    uint8_t room[66];
    bool spi = slate_sd_is_spi(media);
    enum slate_status status;

    if (data_length > sizeof room - 2)
        return SLATE_ERR_ARGUMENT;
    status = slate_sd_send(media, index, argument, SLATE_DIRECTION_IN, room,
                           data_length + (spi ? 2 : 0), content);
    if (status == SLATE_OK && spi &&
        slate_be16(room + data_length) != slate_crc16(room, data_length))
        return SLATE_ERR_COMMAND;
    memcpy(data, room, data_length);
    return status;
}

enum slate_status slate_sd_send_app(struct slate_media *media, uint8_t index,
                                    uint32_t argument, void *data,
                                    uint32_t data_length, uint32_t *content)
{
    SLATE_TRY(slate_sd_send(media, SLATE_SD_APP_COMMAND, media->address << 16,
                            SLATE_DIRECTION_NONE, NULL, 0, NULL));
    if (data_length == 0)
        return slate_sd_send(media, index, argument, SLATE_DIRECTION_NONE, NULL,
                             0, content);
    return slate_sd_receive(media, index, argument, data, data_length, content);
}

static enum slate_status register_native(struct slate_media *media,
                                         uint8_t index, uint32_t argument,
                                         uint8_t value[16])
{
    struct slate_exchange x;

    frame(&x, index, argument);
    SLATE_TRY(slate_media_exchange(media, &x));
    if (x.state != 0 || x.answer_length != 17)
        return SLATE_ERR_COMMAND;
    memcpy(value, x.answer + 1, 16);
    return SLATE_OK;
}

enum slate_status slate_sd_register(struct slate_media *media, uint8_t index,
                                    uint32_t argument, uint8_t value[16])
{
    enum slate_status status =
        slate_sd_is_spi(media)
            ? slate_sd_receive(media, index, 0, value, 16, NULL)
            : register_native(media, index, argument, value);

    if (status == SLATE_OK && value[15] != (slate_crc7(value, 15) << 1 | 1))
        return SLATE_ERR_COMMAND;
    return status;
}
