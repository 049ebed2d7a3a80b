/* SPDX-License-Identifier: MIT */
/* FORMAT UNIT with its parameter list, READ DEFECT DATA and REASSIGN BLOCKS
 * (SCSI-2, 9.2.1; SBC-3, 5.3, 5.17, 5.18). */

#include "base/base.h"
#include "lowlevel/lowlevel.h"
#include "media/scsi/scsi.h"

#define HEADER_BYTES 4u
#define IMMEDIATE 0x02

/* Forms of descriptors (SBC-3, table 38). */
#define FORM_SHORT_BLOCK 0u
#define FORM_INDEX 4u
#define FORM_SECTOR 5u

static uint8_t form_of(enum slate_defect_form form)
{
    static const uint8_t forms[] = {FORM_SHORT_BLOCK, FORM_INDEX, FORM_SECTOR};

    return forms[form];
}

static uint32_t descriptor_bytes(uint8_t form)
{
    return form == FORM_SHORT_BLOCK ? 4 : 8;
}

/* SBC-3, 5.3.2.4: three bytes of cylinder, one of head, four of the place. */
static void put_defect(uint8_t *to, uint8_t form,
                       const struct slate_defect *defect)
{
    if (form == FORM_SHORT_BLOCK) {
        slate_put_be32(to, defect->cylinder);
        return;
    }
    slate_put_be32(to, defect->cylinder << 8 | (defect->head & 0xFF));
    slate_put_be32(to + 4, defect->at);
}

uint32_t slate_format_list(const struct slate_lowlevel *lowlevel, bool at_once,
                           uint8_t *list)
{
    const struct slate_lowlevel_wish *wish = &lowlevel->wish;
    uint8_t form = form_of(wish->form);
    uint32_t each = descriptor_bytes(form), length = each * wish->defects;

    memset(list, 0, HEADER_BYTES);
    list[1] = at_once ? IMMEDIATE : 0;
    slate_put_be16(list + 2, (uint16_t)length);
    for (uint32_t i = 0; i < wish->defects; i++)
        put_defect(list + HEADER_BYTES + (size_t)each * i, form,
                   &wish->defect[i]);
    return HEADER_BYTES + length;
}

static enum slate_status send(struct slate_lowlevel *lowlevel, bool at_once)
{
    const struct slate_lowlevel_wish *wish = &lowlevel->wish;
    uint32_t interleave = wish->drive == NULL ? 0 : wish->drive->interleave;
    uint8_t how = (uint8_t)(SLATE_SCSI_FORMAT_DATA | form_of(wish->form));
    uint32_t length = slate_format_list(lowlevel, at_once, lowlevel->work);
    struct slate_exchange x;

    if (wish->forgets_grown)
        how |= SLATE_SCSI_FORMAT_COMPLETE;
    slate_scsi_format_drive(&x, how, (uint16_t)interleave, lowlevel->work,
                            length);
    x.seconds = at_once ? 0 : SLATE_LOWLEVEL_SECONDS;
    return slate_scsi_ask(lowlevel->media, &x);
}

/* Without list and header, for a device that takes none. */
static enum slate_status send_plainly(struct slate_lowlevel *lowlevel)
{
    const struct slate_drive *drive = lowlevel->wish.drive;
    struct slate_exchange x;

    slate_scsi_format_drive(
        &x, 0, (uint16_t)(drive == NULL ? 0 : drive->interleave), NULL, 0);
    x.seconds = SLATE_LOWLEVEL_SECONDS;
    return slate_scsi_ask(lowlevel->media, &x);
}

/* Protection information is left out: FMTPINFO is zero in all of them. */
enum slate_status slate_lowlevel_order_scsi(struct slate_lowlevel *lowlevel)
{
    const struct slate_lowlevel_wish *wish = &lowlevel->wish;
    enum slate_status status = send(lowlevel, true);

    if (status == SLATE_ERR_COMMAND)
        status = send(lowlevel, false);
    if (status == SLATE_ERR_COMMAND && wish->defects == 0 &&
        !wish->forgets_grown)
        status = send_plainly(lowlevel);
    return status;
}

