/* SPDX-License-Identifier: MIT */
/* Mode pages of SCSI devices: read, and changed bit by bit (SPC-4, 6.11 to
 * 6.14, 7.5). Devices know the short form, the long form, or both. */
#include <string.h>

#include "base/bytes.h"
#include "media/scsi.h"
#include "trueslate/mode.h"

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

static enum slate_status read_list(struct slate_media *media, uint8_t page,
                                   struct mode_list *list)
{
    enum slate_status status = SLATE_ERR_COMMAND;

    for (int ten = 0; ten < 2 && status == SLATE_ERR_COMMAND; ten++) {
        struct slate_exchange x;

        memset(list, 0, sizeof *list);
        list->ten = ten == 1;
        if (list->ten)
            slate_scsi_mode_sense_10(&x, page, list->bytes, LIST_BYTES);
        else
            slate_scsi_mode_sense_6(&x, page, list->bytes, LIST_BYTES);
        status = slate_scsi_ask(media, &x);
        list->length = x.transferred < LIST_BYTES ? x.transferred : LIST_BYTES;
        if (status == SLATE_OK && !find_page(list, page))
            status = SLATE_ERR_COMMAND;
    }
    return status;
}

enum slate_status slate_mode_read(struct slate_media *media, uint8_t page,
                                  uint8_t *data, uint8_t *length)
{
    struct mode_list list;
    enum slate_status status;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    status = read_list(media, page, &list);
    if (status != SLATE_OK)
        return status;
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
    enum slate_status status;

    if (media->speech->commands != SLATE_COMMANDS_SCSI)
        return SLATE_ERR_COMMAND;
    status = read_list(media, page, &list);
    if (status != SLATE_OK)
        return status;
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
