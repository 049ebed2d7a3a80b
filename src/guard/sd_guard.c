/* SPDX-License-Identifier: MIT */
/* Guards of SD cards (Physical Layer Simplified Specification 6.00, 4.3.6,
 * 4.3.7, 5.3). */
#include <string.h>

#include "base/bytes.h"
#include "guard/guard.h"
#include "media/sd.h"

#define PROGRAM_CSD 27
#define LOCK_UNLOCK 42
#define CSD_BYTE 14
#define PERMANENT_BIT 0x20
#define TEMPORARY_BIT 0x10
#define STATUS_LOCKED 0x02000000u
#define STATUS_LOCK_FAILED 0x01000000u

/* In the transfer state a card does not tell its CSD: it is put aside for
 * that, and taken back (4.1). Over SPI it does. */
static enum slate_status read_csd(struct slate_media *media, uint8_t csd[16])
{
    bool native = !slate_sd_is_spi(media);
    uint32_t address = media->address << 16;
    enum slate_status status, back = SLATE_OK;

    if (native) /* nobody answers to address 0: that is how it is put aside */
        (void)slate_sd_send(media, SLATE_SD_SELECT, 0, SLATE_DIRECTION_NONE,
                            NULL, 0, NULL);
    status = slate_sd_register(media, SLATE_SD_SEND_CSD, address, csd);
    if (native)
        back = slate_sd_send(media, SLATE_SD_SELECT, address,
                             SLATE_DIRECTION_NONE, NULL, 0, NULL);
    return status == SLATE_OK ? back : status;
}

/* CARD_IS_LOCKED and LOCK_UNLOCK_FAILED: bits 25 and 24 of the card status;
 * over SPI bits 0 and 1 of the second byte of R2. */
static void ask_lock(struct slate_media *media, bool *locked, bool *failed)
{
    uint32_t content = 0;
    bool told =
        slate_sd_send(media, SLATE_SD_SEND_STATUS, media->address << 16,
                      SLATE_DIRECTION_NONE, NULL, 0, &content) == SLATE_OK;
    bool spi = slate_sd_is_spi(media);

    *locked = told && (content & (spi ? 0x0100u : STATUS_LOCKED)) != 0;
    *failed = told && (content & (spi ? 0x0200u : STATUS_LOCK_FAILED)) != 0;
}

enum slate_status slate_guard_find_sd(struct slate_media *media,
                                      struct slate_guard_list *list)
{
    uint8_t csd[16] = {0};
    enum slate_status status = read_csd(media, csd);
    bool locked, failed;

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    ask_lock(media, &locked, &failed);
    if ((csd[CSD_BYTE] & PERMANENT_BIT) != 0)
        slate_guard_note(list, SLATE_GUARD_PERMANENT, SLATE_LIFT_NEVER, 0);
    if ((csd[CSD_BYTE] & TEMPORARY_BIT) != 0)
        slate_guard_note(list, SLATE_GUARD_TEMPORARY, SLATE_LIFT_NOW, 0);
    if (locked)
        slate_guard_note(list, SLATE_GUARD_CARD_PASSWORD, SLATE_LIFT_PASSWORD,
                         0);
    return SLATE_OK;
}

static enum slate_status send_block(struct slate_media *media, uint8_t command,
                                    uint8_t *block, uint32_t length)
{
    if (slate_sd_is_spi(media)) {
        slate_put_be16(block + length, slate_crc16(block, length));
        length += 2;
    }
    return slate_sd_send(media, command, 0, SLATE_DIRECTION_OUT, block, length,
                         NULL);
}

/* The CSD goes back as it was read, but for one bit and its checksum. */
static enum slate_status clear_temporary(struct slate_media *media)
{
    uint8_t csd[18] = {0};
    enum slate_status status = read_csd(media, csd);

    if (status != SLATE_OK)
        return status;
    csd[CSD_BYTE] &= (uint8_t)~TEMPORARY_BIT;
    csd[15] = (uint8_t)(slate_crc7(csd, 15) << 1 | 1);
    return send_block(media, PROGRAM_CSD, csd, 16);
}

/* A data block: 00h to unlock, the length of the password, the password. Its
 * length is set first (4.3.7). */
static enum slate_status unlock(struct slate_media *media, const char *password)
{
    uint8_t block[20] = {0};
    uint32_t length = (uint32_t)strlen(password);
    enum slate_status status, back;
    bool locked, failed = false;

    block[1] = (uint8_t)length;
    memcpy(block + 2, password, length);
    status = slate_sd_send(media, SLATE_SD_SET_BLOCK_LENGTH, length + 2,
                           SLATE_DIRECTION_NONE, NULL, 0, NULL);
    if (status == SLATE_OK)
        status = send_block(media, LOCK_UNLOCK, block, length + 2);
    if (status == SLATE_OK)
        ask_lock(media, &locked, &failed);
    back = slate_sd_send(media, SLATE_SD_SET_BLOCK_LENGTH, 512,
                         SLATE_DIRECTION_NONE, NULL, 0, NULL);
    if (status != SLATE_OK)
        return status;
    return failed ? SLATE_ERR_COMMAND : back;
}

enum slate_status slate_guard_lift_sd(struct slate_media *media,
                                      const struct slate_guard_order *order)
{
    switch (order->guard->kind) {
    case SLATE_GUARD_TEMPORARY:
        return clear_temporary(media);
    case SLATE_GUARD_CARD_PASSWORD:
        return unlock(media, order->password);
    default:
        return SLATE_ERR_COMMAND;
    }
}
