/* SPDX-License-Identifier: MIT */
/* The sanitize feature set and SECURITY ERASE UNIT (ACS-3, 4.17, 4.18, 7.33,
 * 7.41 to 7.46), directly or through a dock. */

#include "erase/erase.h"
#include "media/ata/ata.h"

/* Subcommands of SANITIZE DEVICE stand in the features; each has a signature
 * in the LBA, lest it be sent by mistake. */
#define SANITIZE_STATUS 0x0000
#define SANITIZE_CRYPTO 0x0011
#define SANITIZE_BLOCK 0x0012
#define SANITIZE_OVERWRITE 0x0014
#define SIGNED_CRYPTO UINT64_C(0x43727970)
#define SIGNED_BLOCK UINT64_C(0x426B4572)
#define SIGNED_OVERWRITE                                                       \
    (UINT64_C(0x4F57) << 32) /* then the pattern: zeros                        \
                              */

/* What SANITIZE STATUS EXT gives back in the count. */
#define STATUS_COMPLETED 0x8000
#define STATUS_WORKING 0x4000

/* Word 59 */
#define HAS_SANITIZE 0x1000
#define HAS_CRYPTO 0x2000
#define HAS_OVERWRITE 0x4000
#define HAS_BLOCK 0x8000

/* Word 128 */
#define SECURITY_SUPPORTED 0x0001
#define SECURITY_ENABLED 0x0002
#define SECURITY_FROZEN 0x0008
#define SECURITY_EXPIRED 0x0010
#define SECURITY_ENHANCED 0x0020

#define ERASE_ENHANCED 0x0002 /* of the parameter block's first word */
#define STATUS_ERROR 0x01

static enum slate_status identify(struct slate_media *media)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_IDENTIFY, .count = 1};

    memset(media->answer, 0, 512);
    return slate_ata_send(media, &task, SLATE_DIRECTION_IN, media->answer, 512);
}

/* SANITIZE STATUS EXT: SLATE_ERR_COMMAND where the disk refuses it, which the
 * answer tells, or a dock keeps the answer to itself, which is all zero then.
 */
static enum slate_status ask_status(struct slate_media *media,
                                    uint8_t answer[12])
{
    struct slate_ata_task task = {.operation = SLATE_ATA_SANITIZE,
                                  .features = SANITIZE_STATUS};

    memset(answer, 0, 12);
    return slate_ata_ask_registers(media, &task, answer);
}

/* What cannot be followed is not begun: nothing would tell when it is done. */
static bool can_be_followed(struct slate_media *media)
{
    uint8_t answer[12];

    return ask_status(media, answer) == SLATE_OK ||
           (answer[11] & STATUS_ERROR) != 0;
}

/* A frozen disk refuses security commands; it is told as such when one is
 * sent, so that the way is known to be there. */
enum slate_status slate_erase_find_ata(struct slate_media *media,
                                       struct slate_erase_list *list)
{
    const uint8_t *data = media->answer;
    enum slate_status status = identify(media);
    uint16_t can, security;

    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    can = slate_ata_word(data, 59);
    security = slate_ata_word(data, 128);
    if ((can & HAS_SANITIZE) == 0 || !can_be_followed(media))
        can = 0;
    if ((can & HAS_OVERWRITE) != 0)
        slate_erase_note(list, SLATE_ERASE_ATA_OVERWRITE, 0, false);
    if ((can & HAS_BLOCK) != 0)
        slate_erase_note(list, SLATE_ERASE_ATA_BLOCK, 0, false);
    if ((can & HAS_CRYPTO) != 0)
        slate_erase_note(list, SLATE_ERASE_ATA_CRYPTO, 0, false);
    if ((slate_ata_word(data, 82) & 0x0002) == 0 ||
        (security & SECURITY_SUPPORTED) == 0)
        return SLATE_OK;
    slate_erase_note(list, SLATE_ERASE_ATA_SECURITY,
                     slate_ata_erase_minutes(data, false), false);
    if ((security & SECURITY_ENHANCED) != 0)
        slate_erase_note(list, SLATE_ERASE_ATA_ENHANCED,
                         slate_ata_erase_minutes(data, true), false);
    return SLATE_OK;
}

