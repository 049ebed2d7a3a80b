/* SPDX-License-Identifier: MIT */
/* Guards of disks that speak ATA (ACS-3; the host protected area: ATA8-ACS). */
#include <string.h>

#include "base/bytes.h"
#include "guard/guard.h"
#include "media/ata.h"

#define SET_MAX_EXT 0x37
#define SET_ACCESSIBLE_MAX 0x0001 /* feature of SLATE_ATA_ACCESSIBLE_MAX */
#define SECURITY_UNLOCK 0xF2

/* Word 128 (ACS-3, 7.12.7.68). */
#define SECURITY_LOCKED 0x0004
#define SECURITY_FROZEN 0x0008
#define SECURITY_EXPIRED 0x0010

static enum slate_status identify(struct slate_media *media, uint8_t data[512])
{
    struct slate_ata_task task = {.operation = SLATE_ATA_IDENTIFY, .count = 1};

    memset(data, 0, 512);
    return slate_ata_send(media, &task, SLATE_DIRECTION_IN, data, 512);
}

/* While security is frozen, or too many wrong passwords were tried, only
 * another power-on helps. */
static void note_security(uint16_t security, struct slate_guard_list *list)
{
    bool stuck = (security & (SECURITY_FROZEN | SECURITY_EXPIRED)) != 0;

    if ((security & SECURITY_LOCKED) != 0)
        slate_guard_note(list, SLATE_GUARD_DISK_PASSWORD,
                         stuck ? SLATE_LIFT_POWER_CYCLE : SLATE_LIFT_PASSWORD,
                         0);
    if ((security & SECURITY_FROZEN) != 0)
        slate_guard_note(list, SLATE_GUARD_FROZEN, SLATE_LIFT_POWER_CYCLE, 0);
}

/* The native size in blocks as the device shows them: a dock may count in
 * others than the disk. */
static uint64_t native_blocks(const struct slate_media *media,
                              const uint8_t *data, uint64_t native)
{
    uint64_t hidden = native - slate_le64(data + 200);
    uint32_t own = slate_ata_block_bytes(data),
             shown = media->geometry.block_bytes;

    if (own < 512) /* no sense in it: then the dock's count is as good */
        own = shown;
    return media->geometry.block_count +
           (own >= shown ? hidden * (own / shown) : hidden / (shown / own));
}

enum slate_status slate_guard_find_ata(struct slate_media *media,
                                       struct slate_guard_list *list)
{
    uint8_t data[512];
    uint64_t native;
    enum slate_status status = identify(media, data);

    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    status = slate_ata_read_native(media, data, &native);
    if (native > slate_le64(data + 200))
        slate_guard_note(list, SLATE_GUARD_HIDDEN_AREA, SLATE_LIFT_NOW,
                         native_blocks(media, data, native));
    if ((slate_ata_word(data, 82) & 0x0002) != 0)
        note_security(slate_ata_word(data, 128), list);
    return status;
}

static enum slate_status show_all(struct slate_media *media, bool lasting)
{
    struct slate_ata_task task = {.lba_mode = true};
    uint8_t data[512];
    uint64_t native = 0;
    enum slate_status status = identify(media, data);

    if (status == SLATE_OK) /* has to come right ahead of setting it */
        status = slate_ata_read_native(media, data, &native);
    if (status != SLATE_OK || native == 0)
        return status == SLATE_OK ? SLATE_ERR_COMMAND : status;
    if (slate_ata_has_accessible_max(data)) { /* always survives power-off */
        task.operation = SLATE_ATA_ACCESSIBLE_MAX;
        task.features = SET_ACCESSIBLE_MAX;
    } else {
        task.operation = SET_MAX_EXT;
        task.count = lasting ? 1 : 0;
    }
    task.lba = native - 1;
    return slate_ata_send(media, &task, SLATE_DIRECTION_NONE, NULL, 0);
}

/* Word 0 tells that it is the user's password; words 1 to 16 hold it. */
static enum slate_status unlock(struct slate_media *media, const char *password)
{
    struct slate_ata_task task = {.operation = SECURITY_UNLOCK, .count = 1};
    uint8_t data[512] = {0};

    memcpy(data + 2, password, strlen(password));
    return slate_ata_send(media, &task, SLATE_DIRECTION_OUT, data, sizeof data);
}

enum slate_status slate_guard_lift_ata(struct slate_media *media,
                                       const struct slate_guard_order *order)
{
    switch (order->guard->kind) {
    case SLATE_GUARD_HIDDEN_AREA:
        return show_all(media, order->lasting);
    case SLATE_GUARD_DISK_PASSWORD:
        return unlock(media, order->password);
    default:
        return SLATE_ERR_COMMAND;
    }
}
