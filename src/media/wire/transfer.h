/* SPDX-License-Identifier: MIT */
/* Transfers of any length: checked, split, counted, with the first fault. */
#ifndef SLATE_MEDIA_TRANSFER_H
#define SLATE_MEDIA_TRANSFER_H

#include "trueslate/media.h"

/* Takes note of a failure, unless there was one before; returns the status. */
enum slate_status slate_media_note(struct slate_media *media,
                                   enum slate_status status,
                                   enum slate_operation operation, uint64_t lba,
                                   uint32_t count);

/* May these blocks be asked for? */
enum slate_status slate_media_admit(const struct slate_media *media,
                                    uint64_t lba, uint64_t count);

/* Reads what the device takes at a time, by the policy. */
enum slate_status slate_media_read_run(struct slate_media *media, uint64_t lba,
                                       uint32_t count, void *data);

#endif
