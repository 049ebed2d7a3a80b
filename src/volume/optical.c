/* SPDX-License-Identifier: MIT */
/* Recognising an optical-disc image (ECMA-119, 8). */
#include <string.h>

#include "base/bytes.h"
#include "volume/fat.h"

#define SECTOR_BYTES 2048u
#define FIRST_DESCRIPTOR 16u
#define MOST_DESCRIPTORS 8u

enum {
    TYPE_BOOT = 0,
    TYPE_PRIMARY = 1,
    TYPE_END = 255
};

/* Reads the start of an optical sector; false when it lies outside. */
static bool read_sector(struct slate_media *media,
                        const struct slate_range *range, uint32_t sector,
                        uint8_t *work, const uint8_t **descriptor,
                        enum slate_status *status)
{
    uint32_t block_bytes = media->geometry.block_bytes;
    uint64_t byte = (uint64_t)sector * SECTOR_BYTES;
    uint64_t lba = byte / block_bytes;

    if (lba >= range->count ||
        range->first + lba >= media->geometry.block_count)
        return false;
    *status = slate_media_read(media, range->first + lba, 1, work);
    *descriptor = work + byte % block_bytes;
    return *status == SLATE_OK;
}

static void take_primary(const uint8_t *descriptor, struct slate_volume *volume)
{
    size_t used = 32;

    volume->kind = SLATE_VOLUME_OPTICAL;
    volume->block_bytes = SECTOR_BYTES;
    volume->bytes = (uint64_t)slate_le32(descriptor + 80) * SECTOR_BYTES;
    while (used > 0 && descriptor[40 + used - 1] == ' ')
        used--;
    for (size_t i = 0; i < used; i++) {
        uint8_t c = descriptor[40 + i];

        volume->label[i] = (char)(c >= 0x20 && c < 0x7F ? c : '?');
    }
    volume->label[used] = '\0';
}

enum slate_status slate_optical_read(struct slate_media *media,
                                     const struct slate_range *range,
                                     uint8_t *work, struct slate_volume *volume)
{
    enum slate_status status = SLATE_OK;
    const uint8_t *descriptor;
    bool bootable = false;

    for (uint32_t i = 0; i < MOST_DESCRIPTORS; i++) {
        if (!read_sector(media, range, FIRST_DESCRIPTOR + i, work, &descriptor,
                         &status) ||
            memcmp(descriptor + 1, "CD001", 5) != 0 ||
            descriptor[0] == TYPE_END)
            break;
        if (descriptor[0] == TYPE_PRIMARY)
            take_primary(descriptor, volume);
        if (descriptor[0] == TYPE_BOOT)
            bootable = true;
    }
    if (volume->kind == SLATE_VOLUME_OPTICAL)
        volume->bootable = bootable;
    return status;
}
