/* SPDX-License-Identifier: MIT */
/* SCSI, as the library speaks it. */
#ifndef SLATE_MEDIA_SCSI_H
#define SLATE_MEDIA_SCSI_H

#include "media/wire/wire.h"
#include "trueslate/mode.h"
#include "trueslate/port.h"

/* The mode pages of a SCSI disk. */

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

/* SCSI command descriptor blocks, put together field by field. */

/* Operation codes (SPC-4, annex D). */
enum slate_scsi_operation {
    SLATE_SCSI_TEST_UNIT_READY = 0x00,
    SLATE_SCSI_REQUEST_SENSE = 0x03,
    SLATE_SCSI_FORMAT_UNIT = 0x04,
    SLATE_SCSI_REASSIGN_BLOCKS = 0x07,
    SLATE_SCSI_INQUIRY = 0x12,
    SLATE_SCSI_MODE_SELECT_6 = 0x15,
    SLATE_SCSI_MODE_SENSE_6 = 0x1A,
    SLATE_SCSI_START_STOP = 0x1B,
    SLATE_SCSI_PREVENT_REMOVAL = 0x1E,
    SLATE_SCSI_READ_CAPACITY_10 = 0x25,
    SLATE_SCSI_READ_10 = 0x28,
    SLATE_SCSI_WRITE_10 = 0x2A,
    SLATE_SCSI_SYNCHRONIZE_CACHE_10 = 0x35,
    SLATE_SCSI_READ_DEFECTS_10 = 0x37,
    SLATE_SCSI_UNMAP = 0x42,
    SLATE_SCSI_SANITIZE = 0x48,
    SLATE_SCSI_MODE_SELECT_10 = 0x55,
    SLATE_SCSI_MODE_SENSE_10 = 0x5A,
    SLATE_SCSI_RESERVE_IN = 0x5E,
    SLATE_SCSI_RESERVE_OUT = 0x5F,
    SLATE_SCSI_ATA_16 = 0x85,
    SLATE_SCSI_READ_16 = 0x88,
    SLATE_SCSI_WRITE_16 = 0x8A,
    SLATE_SCSI_WRITE_SAME_16 = 0x93,
    SLATE_SCSI_SERVICE_ACTION_IN_16 = 0x9E,
    SLATE_SCSI_REPORT_LUNS = 0xA0,
    SLATE_SCSI_ATA_12 = 0xA1,
    SLATE_SCSI_MAINTENANCE_IN = 0xA3,
    SLATE_SCSI_READ_DEFECTS_12 = 0xB7
};

/* SPC-4, 6.37 */
void slate_scsi_test_unit_ready(struct slate_exchange *x);

/* SPC-4, 6.6; page < 0 asks for the standard data, else for that VPD page */
void slate_scsi_inquiry(struct slate_exchange *x, int page, void *data,
                        uint8_t length);

/* SPC-4, 6.13; no block descriptors wanted */
void slate_scsi_mode_sense_6(struct slate_exchange *x, uint8_t page, void *data,
                             uint8_t length);

/* SPC-4, 6.14; for devices that know only this form */
void slate_scsi_mode_sense_10(struct slate_exchange *x, uint8_t page,
                              void *data, uint16_t length);

/* The same with block descriptors, and with what byte 2 says about which values
 * (bits 7 and 6) of which page. */
void slate_scsi_mode_sense_blocks(struct slate_exchange *x, bool ten,
                                  uint8_t what, void *data, uint8_t length);

/* SPC-4, 6.11 and 6.12; the parameter list with its header, page format */
void slate_scsi_mode_select(struct slate_exchange *x, bool ten, bool save,
                            void *data, uint8_t length);

/* SPC-4, 6.33 */
void slate_scsi_report_luns(struct slate_exchange *x, void *data,
                            uint32_t length);

/* PERSISTENT RESERVE IN and OUT (SPC-4, 6.15 and 6.16) */
void slate_scsi_reserve_in(struct slate_exchange *x, uint8_t action, void *data,
                           uint16_t length);
void slate_scsi_reserve_out(struct slate_exchange *x, uint8_t action,
                            uint8_t list[24]);

/* SBC-3, 5.25; eject takes the medium out as well */
void slate_scsi_start_stop(struct slate_exchange *x, bool start, bool eject);

/* SBC-3, 5.11 */
void slate_scsi_prevent_removal(struct slate_exchange *x, bool prevent);

/* SBC-3, 5.28; list receives the parameter list */
void slate_scsi_unmap(struct slate_exchange *x, uint64_t lba, uint32_t count,
                      uint8_t list[24]);

/* SBC-3, 5.42; block is repeated */
void slate_scsi_write_same_16(struct slate_exchange *x, uint64_t lba,
                              uint32_t count, void *block,
                              uint32_t block_bytes);