static enum slate_status sanitize(struct slate_media *media, uint16_t feature,
                                  uint64_t signature, uint16_t count)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_SANITIZE,
                                  .features = feature,
                                  .count = count,
                                  .lba = signature};

    return slate_ata_send(media, &task, SLATE_DIRECTION_NONE, NULL, 0);
}

/* Bounds of what can be known beforehand; twice the time that the disk tells.
 */
static uint32_t seconds_for(uint32_t minutes)
{
    return minutes > 0 && minutes < SLATE_ERASE_SECONDS / 120
               ? minutes * 120
               : SLATE_ERASE_SECONDS;
}

/* A password of ours has to be set for the while (ACS-3, 7.43). One that is
 * set already is ours where an erase was cut; else the disk refuses, and
 * nothing is lost. */
static enum slate_status erase_unit(struct slate_media *media, bool enhanced)
{
    enum slate_status status = identify(media);
    uint16_t security = slate_ata_word(media->answer, 128);
    uint32_t minutes = slate_ata_erase_minutes(media->answer, enhanced);
    bool set = (security & SECURITY_ENABLED) != 0;

    SLATE_TRY(status);
    if ((security & (SECURITY_FROZEN | SECURITY_EXPIRED)) != 0)
        return SLATE_ERR_GUARD;
    if (!set)
        status = slate_ata_send_password(media, SLATE_ATA_SET_PASSWORD, 0,
                                         SLATE_ERASE_PASSWORD, 0);
    SLATE_TRY(status);
    status = slate_ata_erase_unit(media, enhanced ? ERASE_ENHANCED : 0,
                                  SLATE_ERASE_PASSWORD, seconds_for(minutes));
    if (status == SLATE_ERR_COMMAND && set)
        return SLATE_ERR_GUARD;
    if (status == SLATE_ERR_COMMAND && /* not to leave it behind */
        slate_ata_send_password(media, SLATE_ATA_DISABLE_PASSWORD, 0,
                                SLATE_ERASE_PASSWORD, 0) != SLATE_OK)
        return SLATE_ERR_STILL_GUARDED;
    return status;
}

enum slate_status slate_erase_order_ata(struct slate_media *media,
                                        enum slate_erase_kind kind)
{
    switch (kind) {
    case SLATE_ERASE_ATA_OVERWRITE: /* once */
        return sanitize(media, SANITIZE_OVERWRITE, SIGNED_OVERWRITE, 1);
    case SLATE_ERASE_ATA_BLOCK:
        return sanitize(media, SANITIZE_BLOCK, SIGNED_BLOCK, 0);
    case SLATE_ERASE_ATA_CRYPTO:
        return sanitize(media, SANITIZE_CRYPTO, SIGNED_CRYPTO, 0);
    case SLATE_ERASE_ATA_SECURITY:
        return erase_unit(media, false);
    case SLATE_ERASE_ATA_ENHANCED:
        return erase_unit(media, true);
    default:
        return SLATE_ERR_ARGUMENT;
    }
}

/* A disk that never erased itself has neither bit set; one that failed to
 * refuses the question (ACS-3, 7.33.6). */
enum slate_status slate_erase_ask_ata(struct slate_media *media,
                                      struct slate_erase_state *state)
{
    uint8_t answer[12];
    uint16_t count;
    enum slate_status status = identify(media);

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (status != SLATE_OK ||
        (slate_ata_word(media->answer, 59) & HAS_SANITIZE) == 0)
        return SLATE_OK;
    status = ask_status(media, answer);
    count = slate_le16(answer + 2);
    if (status == SLATE_ERR_COMMAND && (answer[11] & STATUS_ERROR) != 0)
        state->activity = SLATE_ERASE_FAILED;
    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    if ((count & STATUS_COMPLETED) != 0)
        state->activity = SLATE_ERASE_DONE;
    if ((count & STATUS_WORKING) != 0) {
        state->activity = SLATE_ERASE_WORKING;
        state->told = true;
        state->progress = slate_le16(answer + 4);
    }
    return SLATE_OK;
}
