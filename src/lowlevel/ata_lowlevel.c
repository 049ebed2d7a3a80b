/* SPDX-License-Identifier: MIT */
/* Sector configurations of ATA disks: the log that lists them, and SET SECTOR
 * CONFIGURATION EXT (ACS-4; log 2Fh, command B2h). */
#include "lowlevel/lowlevel.h"
#include "media/ata/ata.h"

#define LOG_DIRECTORY 0x00u
#define LOG_CONFIGURATIONS 0x2Fu
#define LOG_BYTES 512u
#define DESCRIPTORS 8u
#define DESCRIPTOR_BYTES 16u
#define VALID 0x80 /* byte 0 of a descriptor */

static enum slate_status read_log(struct slate_media *media, uint32_t log,
                                  uint8_t *data)
{
    const struct slate_ata_task task = {
        .operation = SLATE_ATA_READ_LOG_EXT, .count = 1, .lba = log};

    return slate_ata_send(media, &task, SLATE_DIRECTION_IN, data, LOG_BYTES);
}

/* Each descriptor has a word that the command has to repeat (bytes 2 and 3),
 * and the block in words of two bytes (4 to 7). */
static void take_configurations(const uint8_t *data,
                                struct slate_lowlevel_facts *facts)
{
    for (uint32_t i = 0; i < DESCRIPTORS; i++) {
        const uint8_t *entry = data + (size_t)DESCRIPTOR_BYTES * i;
        uint32_t words = slate_le32(entry + 4);
        const struct slate_block_format format = {
            .block_bytes = words <= 65536 ? words * 2 : 0,
            .index = (uint8_t)i,
            .check = slate_le16(entry + 2),
            .told = true};

        if ((entry[0] & VALID) != 0 && format.block_bytes >= 512)
            slate_lowlevel_note(facts, &format);
    }
}

/* Only a disk whose directory of logs has that one is asked for it. */
enum slate_status slate_lowlevel_look_ata(struct slate_media *media,
                                          struct slate_lowlevel_facts *facts)
{
    uint8_t *data = media->answer;
    enum slate_status status = read_log(media, LOG_DIRECTORY, data);

    if (status == SLATE_OK &&
        slate_le16(data + (size_t)2 * LOG_CONFIGURATIONS) == 0)
        return SLATE_OK;
    SLATE_THEN(status, read_log(media, LOG_CONFIGURATIONS, data));
    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    take_configurations(data, facts);
    if (facts->formats > 0)
        facts->kind = SLATE_LOWLEVEL_ATA;
    return SLATE_OK;
}

enum slate_status slate_lowlevel_order_ata(struct slate_lowlevel *lowlevel)
{
    const struct slate_block_format *format =
        slate_lowlevel_format_of(&lowlevel->facts, lowlevel->wish.block_bytes);
    struct slate_ata_task task = {.operation = SLATE_ATA_SET_SECTORS,
                                  .seconds = SLATE_LOWLEVEL_SECONDS};

    if (format == NULL)
        return SLATE_ERR_ARGUMENT;
    task.features = format->check;
    task.count = format->index;
    return slate_ata_send(lowlevel->media, &task, SLATE_DIRECTION_NONE, NULL,
                          0);
}
