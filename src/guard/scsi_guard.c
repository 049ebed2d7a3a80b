/* SPDX-License-Identifier: MIT */
/* Guards of devices that speak SCSI (SPC-4, SBC-3). */
#include "base/base.h"
#include "guard/guard.h"
#include "media/scsi/scsi.h"

#define PAGE_CONTROL 0x0A
#define SWP_BYTE 4
#define SWP_BIT 0x08
#define READ_RESERVATION 0x01
#define CLEAR 0x03
#define REGISTER_ANYWAY 0x06 /* register and ignore existing key */
#define OUR_KEY 0x54525545u

static bool has_software_protect(struct slate_media *media)
{
    uint8_t page[SLATE_MODE_PAGE_ROOM], length = 0;

    return slate_mode_read(media, PAGE_CONTROL, page, &length) == SLATE_OK &&
           length > SWP_BYTE && (page[SWP_BYTE] & SWP_BIT) != 0;
}

/* SPC-4, 6.15.3 */
static bool find_reservation(struct slate_media *media, uint64_t *key)
{
    uint8_t data[24] = {0};
    struct slate_exchange x;

    slate_scsi_reserve_in(&x, READ_RESERVATION, data, sizeof data);
    if (slate_scsi_ask(media, &x) != SLATE_OK || x.transferred < 16 ||
        slate_be32(data + 4) < 16)
        return false;
    *key = slate_be64(data + 8);
    return true;
}

/* Sticks and cheap docks know no reservations, and some of them fall over when
 * they are asked for what they do not know. */
static bool may_know_reservations(const struct slate_media *media)
{
    return !media->removable &&
           media->identity.transport != SLATE_TRANSPORT_USB;
}

enum slate_status slate_guard_find_scsi(struct slate_media *media,
                                        struct slate_guard_list *list)
{
    struct slate_exchange x;
    uint64_t key;

    slate_scsi_test_unit_ready(&x);
    if (slate_scsi_ask(media, &x) == SLATE_ERR_NO_DEVICE)
        return SLATE_ERR_NO_DEVICE;
    /* first, as who is not registered cannot change the mode either */
    if (may_know_reservations(media) && find_reservation(media, &key))
        slate_guard_note(list, SLATE_GUARD_RESERVATION, key);
    if (slate_scsi_says_protected(
            media)) { /* by its page, or by something else */
        if (has_software_protect(media))
            slate_guard_note(list, SLATE_GUARD_SOFTWARE, 0);
        else
            slate_guard_note(list, SLATE_GUARD_SWITCH, 0);
    }
    return media->abilities.passes_ata ? slate_guard_find_ata(media, list)
                                       : SLATE_OK;
}

/* SPC-4, 6.16: our key is registered first; clearing takes all keys away. */
static enum slate_status reserve_out(struct slate_media *media, uint8_t action)
{
    uint8_t list[24] = {0};
    struct slate_exchange x;

    slate_put_be64(list + (action == REGISTER_ANYWAY ? 8 : 0), OUR_KEY);
    slate_scsi_reserve_out(&x, action, list);
    return slate_scsi_send(media, &x);
}

enum slate_status slate_guard_lift_scsi(struct slate_media *media,
                                        const struct slate_guard_order *order)
{
    enum slate_status status;

    switch (order->guard->kind) {
    case SLATE_GUARD_SOFTWARE:
        return slate_mode_change(media, PAGE_CONTROL, SWP_BYTE, SWP_BIT, 0,
                                 order->lasting);
    case SLATE_GUARD_RESERVATION:
        status = reserve_out(media, REGISTER_ANYWAY);
        return status == SLATE_OK ? reserve_out(media, CLEAR) : status;
    default: /* of the disk behind a dock */
        return media->abilities.passes_ata ? slate_guard_lift_ata(media, order)
                                           : SLATE_ERR_COMMAND;
    }
}
