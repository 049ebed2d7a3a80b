/* SPDX-License-Identifier: MIT */
/* Inside the SCSI side of media: sending commands, and identifying. */
#ifndef SLATE_MEDIA_SCSI_H
#define SLATE_MEDIA_SCSI_H

#include "media/scsi/scsi_command.h"
#include "media/wire/speech.h"

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
