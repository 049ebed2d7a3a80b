/* SPDX-License-Identifier: MIT */
/* Inside the SD side of media: command frames and registers (Physical Layer
 * Simplified Specification 6.00). */
#ifndef SLATE_MEDIA_SD_H
#define SLATE_MEDIA_SD_H

#include "media/wire/wire.h"

enum slate_sd_command {
    SLATE_SD_GO_IDLE = 0,
    SLATE_SD_ALL_SEND_CID = 2,
    SLATE_SD_SEND_RELATIVE_ADDRESS = 3,
    SLATE_SD_SELECT = 7,
    SLATE_SD_SEND_IF_COND = 8,
    SLATE_SD_SEND_CSD = 9,
    SLATE_SD_SEND_CID = 10,
    SLATE_SD_STOP_TRANSMISSION = 12,
    SLATE_SD_SEND_STATUS = 13, /* ACMD13: SD status */
    SLATE_SD_SET_BLOCK_LENGTH = 16,
    SLATE_SD_READ_SINGLE = 17,
    SLATE_SD_READ_MULTIPLE = 18,
    SLATE_SD_WRITE_SINGLE = 24,
    SLATE_SD_WRITE_MULTIPLE = 25,
    SLATE_SD_PROGRAM_CSD = 27,
    SLATE_SD_CLEAR_PROTECTION = 29, /* of a write-protect group */
    SLATE_SD_SEND_PROTECTION = 30,
    SLATE_SD_ERASE_FIRST = 32,
    SLATE_SD_ERASE_LAST = 33,
    SLATE_SD_ERASE = 38,
    SLATE_SD_SEND_OP_COND = 41, /* ACMD */
    SLATE_SD_LOCK_UNLOCK = 42,
    SLATE_SD_SEND_SCR = 51, /* ACMD */
    SLATE_SD_APP_COMMAND = 55,
    SLATE_SD_READ_OCR = 58 /* SPI */
};

/* Bits of the card status that refuse a command (table 4-42). */
#define SLATE_SD_STATUS_WP_VIOLATION 0x04000000u
#define SLATE_SD_STATUS_ERRORS 0xFDF98008u

/* One command; content receives the 32 bits of a short response. data may be
 * NULL. SLATE_ERR_COMMAND: no response, or one that refuses. */
enum slate_status slate_sd_send(struct slate_media *media, uint8_t index,
                                uint32_t argument,
                                enum slate_direction direction, void *data,
                                uint32_t data_length, uint32_t *content);

/* The same with at most 64 bytes of data from the card, whose CRC16 is checked
 * over SPI. */
enum slate_status slate_sd_receive(struct slate_media *media, uint8_t index,
                                   uint32_t argument, void *data,
                                   uint32_t data_length, uint32_t *content);

/* The same behind CMD55. */
enum slate_status slate_sd_send_app(struct slate_media *media, uint8_t index,
                                    uint32_t argument, void *data,
                                    uint32_t data_length, uint32_t *content);

/* A register of 16 bytes with its CRC7: CMD2, CMD9 or CMD10. */
enum slate_status slate_sd_register(struct slate_media *media, uint8_t index,
                                    uint32_t argument, uint8_t value[16]);

/* Is the card spoken to over SPI? */
bool slate_sd_is_spi(const struct slate_media *media);

/* Identification, from idle to ready for transfers. */
enum slate_status slate_sd_identify(struct slate_media *media);

/* The same for a card that the host has identified already. */
enum slate_status slate_sd_take_over(struct slate_media *media,
                                     const struct slate_port_facts *facts);

/* Bits of a register, counted from its last one; at most 32. */
uint32_t slate_sd_bits(const uint8_t value[16], int high, int low);

/* The registers' fields (5.2, 5.3). */
bool slate_sd_take_csd(struct slate_media *media, const uint8_t csd[16]);
void slate_sd_take_cid(struct slate_media *media, const uint8_t cid[16]);
#endif
