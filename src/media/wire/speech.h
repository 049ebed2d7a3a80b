/* SPDX-License-Identifier: MIT */
/* How one kind of device is spoken to; media.c stands above these. */
#ifndef SLATE_MEDIA_SPEECH_H
#define SLATE_MEDIA_SPEECH_H

#include "trueslate/media.h"

/* Ranges are checked and transfers split before these are called. */
struct slate_speech {
    enum slate_command_set commands; /* SD stands for its SPI form as well */
    enum slate_status (*open)(struct slate_media *media,
                              const struct slate_port_facts *facts);
    enum slate_status (*read)(struct slate_media *media, uint64_t lba,
                              uint32_t count, void *data);
    enum slate_status (*write)(struct slate_media *media, uint64_t lba,
                               uint32_t count, const void *data);
    enum slate_status (*flush)(struct slate_media *media);
    /* The exchange that a transfer is, as read and write make it; NULL: it is
     * more than one, or none. */
    void (*prepare)(struct slate_media *media, bool write, uint64_t lba,
                    uint32_t count, void *data, struct slate_exchange *x);
    /* lba and count within what one command takes; NULL: no such command */
    enum slate_status (*clear)(struct slate_media *media, uint64_t lba,
                               uint64_t count, enum slate_clear how);
    enum slate_status (*eject)(struct slate_media *media); /* NULL: nothing */
    enum slate_status (*rest)(struct slate_media *media);  /* NULL: no such */
};

extern const struct slate_speech slate_speech_plain;
extern const struct slate_speech slate_speech_scsi;
extern const struct slate_speech slate_speech_ata;
extern const struct slate_speech slate_speech_nvme;
extern const struct slate_speech slate_speech_sd;

/* Sends one exchange over the port and counts it. */
enum slate_status slate_media_exchange(struct slate_media *media,
                                       struct slate_exchange *x);

/* An exchange carries data either way in one pointer; with direction OUT a
 * port only reads from it. */
static inline void *slate_outgoing(const void *data)
{
    union {
        const void *from;
        void *to;
    } pointer = {data};

    return pointer.to;
}

/* Printable ASCII without spaces at either end into an identity field. */
void slate_take_text(char *to, size_t room, const uint8_t *from, size_t length);

#endif
