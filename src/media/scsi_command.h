/* SPDX-License-Identifier: MIT */
/* SCSI command descriptor blocks, put together field by field. */
#ifndef SLATE_MEDIA_SCSI_COMMAND_H
#define SLATE_MEDIA_SCSI_COMMAND_H

#include "trueslate/port.h"

/* Operation codes (SPC-4, annex D). */
enum slate_scsi_operation {
    SLATE_SCSI_TEST_UNIT_READY = 0x00,
    SLATE_SCSI_INQUIRY = 0x12,
    SLATE_SCSI_MODE_SENSE_6 = 0x1A,
    SLATE_SCSI_READ_CAPACITY_10 = 0x25,
    SLATE_SCSI_READ_10 = 0x28,
    SLATE_SCSI_WRITE_10 = 0x2A,
    SLATE_SCSI_SYNCHRONIZE_CACHE_10 = 0x35,
    SLATE_SCSI_READ_16 = 0x88,
    SLATE_SCSI_WRITE_16 = 0x8A,
    SLATE_SCSI_SERVICE_ACTION_IN_16 = 0x9E
};

/* SPC-4, 6.37 */
void slate_scsi_test_unit_ready(struct slate_exchange *x);

/* SPC-4, 6.6; page < 0 asks for the standard data, else for that VPD page */
void slate_scsi_inquiry(struct slate_exchange *x, int page, void *data,
                        uint8_t length);

/* SPC-4, 6.13; no block descriptors wanted */
void slate_scsi_mode_sense_6(struct slate_exchange *x, uint8_t page, void *data,
                             uint8_t length);

/* SBC-3, 5.15 */
void slate_scsi_read_capacity_10(struct slate_exchange *x, uint8_t data[8]);

/* SBC-3, 5.16 */
void slate_scsi_read_capacity_16(struct slate_exchange *x, uint8_t data[32]);

/* READ or WRITE, the 10-byte form where LBA and count fit it, as more devices
 * know that one, else the 16-byte form (SBC-3, 5.11, 5.13, 5.33, 5.35) */
void slate_scsi_transfer(struct slate_exchange *x,
                         enum slate_direction direction, uint64_t lba,
                         uint32_t count, void *data, uint32_t data_length);

/* SBC-3, 5.22; the whole device */
void slate_scsi_synchronize_cache_10(struct slate_exchange *x);

#endif
