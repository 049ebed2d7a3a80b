/* SPDX-License-Identifier: MIT */
/* How one kind of device is spoken to; media.c stands above these. */
#ifndef SLATE_MEDIA_SPEECH_H
#define SLATE_MEDIA_SPEECH_H

#include "trueslate/media.h"

/* Ranges are checked and transfers split before these are called. */
struct slate_speech {
    enum slate_status (*open)(struct slate_media *media,
                              const struct slate_port_facts *facts);
    enum slate_status (*read)(struct slate_media *media, uint64_t lba,
                              uint32_t count, void *data);
    enum slate_status (*write)(struct slate_media *media, uint64_t lba,
                               uint32_t count, const void *data);
    enum slate_status (*flush)(struct slate_media *media);
};

extern const struct slate_speech slate_speech_plain;
extern const struct slate_speech slate_speech_scsi;

#endif
