/* SPDX-License-Identifier: MIT */
/* Tables that are read but never composed: Apple partition map, BSD, Sun and
 * SGI labels. docs/tables.md names where each is described. */

#include "base/base.h"
#include "table/table.h"

#define UNIT 512u /* all four count in sectors of this size */

/* Takes a partition given in sectors of UNIT bytes. */
static struct slate_partition *take(const struct slate_media *media,
                                    struct slate_layout *layout, uint64_t first,
                                    uint64_t count, uint32_t number)
{
    uint32_t per_block = media->geometry.block_bytes / UNIT;

    if (count == 0)
        return NULL;
    return slate_layout_take(layout, first / per_block,
                             (count + per_block - 1) / per_block, number);
}

static void take_name(struct slate_partition *partition, const uint8_t *field,
                      size_t room)
{
    for (size_t i = 0; i < room && field[i] != 0; i++)
        partition->name[i] =
            (char)(field[i] >= 0x20 && field[i] < 0x7F ? field[i] : '?');
}

/* The 512 bytes at this byte of the device; NULL when they are not there. */
static const uint8_t *read_unit(struct slate_media *media, uint64_t byte,
                                uint8_t *work, enum slate_status *status)
{
    uint32_t block = media->geometry.block_bytes;

    if (byte / block >= media->geometry.block_count)
        return NULL;
    *status = slate_media_read(media, byte / block, 1, work);
    return *status == SLATE_OK ? work + byte % block : NULL;
}

#define APPLE_ENTRIES 62u

/* The map describes itself and what is free as well: neither holds a volume. */
static bool is_apple_partition(const uint8_t *entry)
{
    return memcmp(entry + 48, "Apple_Free", 11) != 0 &&
           memcmp(entry + 48, "Apple_partition_map", 20) != 0;
}

/* Each entry tells how many there are. */
static enum slate_status read_apple(struct slate_media *media, uint8_t *work,
                                    struct slate_layout *layout)
{
    uint32_t unit = slate_be16(work + 2), count = 1;
    enum slate_status status = SLATE_OK;

    if (unit != 512 && unit != 1024 && unit != 2048 && unit != 4096)
        unit = UNIT;
    for (uint32_t i = 1; i <= count && i <= APPLE_ENTRIES; i++) {
        const uint8_t *entry =
            read_unit(media, (uint64_t)i * unit, work, &status);
        struct slate_partition *partition;

        if (entry == NULL || memcmp(entry, "PM", 2) != 0)
            break;
        layout->kind = SLATE_TABLE_APPLE;
        count = slate_be32(entry + 4);
        if (!is_apple_partition(entry))
            continue;
        partition =
            take(media, layout, (uint64_t)slate_be32(entry + 8) * (unit / UNIT),
                 (uint64_t)slate_be32(entry + 12) * (unit / UNIT), i);
        if (partition != NULL)
            take_name(partition, entry + 16, 32);
    }
    return status;
}

#define BSD_MAGIC 0x82564557u
#define BSD_ENTRIES 16u

static void read_bsd(const struct slate_media *media, const uint8_t *label,
                     struct slate_layout *layout)
{
    uint32_t count = slate_le16(label + 138);

    layout->kind = SLATE_TABLE_BSD;
    for (uint32_t i = 0; i < count && i < BSD_ENTRIES; i++) {
        const uint8_t *entry = label + 148 + (size_t)i * 16;
        struct slate_partition *partition;

        if (entry[12] == 0) /* unused, or the whole disk */
            continue;
        partition = take(media, layout, slate_le32(entry + 4),
                         slate_le32(entry), i + 1);
        if (partition != NULL)
            partition->mbr_type = entry[12];
    }
}

#define WHOLE_DISK 5u /* Sun's tag of the partition over everything */

static uint16_t sun_sum(const uint8_t *label)
{
    uint16_t sum = 0;

    for (uint32_t at = 0; at < UNIT; at += 2)
        sum = (uint16_t)(sum ^ slate_be16(label + at));
    return sum;
}

static void read_sun(const struct slate_media *media, const uint8_t *label,
                     struct slate_layout *layout)
{
    uint64_t cylinder =
        (uint64_t)slate_be16(label + 436) * slate_be16(label + 438);

    layout->kind = SLATE_TABLE_SUN;
    for (uint32_t i = 0; i < 8; i++) {
        const uint8_t *entry = label + 444 + (size_t)i * 8;

        if (slate_be16(label + 142 + (size_t)i * 4) != WHOLE_DISK)
            (void)take(media, layout, slate_be32(entry) * cylinder,
                       slate_be32(entry + 4), i + 1);
    }
}

#define SGI_MAGIC 0x0BE5A941u

static uint32_t sgi_sum(const uint8_t *label)
{
    uint32_t sum = 0;

    for (uint32_t at = 0; at < UNIT; at += 4)
        sum += slate_be32(label + at);
    return sum;
}

/* Types 0 and 6 are the volume header itself and the whole volume. */
static void read_sgi(const struct slate_media *media, const uint8_t *label,
                     struct slate_layout *layout)
{
    layout->kind = SLATE_TABLE_SGI;
    for (uint32_t i = 0; i < 16; i++) {
        const uint8_t *entry = label + 312 + (size_t)i * 12;
        uint32_t type = slate_be32(entry + 8);

        if (type != 0 && type != 6)
            (void)take(media, layout, slate_be32(entry + 4), slate_be32(entry),
                       i + 1);
    }
}

enum slate_status slate_other_read(struct slate_media *media, uint8_t *work,
                                   struct slate_layout *layout)
{
    enum slate_status status = SLATE_OK;
    const uint8_t *label;

    if (memcmp(work, "ER", 2) == 0)
        return read_apple(media, work, layout);
    if (slate_be16(work + 508) == 0xDABE && sun_sum(work) == 0) {
        read_sun(media, work, layout);
        return SLATE_OK;
    }
    if (slate_be32(work) == SGI_MAGIC && sgi_sum(work) == 0) {
        read_sgi(media, work, layout);
        return SLATE_OK;
    }
    label = read_unit(media, UNIT, work, &status);
    if (label != NULL && slate_le32(label) == BSD_MAGIC &&
        slate_le32(label + 132) == BSD_MAGIC)
        read_bsd(media, label, layout);
    return status;
}
