/* SPDX-License-Identifier: MIT */
/* Sending SCSI commands, with patience, and reading sense data. */
#include "base/base.h"
#include "media/scsi/scsi.h"

#define STATE_GOOD 0x00
#define STATE_BUSY 0x08
#define STATE_CONFLICT 0x18

#define KEY_RECOVERED 0x1
#define KEY_NOT_READY 0x2
#define KEY_MEDIUM_ERROR 0x3
#define KEY_UNIT_ATTENTION 0x6
#define KEY_DATA_PROTECT 0x7

#define ASC_BECOMING_READY 0x04
#define ASC_MEDIUM_CHANGED 0x28 /* with 00h: it may have */
#define ASC_FORMAT 0x31
#define ASC_NO_MEDIUM 0x3A
#define ASC_HELD 0x53 /* with 02h: removal is prevented */

/* Unit attentions and "becoming ready" pass; this many are waited out. */
#define PATIENCE 16

static void read_sense(const struct slate_exchange *x,
                       struct slate_fault *fault)
{
    uint8_t format = x->answer_length > 0 ? x->answer[0] & 0x7F : 0;

    fault->has_sense = false;
    if ((format == 0x70 || format == 0x71) && x->answer_length >= 14) {
        fault->sense_key = x->answer[2] & 0x0F; /* fixed: SPC-4, 4.5.3 */
        fault->asc = x->answer[12];
        fault->ascq = x->answer[13];
        fault->has_sense = true;
    } else if ((format == 0x72 || format == 0x73) && x->answer_length >= 4) {
        fault->sense_key = x->answer[1] & 0x0F; /* descriptor: 4.5.2 */
        fault->asc = x->answer[2];
        fault->ascq = x->answer[3];
        fault->has_sense = true;
    }
}

/* Whoever opened the device has seen another medium. */
static bool is_swapped(const struct slate_media *media,
                       const struct slate_fault *fault)
{
    return media->settled && fault->has_sense &&
           fault->sense_key == KEY_UNIT_ATTENTION &&
           fault->asc == ASC_MEDIUM_CHANGED && fault->ascq == 0x00;
}

static bool passes_by_itself(const struct slate_exchange *x,
                             const struct slate_fault *fault)
{
    if (x->state == STATE_BUSY)
        return true;
    if (!fault->has_sense)
        return false;
    return fault->sense_key == KEY_UNIT_ATTENTION ||
           (fault->sense_key == KEY_NOT_READY &&
            fault->asc == ASC_BECOMING_READY && fault->ascq == 0x01);
}

static enum slate_status refusal(const struct slate_exchange *x,
                                 const struct slate_fault *fault)
{
    if (x->state == STATE_BUSY || x->state == STATE_CONFLICT)
        return SLATE_ERR_BUSY;
    if (fault->has_sense && fault->asc == ASC_HELD && fault->ascq == 0x02)
        return SLATE_ERR_BUSY;
    if (fault->has_sense && fault->sense_key == KEY_DATA_PROTECT)
        return SLATE_ERR_PROTECTED;
    if (fault->has_sense && fault->sense_key == KEY_NOT_READY &&
        fault->asc == ASC_NO_MEDIUM)
        return SLATE_ERR_NO_MEDIUM;
    return SLATE_ERR_COMMAND;
}

void slate_scsi_heed(struct slate_media *media, const struct slate_exchange *x)
{
    struct slate_fault fault = {0};

    read_sense(x, &fault);
    media->swapped = media->swapped || is_swapped(media, &fault);
}

enum slate_status slate_scsi_send(struct slate_media *media,
                                  struct slate_exchange *x)
{
    struct slate_fault fault = {0};

    for (int i = 0; i < PATIENCE; i++) {
        SLATE_TRY(slate_media_exchange(media, x));
        if (x->state == STATE_GOOD)
            return SLATE_OK;
        read_sense(x, &fault);
        slate_scsi_heed(media, x);
        if (media->swapped)
            return SLATE_ERR_TAKEN_OUT;
        if (!passes_by_itself(x, &fault))
            break;
    }
    if (media->fault.status == SLATE_OK)
        media->fault = fault;
    return refusal(x, &fault);
}

enum slate_status slate_scsi_ask(struct slate_media *media,
                                 struct slate_exchange *x)
{
    struct slate_fault before = media->fault;
    enum slate_status status = slate_scsi_send(media, x);

    media->fault = before;
    return status;
}

enum slate_status slate_scsi_condition(struct slate_media *media,
                                       struct slate_exchange *x,
                                       struct slate_scsi_sense *sense)
{
    struct slate_fault fault = {0};
    enum slate_status status;

    slate_scsi_test_unit_ready(x);
    status = slate_scsi_ask(media, x);
    if (status != SLATE_OK && status != SLATE_ERR_NO_DEVICE)
        read_sense(x, &fault);
    sense->key = fault.sense_key;
    sense->asc = fault.asc;
    sense->ascq = fault.ascq;
    return status;
}

bool slate_scsi_is_recovered(const struct slate_exchange *x)
{
    struct slate_fault fault = {0};

    read_sense(x, &fault);
    return fault.has_sense && fault.sense_key == KEY_RECOVERED;
}

bool slate_scsi_is_erasing(const struct slate_scsi_sense *sense)
{
    return sense->key == KEY_NOT_READY && sense->asc == ASC_BECOMING_READY &&
           (sense->ascq == 0x04 || sense->ascq == 0x1B);
}

bool slate_scsi_is_unformatted(const struct slate_scsi_sense *sense)
{
    return sense->key == KEY_MEDIUM_ERROR && sense->asc == ASC_FORMAT;
}
