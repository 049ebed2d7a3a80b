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

/* Begins to read blocks. Where the port cannot do that, or the device takes
 * more than one command for them, it is done when this returns. Such a read
 * goes by no policy: nothing is noted, counted out or shown. */
void slate_media_begin_read(struct slate_media *media,
                            struct slate_pending *pending, uint64_t lba,
                            uint32_t count, void *data);

/* The same for writing. */
void slate_media_begin_write(struct slate_media *media,
                             struct slate_pending *pending, uint64_t lba,
                             uint32_t count, const void *data);

/* Waits for what was begun. A transfer that failed is made once more, and
 * waited for, so that its failure is told as any other; but for reading plain
 * blocks where the policy is one try. Returns as slate_media_read or
 * slate_media_write. */
SLATE_MUST_CHECK enum slate_status
slate_media_finish(struct slate_media *media, struct slate_pending *pending);

/* Lifts the host's own read-only setting and asks again whether it is gone.
 * Returns SLATE_OK; SLATE_ERR_COMMAND when the port has no such operation;
 * SLATE_ERR_STILL_GUARDED when it says that it did, and the device is read-
 * only as before; or what the port says. */
SLATE_MUST_CHECK enum slate_status
slate_media_allow_writes(struct slate_media *media);

/* Puts what the device answered into words, without a final stop: its sense
 * data, or the sentence of the result where there are none. */
void slate_fault_answer_words(const struct slate_fault *fault,
                              struct slate_text *text);

#endif
