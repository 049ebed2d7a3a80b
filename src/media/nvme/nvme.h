/* SPDX-License-Identifier: MIT */
/* Admin commands of NVMe drives (NVM Express base specification 1.4, 5). */
#ifndef SLATE_MEDIA_NVME_H
#define SLATE_MEDIA_NVME_H

#include "media/wire/wire.h"

enum slate_nvme_admin {
    SLATE_NVME_GET_LOG_PAGE = 0x02,
    SLATE_NVME_IDENTIFY = 0x06,
    SLATE_NVME_SET_FEATURES = 0x09,
    SLATE_NVME_GET_FEATURES = 0x0A,
    SLATE_NVME_FORMAT = 0x80,
    SLATE_NVME_SANITIZE = 0x84
};

/* Sends one with the words 10 and 11 of its entry; data comes in, or is NULL.
 * result receives the first word of the completion; it may be NULL.
 * SLATE_ERR_COMMAND when the drive refuses, SLATE_ERR_PROTECTED when that is
 * its reason. */
SLATE_MUST_CHECK enum slate_status
slate_nvme_admin(struct slate_media *media, enum slate_nvme_admin operation,
                 uint32_t name_space, const uint32_t words[2], void *data,
                 uint32_t length, uint32_t *result);

/* Sends one without data that may take long. seconds: 0 for the usual time */
SLATE_MUST_CHECK enum slate_status
slate_nvme_order(struct slate_media *media, enum slate_nvme_admin operation,
                 uint32_t name_space, const uint32_t words[2],
                 uint32_t seconds);

#endif
