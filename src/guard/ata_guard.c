/* SPDX-License-Identifier: MIT */
/* Guards of disks that speak ATA (ACS-3; the host protected area: ATA8-ACS). */

#include "guard/guard.h"
#include "media/ata/ata.h"

#define SET_MAX_EXT 0x37
#define SET_ACCESSIBLE_MAX 0x0001 /* feature of SLATE_ATA_ACCESSIBLE_MAX */
#define ERASE_SECONDS_MOST 172800u
#define CONFIGURATION 0xB1
#define CONFIGURATION_RESTORE 0xC0 /* features of CONFIGURATION */
#define CONFIGURATION_IDENTIFY 0xC2

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
static void note_security(const uint8_t *data, struct slate_guard_list *list)
{
    uint16_t security = slate_ata_word(data, 128);

    if ((security & SECURITY_LOCKED) != 0) {
        slate_guard_note(list, SLATE_GUARD_DISK_PASSWORD,
                         slate_ata_erase_minutes(data, false));
        if ((security & (SECURITY_FROZEN | SECURITY_EXPIRED)) != 0)
            list->guard[list->count - 1].lift = SLATE_LIFT_POWER_CYCLE;
    }
    if ((security & SECURITY_FROZEN) != 0)
        slate_guard_note(list, SLATE_GUARD_FROZEN, 0);
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

static bool has_sum(const uint8_t *data)
{
    uint8_t sum = 0;

    for (size_t i = 0; i < 512; i++)
        sum = (uint8_t)(sum + data[i]);
    return data[510] == 0xA5 && sum == 0;
}

/* DEVICE CONFIGURATION IDENTIFY: words 3 to 6 tell the highest block that can
 * be shown (ATA8-ACS, 7.9.3). Once frozen, a disk does not answer. */
static enum slate_status note_overlay(struct slate_media *media,
                                      const uint8_t *identity, uint64_t native,
                                      struct slate_guard_list *list)
{
    struct slate_ata_task task = {.operation = CONFIGURATION,
                                  .features = CONFIGURATION_IDENTIFY,
                                  .count = 1};
    uint8_t data[512] = {0};
    uint64_t most;
    enum slate_status status;

    if ((slate_ata_word(identity, 83) & 0x0800) == 0)
        return SLATE_OK;
    status = slate_ata_send(media, &task, SLATE_DIRECTION_IN, data, 512);
    most = slate_le64(data + 6);
    if (status == SLATE_OK && has_sum(data) && most >= native &&
        most >= slate_le64(identity + 200) && most < UINT64_C(1) << 48)
        slate_guard_note(list, SLATE_GUARD_OVERLAY,
                         native_blocks(media, identity, most + 1));
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

enum slate_status slate_guard_find_ata(struct slate_media *media,
                                       struct slate_guard_list *list)
{
    uint8_t *data = media->answer;
    uint64_t native;
    enum slate_status status = identify(media, data);

    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    status = slate_ata_read_native(media, data, &native);
    if (native > slate_le64(data + 200))
        slate_guard_note(list, SLATE_GUARD_HIDDEN_AREA,
                         native_blocks(media, data, native));
    if ((slate_ata_word(data, 82) & 0x0002) != 0)
        note_security(data, list);
    SLATE_THEN(status, note_overlay(
                           media, data,
                           native > 0 ? native : slate_le64(data + 200), list));
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

static enum slate_status restore_configuration(struct slate_media *media)
{
    struct slate_ata_task task = {.operation = CONFIGURATION,
                                  .features = CONFIGURATION_RESTORE};

    return slate_ata_send(media, &task, SLATE_DIRECTION_NONE, NULL, 0);
}

/* A disk that is only unlocked is locked again at the next power-on. */
static enum slate_status unlock(struct slate_media *media,
                                const struct slate_guard_order *order)
{
    enum slate_status status =
        slate_ata_send_password(media, SLATE_ATA_UNLOCK, 0, order->password, 0);

    return status == SLATE_OK && order->lasting
               ? slate_ata_send_password(media, SLATE_ATA_DISABLE_PASSWORD, 0,
                                         order->password, 0)
               : status;
}

/* Twice the time that the disk tells; it tells of no more than about 508
 * minutes, and large disks take longer. */
static uint32_t erase_seconds(const struct slate_guard *guard)
{
    return guard->value > 0 && guard->value < 508
               ? (uint32_t)guard->value * 120u
               : ERASE_SECONDS_MOST;
}

enum slate_status slate_guard_lift_ata(struct slate_media *media,
                                       const struct slate_guard_order *order)
{
    switch (order->guard->kind) {
    case SLATE_GUARD_HIDDEN_AREA:
        return show_all(media, order->lasting);
    case SLATE_GUARD_OVERLAY:
        return restore_configuration(media);
    case SLATE_GUARD_DISK_PASSWORD:
        return order->erase ? slate_ata_erase_unit(media, 0, order->password,
                                                   erase_seconds(order->guard))
                            : unlock(media, order);
    default:
        return SLATE_ERR_COMMAND;
    }
}
