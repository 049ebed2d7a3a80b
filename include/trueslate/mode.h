/* SPDX-License-Identifier: MIT */
/* Mode pages of devices that speak SCSI. */
#ifndef TRUESLATE_MODE_H
#define TRUESLATE_MODE_H

#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Room for any mode page. */
#define SLATE_MODE_PAGE_ROOM 252

/**
 * Reads the current values of a mode page (MODE SENSE, SPC-4, 6.13 and 6.14).
 *
 * @param media  an open device
 * @param page   page code, 0 to 3Eh
 * @param data   receives the page with its two-byte header; room for
 *               SLATE_MODE_PAGE_ROOM bytes
 * @param length receives its length, bytes
 * @return SLATE_OK; SLATE_ERR_COMMAND for a device that has no such page, or
 *         does not speak SCSI; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_mode_read(struct slate_media *media,
                                                   uint8_t page, uint8_t *data,
                                                   uint8_t *length);

/**
 * Changes bits of one byte of a mode page, leaving all others as they are
 * (MODE SELECT, SPC-4, 6.11 and 6.12).
 *
 * @param media  an open device
 * @param page   page code, 0 to 3Eh
 * @param offset of the byte in the page, 2 or more
 * @param mask   the bits to change
 * @param value  their new values
 * @param save   true: shall survive power-off
 * @return SLATE_OK; SLATE_ERR_ARGUMENT for an offset outside the page;
 *         SLATE_ERR_COMMAND when the device refuses; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_mode_change(struct slate_media *media, uint8_t page, uint8_t offset,
                  uint8_t mask, uint8_t value, bool save);

/** Which values of a page (MODE SENSE, PC; SPC-4, 6.13.1). */
enum slate_mode_values {
    SLATE_MODE_CURRENT = 0x00,
    SLATE_MODE_CHANGEABLE = 0x40 /**< ones where a host may change them */
};

/** Size of the blocks, as the short block descriptor has it (SBC-3, 6.4.2). */
struct slate_mode_blocks {
    bool known;     /**< there was a descriptor */
    uint32_t count; /**< 24 bits; setting it: 0 for as many as there are */
    uint32_t bytes; /**< of each, 24 bits */
};

#ifdef __cplusplus
}
#endif
#endif
