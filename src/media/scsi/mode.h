/* SPDX-License-Identifier: MIT */
/* The mode pages of a SCSI disk. */
#ifndef SLATE_MEDIA_SCSI_MODE_H
#define SLATE_MEDIA_SCSI_MODE_H

#include "trueslate/mode.h"

/* Reads a mode page together with the block descriptor that comes with it.
 * Returns as slate_mode_read. */
SLATE_MUST_CHECK enum slate_status
slate_mode_look(struct slate_media *media, uint8_t page,
                enum slate_mode_values values, uint8_t *data, uint8_t *length,
                struct slate_mode_blocks *blocks);

/* Sets a whole mode page, a block descriptor, or both with one MODE SELECT.
 * Returns SLATE_OK; SLATE_ERR_COMMAND when the device refuses;
 * SLATE_ERR_NO_DEVICE. */
SLATE_MUST_CHECK enum slate_status
slate_mode_set(struct slate_media *media, const uint8_t *data, uint8_t length,
               const struct slate_mode_blocks *blocks);

#endif
