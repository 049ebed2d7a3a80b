/* SPDX-License-Identifier: MIT */
/* Guards of NVMe drives (NVM Express base specification 1.4, 5.14, 5.21, 8.19).
 */
#include "guard/guard.h"
#include "media/nvme/nvme.h"

#define FEATURE_PROTECTION 0x84u
#define LOG_HEALTH 0x02u
#define LOG_BYTES 512u
#define WHOLE_DRIVE UINT32_MAX
#define WARNING_READ_ONLY 0x08

static enum slate_status feature(struct slate_media *media,
                                 enum slate_nvme_admin operation,
                                 uint32_t value, uint32_t *result)
{
    const uint32_t words[2] = {FEATURE_PROTECTION, value};

    return slate_nvme_admin(media, operation, media->address, words, NULL, 0,
                            result);
}

/* Bit 3 of the first byte of the health log (figure 194). */
static bool is_worn_out(struct slate_media *media)
{
    const uint32_t words[2] = {LOG_HEALTH | (LOG_BYTES / 4 - 1) << 16, 0};
    uint8_t data[LOG_BYTES] = {0};

    return slate_nvme_admin(media, SLATE_NVME_GET_LOG_PAGE, WHOLE_DRIVE, words,
                            data, LOG_BYTES, NULL) == SLATE_OK &&
           (data[0] & WARNING_READ_ONLY) != 0;
}

enum slate_status slate_guard_find_nvme(struct slate_media *media,
                                        struct slate_guard_list *list)
{
    uint32_t state = 0;
    enum slate_status status =
        feature(media, SLATE_NVME_GET_FEATURES, 0, &state);

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (status == SLATE_OK && (state & 7) == 1)
        slate_guard_note(list, SLATE_GUARD_NAMESPACE, 0);
    if (status == SLATE_OK && (state & 7) == 2)
        slate_guard_note(list, SLATE_GUARD_UNTIL_POWER, 0);
    if (status == SLATE_OK && (state & 7) == 3)
        slate_guard_note(list, SLATE_GUARD_FOR_EVER, 0);
    if (media->abilities.native_blocks > media->geometry.block_count)
        slate_guard_note(list, SLATE_GUARD_SMALL_NAMESPACE,
                         media->abilities.native_blocks);
    if (is_worn_out(media))
        slate_guard_note(list, SLATE_GUARD_WORN_OUT, 0);
    return SLATE_OK;
}

enum slate_status slate_guard_lift_nvme(struct slate_media *media,
                                        const struct slate_guard_order *order)
{
    return order->guard->kind == SLATE_GUARD_NAMESPACE
               ? feature(media, SLATE_NVME_SET_FEATURES, 0, NULL)
               : SLATE_ERR_COMMAND;
}
