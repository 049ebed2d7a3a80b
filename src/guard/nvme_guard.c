/* SPDX-License-Identifier: MIT */
/* Guards of NVMe drives (NVM Express base specification 1.4, 5.14, 5.21, 8.19).
 */
#include <string.h>

#include "base/bytes.h"
#include "guard/guard.h"
#include "media/speech.h"

#define GET_LOG_PAGE 0x02
#define SET_FEATURES 0x09
#define GET_FEATURES 0x0A
#define FEATURE_PROTECTION 0x84u
#define LOG_HEALTH 0x02u
#define WARNING_READ_ONLY 0x08

static enum slate_status feature(struct slate_media *media, uint8_t operation,
                                 uint32_t value, uint32_t *result)
{
    struct slate_exchange x;
    enum slate_status status;

    memset(&x, 0, sizeof x);
    x.admin = true;
    x.command_length = 64;
    x.command[0] = operation;
    slate_put_le32(x.command + 4, media->address);
    slate_put_le32(x.command + 40, FEATURE_PROTECTION);
    slate_put_le32(x.command + 44, value);
    status = slate_media_exchange(media, &x);
    if (status == SLATE_OK && x.state != 0)
        return SLATE_ERR_COMMAND;
    *result = slate_le32(x.answer);
    return status;
}

/* Bit 3 of the first byte of the health log (figure 194). */
static bool is_worn_out(struct slate_media *media)
{
    uint8_t data[512] = {0};
    struct slate_exchange x;

    memset(&x, 0, sizeof x);
    x.admin = true;
    x.command_length = 64;
    x.command[0] = GET_LOG_PAGE;
    slate_put_le32(x.command + 4, UINT32_MAX); /* the whole drive */
    slate_put_le32(x.command + 40, LOG_HEALTH | (sizeof data / 4 - 1) << 16);
    x.direction = SLATE_DIRECTION_IN;
    x.data = data;
    x.data_length = sizeof data;
    return slate_media_exchange(media, &x) == SLATE_OK && x.state == 0 &&
           (data[0] & WARNING_READ_ONLY) != 0;
}

enum slate_status slate_guard_find_nvme(struct slate_media *media,
                                        struct slate_guard_list *list)
{
    uint32_t state = 0;
    enum slate_status status = feature(media, GET_FEATURES, 0, &state);

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (status == SLATE_OK && (state & 7) == 1)
        slate_guard_note(list, SLATE_GUARD_NAMESPACE, SLATE_LIFT_NOW, 0);
    if (status == SLATE_OK && (state & 7) == 2)
        slate_guard_note(list, SLATE_GUARD_UNTIL_POWER, SLATE_LIFT_POWER_CYCLE,
                         0);
    if (status == SLATE_OK && (state & 7) == 3)
        slate_guard_note(list, SLATE_GUARD_FOR_EVER, SLATE_LIFT_NEVER, 0);
    if (is_worn_out(media))
        slate_guard_note(list, SLATE_GUARD_WORN_OUT, SLATE_LIFT_NEVER, 0);
    return SLATE_OK;
}

enum slate_status slate_guard_lift_nvme(struct slate_media *media,
                                        const struct slate_guard_order *order)
{
    uint32_t ignored;

    return order->guard->kind == SLATE_GUARD_NAMESPACE
               ? feature(media, SET_FEATURES, 0, &ignored)
               : SLATE_ERR_COMMAND;
}
