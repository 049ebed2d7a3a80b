/* SPDX-License-Identifier: MIT */
/* SANITIZE and FORMAT UNIT (SBC-3, 4.11, 5.3, 5.27). */

#include "base/base.h"
#include "erase/erase.h"
#include "media/scsi/scsi.h"

#define SANITIZE_OVERWRITE 0x01
#define SANITIZE_BLOCK 0x02
#define SANITIZE_CRYPTO 0x03
#define IMMEDIATE 0x80      /* of SANITIZE */
#define SUPPORT_STANDARD 3u /* as the standard has the command */
#define PROGRESS_VALID 0x80
#define SENSE_BYTES 18
#define KEY_NOT_READY 0x2
#define KEY_MEDIUM_ERROR 0x3

/* Does the device name the command as its own? (SPC-4, 6.34.) */
static enum slate_status knows(struct slate_media *media, uint8_t operation,
                               uint8_t action, bool *known)
{
    struct slate_exchange x;
    uint8_t data[32] = {0};
    enum slate_status status;

    slate_scsi_report_operation(&x, operation, action, data, sizeof data);
    status = slate_scsi_ask(media, &x);
    *known = status == SLATE_OK && x.transferred >= 4 &&
             (data[1] & 7) == SUPPORT_STANDARD;
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

enum slate_status slate_erase_find_scsi(struct slate_media *media,
                                        struct slate_erase_list *list)
{
    static const struct {
        enum slate_erase_kind kind;
        uint8_t operation, action; /* 0: none */
    } rows[] = {
        {SLATE_ERASE_SCSI_OVERWRITE, SLATE_SCSI_SANITIZE, SANITIZE_OVERWRITE},
        {SLATE_ERASE_SCSI_BLOCK, SLATE_SCSI_SANITIZE, SANITIZE_BLOCK},
        {SLATE_ERASE_SCSI_CRYPTO, SLATE_SCSI_SANITIZE, SANITIZE_CRYPTO},
        {SLATE_ERASE_SCSI_FORMAT, SLATE_SCSI_FORMAT_UNIT, 0}};

    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        bool known = false;
        SLATE_TRY(knows(media, rows[i].operation, rows[i].action, &known));
        if (known)
            slate_erase_note(list, rows[i].kind, 0, false);
    }
    return media->abilities.passes_ata ? slate_erase_find_ata(media, list)
                                       : SLATE_OK;
}

/* Once over, with zeros: the initialization pattern is one block (SBC-3,
 * 5.27.2). */
static enum slate_status overwrite(struct slate_media *media)
{
    uint8_t list[4 + SLATE_PIECE_BYTES] = {1};
    struct slate_exchange x;

    slate_put_be16(list + 2, 4); /* bytes of the pattern, repeated */
    slate_scsi_sanitize(&x, IMMEDIATE | SANITIZE_OVERWRITE, list, 8);
    return slate_scsi_ask(media, &x);
}

static enum slate_status sanitize(struct slate_media *media, uint8_t action)
{
    struct slate_exchange x;

    slate_scsi_sanitize(&x, (uint8_t)(IMMEDIATE | action), NULL, 0);
    return slate_scsi_ask(media, &x);
}

/* With a header that asks to return at once; a device that knows no such
 * header formats before it answers. */
static enum slate_status format(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t header[4] = {0, 0x02, 0, 0};
    enum slate_status status;

    slate_scsi_format_unit(&x, header, sizeof header);
    status = slate_scsi_ask(media, &x);
    if (status != SLATE_ERR_COMMAND)
        return status;
    slate_scsi_format_unit(&x, NULL, 0);
    x.seconds = SLATE_ERASE_SECONDS;
    return slate_scsi_ask(media, &x);
}

enum slate_status slate_erase_order_scsi(struct slate_media *media,
                                         enum slate_erase_kind kind)
{
    switch (kind) {
    case SLATE_ERASE_SCSI_OVERWRITE:
        return overwrite(media);
    case SLATE_ERASE_SCSI_BLOCK:
        return sanitize(media, SANITIZE_BLOCK);
    case SLATE_ERASE_SCSI_CRYPTO:
        return sanitize(media, SANITIZE_CRYPTO);
    case SLATE_ERASE_SCSI_FORMAT:
        return format(media);
    default:
        return slate_erase_order_ata(media, kind);
    }
}

/* The sense-key specific bytes of fixed sense data (SPC-4, 4.5.2.4.4). */
static void take_progress(const uint8_t *sense, uint32_t length,
                          struct slate_erase_state *state)
{
    if (length < SENSE_BYTES || (sense[0] & 0x7E) != 0x70 ||
        (sense[15] & PROGRESS_VALID) == 0)
        return;
    state->told = true;
    state->progress = slate_be16(sense + 16);
}

enum slate_status slate_erase_ask_scsi(struct slate_media *media,
                                       struct slate_erase_state *state)
{
    struct slate_exchange x;
    struct slate_scsi_sense sense;
    uint8_t data[SENSE_BYTES] = {0};
    enum slate_status status = slate_scsi_condition(media, &x, &sense);

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (slate_scsi_is_unformatted(&sense))
        state->activity = SLATE_ERASE_FAILED;
    if (slate_scsi_is_erasing(&sense)) {
        state->activity = SLATE_ERASE_WORKING;
        take_progress(x.answer, x.answer_length, state);
    }
    if (state->activity == SLATE_ERASE_WORKING && !state->told) {
        slate_scsi_request_sense(&x, data, sizeof data);
        status = slate_scsi_ask(media, &x);
        if (status == SLATE_OK)
            take_progress(data, x.transferred, state);
    }
    if (state->activity == SLATE_ERASE_IDLE && media->abilities.passes_ata)
        return slate_erase_ask_ata(media, state);
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}
