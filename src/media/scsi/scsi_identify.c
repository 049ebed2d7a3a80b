/* SPDX-License-Identifier: MIT */
/* Who a SCSI device is, what it can do, how large it is. Every page is a
 * question that the device may refuse. */

#include "media/ata/ata.h"
#include "media/scsi/scsi.h"

#define TYPE_ZONED 0x14 /* peripheral device type (ZBC) */
#define PAGE_LIST 0x00
#define PAGE_SERIAL 0x80
#define PAGE_IDENTIFICATION 0x83
#define PAGE_ATA 0x89
#define PAGE_LIMITS 0xB0
#define PAGE_CHARACTERISTICS 0xB1
#define PAGE_PROVISIONING 0xB2

/* Asks for a VPD page; the length of what is valid of it, 0 for none. */
static uint32_t ask_page(struct slate_media *media, uint8_t page,
                         uint8_t data[252])
{
    struct slate_exchange x;
    uint32_t length;

    memset(data, 0, 252);
    slate_scsi_inquiry(&x, page, data, 252);
    if (slate_scsi_ask(media, &x) != SLATE_OK || x.transferred < 4 ||
        data[1] != page)
        return 0;
    length = slate_be16(data + 2) + 4u;
    return length < x.transferred ? length : x.transferred;
}

static void take_serial(struct slate_media *media)
{
    uint8_t data[252];
    uint32_t length = ask_page(media, PAGE_SERIAL, data);

    if (length > 4)
        slate_take_text(media->identity.serial, SLATE_SERIAL_ROOM, data + 4,
                        length - 4);
}

/* A binary name of the logical unit (SPC-4, 7.8.6) stands in for a serial
 * number that is missing. */
static void take_designator(struct slate_media *media)
{
    uint8_t data[252];
    uint32_t length = ask_page(media, PAGE_IDENTIFICATION, data), at = 4;

    while (at + 4 <= length) {
        const uint8_t *one = data + at;
        uint8_t type = one[1] & 0x0F;

        if (at + 4u + one[3] > length)
            return;
        if ((one[0] & 0x0F) == 1 && (one[1] & 0x30) == 0 &&
            (type == 2 || type == 3) && one[3] <= 16) {
            struct slate_text text;

            slate_text_start(&text, media->identity.serial, SLATE_SERIAL_ROOM);
            slate_text_bytes(&text, one + 4, one[3]);
            return;
        }
        at += 4u + one[3];
    }
}

/* SBC-3, 6.6.3; UNMAP only when a descriptor is allowed */
static void take_limits(struct slate_media *media, uint64_t *unmap_most)
{
    uint8_t data[252];
    uint32_t length = ask_page(media, PAGE_LIMITS, data);

    *unmap_most = 0;
    if (length < 16)
        return;
    if (slate_be32(data + 8) > 0)
        media->largest_transfer = slate_be32(data + 8);
    media->abilities.write_unit = slate_be32(data + 12); /* blocks, so far */
    if (length >= 28 && slate_be32(data + 24) > 0)
        *unmap_most = slate_be32(data + 20);
}

/* SBC-3, 6.6.4 and 6.6.5 */
static void take_abilities(struct slate_media *media, uint64_t unmap_most)
{
    struct slate_abilities *can = &media->abilities;
    uint8_t data[252];
    uint32_t length = ask_page(media, PAGE_CHARACTERISTICS, data);

    can->rotating = length >= 6 && slate_be16(data + 4) > 1;
    if (length >= 9 && (data[8] >> 4 & 3) == 1)
        can->zoned = SLATE_ZONED_AWARE;
    if (length >= 9 && (data[8] >> 4 & 3) == 2)
        can->zoned = SLATE_ZONED_BY_DEVICE;
    length = ask_page(media, PAGE_PROVISIONING, data);
    if (length < 8)
        return;
    can->discard = (data[5] & 0x80) != 0 && unmap_most > 0;
    can->zero = (data[5] & 0x40) != 0; /* WRITE SAME (16) */
    can->clear_most = unmap_most < UINT32_MAX ? unmap_most : UINT32_MAX;
}

/* Page numbers stand in the list behind its head. */
struct pages {
    uint8_t list[252];
    uint32_t length;
};

static bool has_page(const struct pages *pages, uint8_t page)
{
    for (uint32_t i = 4; i < pages->length; i++) {
        if (pages->list[i] == page)
            return true;
    }
    return false;
}

static void ask_pages(struct slate_media *media)
{
    struct pages pages;
    uint64_t unmap_most = 0;

    pages.length = ask_page(media, PAGE_LIST, pages.list);
    if (pages.length == 0) { /* many sticks: only this page is worth a try */
        take_serial(media);
        return;
    }
    if (has_page(&pages, PAGE_SERIAL))
        take_serial(media);
    if (media->identity.serial[0] == '\0' &&
        has_page(&pages, PAGE_IDENTIFICATION))
        take_designator(media);
    if (has_page(&pages, PAGE_LIMITS))
        take_limits(media, &unmap_most);
    if (has_page(&pages, PAGE_CHARACTERISTICS) ||
        has_page(&pages, PAGE_PROVISIONING))
        take_abilities(media, unmap_most);
    if (has_page(&pages, PAGE_ATA))
        slate_ata_ask_through_scsi(media);
}