/* Asks for the list in one form; the form that comes, and bytes of it. */
struct answer {
    uint8_t form;
    uint32_t header, length;
    uint32_t came; /* bytes of the list that did */
};

static enum slate_status ask(struct slate_media *media, bool twelve,
                             uint8_t what, uint8_t *work, uint16_t room,
                             struct answer *answer)
{
    struct slate_exchange x;
    enum slate_status status;

    memset(work, 0, 8);
    slate_scsi_read_defects(&x, twelve, what, work, room);
    status = slate_scsi_ask(media, &x);
    answer->header = twelve ? 8 : 4;
    SLATE_TRY(status);
    /* the lists that it really gives (SBC-3, 5.17.2) */
    if (x.transferred < answer->header || (work[1] & what & 0x18) == 0)
        return SLATE_ERR_COMMAND;
    answer->form = work[1] & 0x07;
    answer->length = twelve ? slate_be32(work + 4) : slate_be16(work + 2);
    answer->came = x.transferred - answer->header;
    if (answer->came > answer->length)
        answer->came = answer->length;
    return SLATE_OK;
}

static bool take_form(uint8_t number, enum slate_defect_form *form)
{
    if (number == FORM_SHORT_BLOCK)
        *form = SLATE_DEFECT_BLOCK;
    else if (number == FORM_INDEX)
        *form = SLATE_DEFECT_INDEX;
    else if (number == FORM_SECTOR)
        *form = SLATE_DEFECT_SECTOR;
    else
        return false;
    return true;
}

static void take_defect(const uint8_t *from, uint8_t form,
                        struct slate_defect *defect)
{
    *defect = (struct slate_defect){slate_be32(from), 0, 0};
    if (form == FORM_SHORT_BLOCK)
        return;
    defect->cylinder >>= 8;
    defect->head = from[3];
    defect->at = slate_be32(from + 4);
}

/* A device gives the list in its own form where it does not know the one that
 * is asked for. */
static enum slate_status ask_any(struct slate_media *media,
                                 enum slate_defect_list which, uint8_t *work,
                                 uint16_t room, struct answer *answer)
{
    static const uint8_t forms[] = {FORM_INDEX, FORM_SECTOR, FORM_SHORT_BLOCK};
    uint8_t list = which == SLATE_DEFECTS_PRIMARY ? 0x10 : 0x08;
    enum slate_status status = SLATE_ERR_COMMAND;

    for (int twelve = 0; twelve < 2; twelve++) {
        for (size_t i = 0; i < sizeof forms && status == SLATE_ERR_COMMAND; i++)
            status =
                ask(media, twelve == 1, list | forms[i], work, room, answer);
    }
    return status;
}

enum slate_status slate_defects_read(struct slate_media *media,
                                     enum slate_defect_list which,
                                     enum slate_defect_form *form,
                                     struct slate_defect *defect, uint32_t room,
                                     uint32_t *count, void *work)
{
    uint8_t *bytes = work;
    struct answer answer = {0};
    uint32_t each;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    if (room > 4096)
        return SLATE_ERR_ARGUMENT;
    SLATE_TRY(ask_any(media, which, bytes, (uint16_t)(8 + 8 * room), &answer));
    if (!take_form(answer.form, form))
        return SLATE_ERR_COMMAND;
    each = descriptor_bytes(answer.form);
    *count = answer.length / each;
    if (answer.came / each < room && answer.came / each < *count)
        *count = answer.came / each; /* it has said more than it gave */
    for (uint32_t i = 0; i < *count && i < room; i++)
        take_defect(bytes + answer.header + (size_t)each * i, answer.form,
                    &defect[i]);
    return SLATE_OK;
}

enum slate_status slate_reassign_block(struct slate_media *media,
                                       uint64_t block)
{
    uint8_t list[12] = {0};
    bool longer = block > UINT32_MAX;
    struct slate_exchange x;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    SLATE_TRY(slate_media_inside(media));
    list[3] = longer ? 8 : 4; /* bytes of addresses */
    if (longer)
        slate_put_be64(list + 4, block);
    else
        slate_put_be32(list + 4, (uint32_t)block);
    slate_scsi_reassign(&x, longer, list, longer ? 12 : 8);
    return slate_scsi_send(media, &x);
}
