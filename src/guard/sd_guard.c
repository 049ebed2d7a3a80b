/* SPDX-License-Identifier: MIT */
/* Guards of SD cards (Physical Layer Simplified Specification 6.00, 4.3.6,
 * 4.3.7, 5.3). */

#include "base/base.h"
#include "guard/guard.h"

#define CSD_BYTE 14
#define PERMANENT_BIT 0x20
#define TEMPORARY_BIT 0x10

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

struct card_status {
    bool locked;      /* CARD_IS_LOCKED */
    bool lock_failed; /* LOCK_UNLOCK_FAILED */
    bool csd_failed;  /* CSD_OVERWRITE */
};

/* Bits 25, 24 and 16 of the card status; over SPI bits 0, 1 and 7 of the second
 * byte of R2. Errors are told once. */
static void ask_status(struct slate_media *media, struct card_status *status)
{
    uint32_t content = 0;
    bool spi = slate_sd_is_spi(media);

    if (slate_sd_send(media, SLATE_SD_SEND_STATUS, media->address << 16,
                      SLATE_DIRECTION_NONE, NULL, 0, &content) != SLATE_OK)
        content = 0;
    status->locked = (content & (spi ? 0x0100u : 0x02000000u)) != 0;
    status->lock_failed = (content & (spi ? 0x0200u : 0x01000000u)) != 0;
    status->csd_failed = (content & (spi ? 0x8000u : 0x00010000u)) != 0;
}

enum slate_status slate_guard_find_sd(struct slate_media *media,
                                      struct slate_guard_list *list)
{
    uint8_t csd[16] = {0};
    enum slate_status status = read_csd(media, csd);
    struct card_status card;
    uint64_t groups = 0;

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    ask_status(media, &card);
    if (status == SLATE_OK && !card.locked) /* else it would not tell */
        status = slate_guard_count_groups(media, csd, &groups);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if ((csd[CSD_BYTE] & PERMANENT_BIT) != 0)
        slate_guard_note(list, SLATE_GUARD_PERMANENT, 0);
    if ((csd[CSD_BYTE] & TEMPORARY_BIT) != 0)
        slate_guard_note(list, SLATE_GUARD_TEMPORARY, 0);
    if (groups > 0)
        slate_guard_note(list, SLATE_GUARD_GROUPS, groups);
    if (card.locked)
        slate_guard_note(list, SLATE_GUARD_CARD_PASSWORD, 0);
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
    struct card_status card = {0};
    uint8_t csd[18] = {0};
    enum slate_status status;

    SLATE_TRY(read_csd(media, csd));
    csd[CSD_BYTE] &= (uint8_t)~TEMPORARY_BIT;
    csd[15] = (uint8_t)(slate_crc7(csd, 15) << 1 | 1);
    status = send_block(media, SLATE_SD_PROGRAM_CSD, csd, 16);
    if (status == SLATE_OK)
        ask_status(media, &card);
    return card.csd_failed ? SLATE_ERR_COMMAND : status;
}

#define LOCK_UNLOCK 0x00
#define LOCK_CLEAR 0x02
#define LOCK_ERASE 0x08

/* A data block: what to do, and but for a forced erase the length of the
 * password and the password. Its length is set first (4.3.7). */
static enum slate_status command_lock(struct slate_media *media,
                                      const struct slate_guard_order *order)
{
    uint8_t block[20] = {0};
    uint32_t length = order->erase ? 0 : (uint32_t)strlen(order->password);
    uint32_t bytes = order->erase ? 1 : length + 2;
    enum slate_status status, back;
    struct card_status card = {0};

    block[0] = LOCK_UNLOCK;
    if (order->lasting)
        block[0] = LOCK_CLEAR;
    if (order->erase)
        block[0] = LOCK_ERASE;
    block[1] = (uint8_t)length;
    memcpy(block + 2, order->password, length);
    status = slate_sd_send(media, SLATE_SD_SET_BLOCK_LENGTH, bytes,
                           SLATE_DIRECTION_NONE, NULL, 0, NULL);
    SLATE_THEN(status, send_block(media, SLATE_SD_LOCK_UNLOCK, block, bytes));
    if (status == SLATE_OK)
        ask_status(media, &card);
    back = slate_sd_send(media, SLATE_SD_SET_BLOCK_LENGTH, 512,
                         SLATE_DIRECTION_NONE, NULL, 0, NULL);
    SLATE_TRY(status);
    return card.lock_failed ? SLATE_ERR_COMMAND : back;
}

static enum slate_status clear_groups(struct slate_media *media)
{
    uint8_t csd[16] = {0};
    enum slate_status status = read_csd(media, csd);

    return status == SLATE_OK ? slate_guard_clear_groups(media, csd) : status;
}

enum slate_status slate_guard_lift_sd(struct slate_media *media,
                                      const struct slate_guard_order *order)
{
    switch (order->guard->kind) {
    case SLATE_GUARD_TEMPORARY:
        return clear_temporary(media);
    case SLATE_GUARD_GROUPS:
        return clear_groups(media);
    case SLATE_GUARD_CARD_PASSWORD:
        return command_lock(media, order);
    default:
        return SLATE_ERR_COMMAND;
    }
}
