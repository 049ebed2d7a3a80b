/* SPDX-License-Identifier: MIT */
/* Mode pages of SCSI devices: read, and changed bit by bit (SPC-4, 6.11 to
 * 6.14, 7.5). Devices know the short form, the long form, or both. */

#include "base/base.h"
#include "media/scsi/scsi.h"

/* Header, block descriptors that come in spite of DBD, and one page. */
#define LIST_BYTES 252u

struct mode_list {
    uint8_t bytes[LIST_BYTES];
    uint32_t length;  /* bytes that are valid */
    uint32_t page_at; /* where the page begins */
    bool ten;
};

static bool find_page(struct mode_list *list, uint8_t page)
{
    uint32_t header = list->ten ? 8 : 4;
    uint32_t descriptors =
        list->ten ? slate_be16(list->bytes + 6) : list->bytes[3];

    list->page_at = header + descriptors;
    return list->length >= header && list->page_at + 2 <= list->length &&
           (list->bytes[list->page_at] & 0x3F) == page &&
           list->page_at + 2u + list->bytes[list->page_at + 1] <= list->length;
}

static void sense(struct slate_exchange *x, uint8_t what, bool blocks,
                  struct mode_list *list)
{
    if (blocks)
        slate_scsi_mode_sense_blocks(x, list->ten, what, list->bytes,
                                     LIST_BYTES);
    else if (list->ten)
        slate_scsi_mode_sense_10(x, what, list->bytes, LIST_BYTES);
    else
        slate_scsi_mode_sense_6(x, what, list->bytes, LIST_BYTES);
}

/* what: the page, and which of its values. */
static enum slate_status read_list(struct slate_media *media, uint8_t what,
                                   bool blocks, struct mode_list *list)
{
    enum slate_status status = SLATE_ERR_COMMAND;

    for (int ten = 0; ten < 2 && status == SLATE_ERR_COMMAND; ten++) {
        struct slate_exchange x;

        memset(list, 0, sizeof *list);
        list->ten = ten == 1;
        sense(&x, what, blocks, list);
        status = slate_scsi_ask(media, &x);
        list->length = x.transferred < LIST_BYTES ? x.transferred : LIST_BYTES;
        if (status == SLATE_OK && !find_page(list, what & 0x3F))
            status = SLATE_ERR_COMMAND;
    }
    return status;
}

enum slate_status slate_mode_read(struct slate_media *media, uint8_t page,
                                  uint8_t *data, uint8_t *length)
{
    struct mode_list list;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    SLATE_TRY(read_list(media, page, false, &list));
    *length = (uint8_t)(2 + list.bytes[list.page_at + 1]);
    memcpy(data, list.bytes + list.page_at, *length);
    return SLATE_OK;
}

/* What was read goes back, without the fields that are reserved on the way to
 * the device: the data length, and the bit that says "can be saved". */
enum slate_status slate_mode_change(struct slate_media *media, uint8_t page,
                                    uint8_t offset, uint8_t mask, uint8_t value,
                                    bool save)
{
    struct mode_list list;
    struct slate_exchange x;
    uint8_t *field, length;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    SLATE_TRY(slate_media_inside(media));
    SLATE_TRY(read_list(media, page, false, &list));
    if (offset < 2 || offset >= 2 + list.bytes[list.page_at + 1])
        return SLATE_ERR_ARGUMENT;
    length = (uint8_t)(list.page_at + 2 + list.bytes[list.page_at + 1]);
    memset(list.bytes, 0, list.ten ? 2 : 1);
    list.bytes[list.page_at] &= 0x3F;
    field = list.bytes + list.page_at + offset;
    *field = (uint8_t)((*field & ~mask) | (value & mask));
    slate_scsi_mode_select(&x, list.ten, save, list.bytes, length);
    return slate_scsi_send(media, &x);
}

#define DESCRIPTOR_BYTES 8u

static void take_blocks(const struct mode_list *list,
                        struct slate_mode_blocks *blocks)
{
    uint32_t header = list->ten ? 8 : 4;
    const uint8_t *descriptor = list->bytes + header;

    *blocks = (struct slate_mode_blocks){0};
    if (list->page_at - header < DESCRIPTOR_BYTES)
        return;
    blocks->known = true;
    blocks->count = slate_be32(descriptor) & 0xFFFFFF;
    blocks->bytes = slate_be32(descriptor + 4) & 0xFFFFFF;
}

enum slate_status slate_mode_look(struct slate_media *media, uint8_t page,
                                  enum slate_mode_values values, uint8_t *data,
                                  uint8_t *length,
                                  struct slate_mode_blocks *blocks)
{
    struct mode_list list;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    SLATE_TRY(read_list(media, (uint8_t)(page | values), true, &list));
    *length = (uint8_t)(2 + list.bytes[list.page_at + 1]);
    memcpy(data, list.bytes + list.page_at, *length);
    if (blocks != NULL)
        take_blocks(&list, blocks);
    return SLATE_OK;
}

/* The header, the descriptor and the page, in the short form or the long one;
 * its length. */
static uint8_t compose_list(uint8_t *list, bool ten, const uint8_t *data,
                            uint8_t length,
                            const struct slate_mode_blocks *blocks)
{
    uint8_t at = ten ? 8 : 4;

    memset(list, 0, LIST_BYTES);
    if (blocks != NULL) {
        list[ten ? 7 : 3] = DESCRIPTOR_BYTES;
        slate_put_be32(list + at, blocks->count & 0xFFFFFF);
        slate_put_be32(list + at + 4, blocks->bytes & 0xFFFFFF);
        at = (uint8_t)(at + DESCRIPTOR_BYTES);
    }
    if (length > 0) {
        memcpy(list + at, data, length);
        list[at] &= 0x3F; /* "can be saved" is reserved on the way there */
    }
    return (uint8_t)(at + length);
}

enum slate_status slate_mode_set(struct slate_media *media, const uint8_t *data,
                                 uint8_t length,
                                 const struct slate_mode_blocks *blocks)
{
    bool save = length > 0 && (data[0] & 0x80) != 0;
    enum slate_status status = SLATE_ERR_COMMAND;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    if (length > LIST_BYTES - 8 - DESCRIPTOR_BYTES)
        return SLATE_ERR_ARGUMENT;
    for (int ten = 0; ten < 2 && status == SLATE_ERR_COMMAND; ten++) {
        uint8_t list[LIST_BYTES];
        struct slate_exchange x;

        slate_scsi_mode_select(
            &x, ten == 1, save, list,
            compose_list(list, ten == 1, data, length, blocks));
        status = slate_scsi_ask(media, &x);
        if (status == SLATE_ERR_COMMAND && slate_scsi_is_recovered(&x))
            status = SLATE_OK; /* taken, with something rounded */
    }
    return status;
}