/* SBC-3, 5.15 */
void slate_scsi_read_capacity_10(struct slate_exchange *x, uint8_t data[8]);

/* SBC-3, 5.16 */
void slate_scsi_read_capacity_16(struct slate_exchange *x, uint8_t data[32]);

/* READ or WRITE, the 10-byte form where LBA and count fit it, as more devices
 * know that one, else the 16-byte form (SBC-3, 5.11, 5.13, 5.33, 5.35) */
void slate_scsi_transfer(struct slate_exchange *x,
                         enum slate_direction direction, uint64_t lba,
                         uint32_t count, void *data, uint32_t data_length);

/* SPC-4, 6.29; fixed format */
void slate_scsi_request_sense(struct slate_exchange *x, void *data,
                              uint8_t length);

/* REPORT SUPPORTED OPERATION CODES for one command (SPC-4, 6.34); action: its
 * service action, 0 for a command without */
void slate_scsi_report_operation(struct slate_exchange *x, uint8_t operation,
                                 uint8_t action, void *data, uint8_t length);

/* SBC-3, 5.27; how: byte 1; list may be NULL */
void slate_scsi_sanitize(struct slate_exchange *x, uint8_t how, void *list,
                         uint16_t length);

/* SBC-3, 5.3; header: the short parameter list header, or NULL for a device
 * that takes none */
void slate_scsi_format_unit(struct slate_exchange *x, void *header,
                            uint8_t length);

/* Bits of byte 1 of FORMAT UNIT. */
enum slate_scsi_format_bit {
    SLATE_SCSI_FORMAT_LIST = 0x07,     /* form of the descriptors */
    SLATE_SCSI_FORMAT_COMPLETE = 0x08, /* in place of the grown list */
    SLATE_SCSI_FORMAT_DATA = 0x10,     /* a parameter list comes */
    SLATE_SCSI_FORMAT_LONG = 0x20      /* its header has 8 bytes */
};

/* The same with all that it can say (SCSI-2, 9.2.1; the interleave is obsolete
 * in SBC-3); how: byte 1; interleave 0: the device's own */
void slate_scsi_format_drive(struct slate_exchange *x, uint8_t how,
                             uint16_t interleave, void *list, uint32_t length);

/* READ DEFECT DATA (SBC-3, 5.17 and 5.18); what: the byte with the lists that
 * are asked for and their form */
void slate_scsi_read_defects(struct slate_exchange *x, bool twelve,
                             uint8_t what, void *data, uint16_t length);

/* SBC-3; the parameter list with its header; long_lba: addresses of 8
 * bytes */
void slate_scsi_reassign(struct slate_exchange *x, bool long_lba, void *list,
                         uint32_t length);

/* SBC-3, 5.22; the whole device */
void slate_scsi_synchronize_cache_10(struct slate_exchange *x);

/* Inside the SCSI side of media: sending commands, and identifying. */

/* Does an answer tell of another medium? Then nothing is done any more. */
void slate_scsi_heed(struct slate_media *media, const struct slate_exchange *x);

/* Sends a command, again while the device asks for patience (unit attention,
 * becoming ready, busy). The sense data of a final refusal becomes the fault,
 * unless an earlier one stands. */
enum slate_status slate_scsi_send(struct slate_media *media,
                                  struct slate_exchange *x);

/* As slate_scsi_send, for a question that a device may refuse: no fault. */
enum slate_status slate_scsi_ask(struct slate_media *media,
                                 struct slate_exchange *x);

struct slate_scsi_sense {
    uint8_t key, asc, ascq;
};

/* How the device feels: TEST UNIT READY, no fault noted. sense: all zero where
 * it is ready. */
enum slate_status slate_scsi_condition(struct slate_media *media,
                                       struct slate_exchange *x,
                                       struct slate_scsi_sense *sense);

/* Was a command that was not answered with "good" done all the same (recovered
 * error; SPC-4, 4.5.6)? */
bool slate_scsi_is_recovered(const struct slate_exchange *x);

/* Does it format or sanitize itself (04/04, 04/1B)? */
bool slate_scsi_is_erasing(const struct slate_scsi_sense *sense);

/* Did that fail, or was it cut (31h)? */
bool slate_scsi_is_unformatted(const struct slate_scsi_sense *sense);

/* INQUIRY, its VPD pages, REPORT LUNS: who the device is, what it can do. */
enum slate_status slate_scsi_identify(struct slate_media *media);

/* READ CAPACITY and MODE SENSE: how large it is, and whether it is writable. */
enum slate_status slate_scsi_measure(struct slate_media *media);

/* Does the mode parameter header say that the medium is write-protected? Bit 7
 * of the device-specific parameter (SBC-3, 6.4.1). A device that refuses both
 * forms is taken as writable until a write fails. */
bool slate_scsi_says_protected(struct slate_media *media);

#endif