/* How many units stand in the same body (SPC-4, 6.33). */
static void count_units(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t data[136] = {0};
    uint32_t length;

    slate_scsi_report_luns(&x, data, sizeof data);
    if (slate_scsi_ask(media, &x) != SLATE_OK || x.transferred < 8)
        return;
    length = slate_be32(data);
    if (length >= 8 && length <= 128 && length % 8 == 0)
        media->units = length / 8;
}

enum slate_status slate_scsi_identify(struct slate_media *media)
{
    struct slate_identity *identity = &media->identity;
    struct slate_exchange x;
    uint8_t data[36] = {0};

    slate_scsi_inquiry(&x, -1, data, sizeof data);
    SLATE_TRY(slate_scsi_send(media, &x));
    if (x.transferred < sizeof data)
        return SLATE_ERR_COMMAND;
    media->removable = (data[1] & 0x80) != 0;
    if ((data[0] & 0x1F) == TYPE_ZONED)
        media->abilities.zoned = SLATE_ZONED_BY_HOST;
    slate_take_text(identity->maker, SLATE_MAKER_ROOM, data + 8, 8);
    slate_take_text(identity->model, SLATE_MODEL_ROOM, data + 16, 16);
    slate_take_text(identity->revision, SLATE_REVISION_ROOM, data + 32, 4);
    ask_pages(media);
    count_units(media);
    return SLATE_OK;
}

/* SBC-3, 5.16.2 */
static void take_capacity_16(struct slate_media *media, const uint8_t *data,
                             uint32_t length)
{
    media->geometry.block_count = slate_be64(data) + 1;
    media->geometry.block_bytes = slate_be32(data + 8);
    if (length >= 14 && media->geometry.block_bytes <= SLATE_BLOCK_MAX)
        media->geometry.physical_bytes = media->geometry.block_bytes
                                         << (data[13] & 0x07);
    if (length >= 16)
        media->abilities.aligned_block = slate_be16(data + 14) & 0x3FFF;
    media->abilities.protection = length >= 13 && (data[12] & 0x01) != 0;
}

static enum slate_status measure_16(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t data[32] = {0};

    slate_scsi_read_capacity_16(&x, data);
    SLATE_TRY(slate_scsi_ask(media, &x));
    if (x.transferred < 12 || slate_be64(data) == UINT64_MAX)
        return SLATE_ERR_GEOMETRY;
    take_capacity_16(media, data, x.transferred);
    return SLATE_OK;
}

/* What the long form tells beyond the capacity; when the two do not agree on
 * that, the short one is believed. */
static enum slate_status measure_more(struct slate_media *media)
{
    struct slate_geometry shorter = media->geometry;
    enum slate_status status = measure_16(media);

    if (media->geometry.block_count != shorter.block_count ||
        media->geometry.block_bytes != shorter.block_bytes) {
        media->geometry = shorter;
        media->abilities.protection = false;
    }
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

/* The short form first: every device knows it. The long form is needed beyond
 * 2^32 blocks, and tells more about disks. */
static enum slate_status measure_capacity(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t data[8] = {0};

    slate_scsi_read_capacity_10(&x, data);
    SLATE_TRY(slate_scsi_send(media, &x));
    if (x.transferred < 8)
        return SLATE_ERR_GEOMETRY;
    media->geometry.block_count = (uint64_t)slate_be32(data) + 1;
    media->geometry.block_bytes = slate_be32(data + 4);
    if (slate_be32(data) == UINT32_MAX)
        return measure_16(media);
    return media->removable ? SLATE_OK : measure_more(media);
}

bool slate_scsi_says_protected(struct slate_media *media)
{
    struct slate_exchange x;
    uint8_t data[8] = {0};

    slate_scsi_mode_sense_6(&x, 0x3F, data, 4);
    if (slate_scsi_ask(media, &x) == SLATE_OK && x.transferred >= 3)
        return (data[2] & 0x80) != 0;
    slate_scsi_mode_sense_10(&x, 0x3F, data, 8);
    return slate_scsi_ask(media, &x) == SLATE_OK && x.transferred >= 4 &&
           (data[3] & 0x80) != 0;
}

/* A device that erases itself, or failed to, may tell its capacity. */
static bool is_erasing(const struct slate_fault *fault)
{
    const struct slate_scsi_sense sense = {fault->sense_key, fault->asc,
                                           fault->ascq};

    return fault->has_sense &&
           (slate_scsi_is_erasing(&sense) || slate_scsi_is_unformatted(&sense));
}

enum slate_status slate_scsi_measure(struct slate_media *media)
{
    const struct slate_fault before = media->fault;
    struct slate_exchange x;
    enum slate_status status;

    slate_scsi_test_unit_ready(&x);
    status = slate_scsi_send(media, &x);
    if (status == SLATE_ERR_COMMAND && is_erasing(&media->fault)) {
        media->fault = before; /* a guard tells of it */
        status = SLATE_OK;
    }
    SLATE_THEN(status, measure_capacity(media));
    if (status == SLATE_OK)
        media->read_only = slate_scsi_says_protected(media);
    media->abilities.write_unit *= media->geometry.block_bytes;
    return status;
}
