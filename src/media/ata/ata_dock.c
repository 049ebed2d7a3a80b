/* SPDX-License-Identifier: MIT */
/* ATA commands through a dock that speaks SCSI (SAT-3, 12.2). */

#include "media/ata/ata.h"
#include "media/scsi/scsi.h"

enum {
    PROTOCOL_NO_DATA = 3,
    PROTOCOL_IN = 4,
    PROTOCOL_OUT = 5,
    PROTOCOL_DMA = 6
};

static uint8_t protocol_of(const struct slate_ata_task *task,
                           enum slate_direction direction)
{
    if (task->operation == SLATE_ATA_READ_DMA_EXT ||
        task->operation == SLATE_ATA_WRITE_DMA_EXT ||
        task->operation == SLATE_ATA_DATA_SET_MANAGEMENT)
        return PROTOCOL_DMA;
    if (direction == SLATE_DIRECTION_NONE)
        return PROTOCOL_NO_DATA;
    return direction == SLATE_DIRECTION_IN ? PROTOCOL_IN : PROTOCOL_OUT;
}

/* Transfer length in blocks, held by the count field; direction; no condition
 * wanted on success, as some docks drop the data with it. */
static uint8_t flags_of(enum slate_direction direction)
{
    if (direction == SLATE_DIRECTION_NONE)
        return 0x00;
    return direction == SLATE_DIRECTION_IN ? 0x0E : 0x06;
}

static void put_16(uint8_t *cdb, const struct slate_ata_task *task)
{
    cdb[3] = (uint8_t)(task->features >> 8);
    cdb[4] = (uint8_t)task->features;
    cdb[5] = (uint8_t)(task->count >> 8);
    cdb[6] = (uint8_t)task->count;
    cdb[7] = (uint8_t)(task->lba >> 24);
    cdb[8] = (uint8_t)task->lba;
    cdb[9] = (uint8_t)(task->lba >> 32);
    cdb[10] = (uint8_t)(task->lba >> 8);
    cdb[11] = (uint8_t)(task->lba >> 40);
    cdb[12] = (uint8_t)(task->lba >> 16);
    cdb[13] = task->lba_mode ? 0x40 : 0x00;
    cdb[14] = task->operation;
}

static void put_12(uint8_t *cdb, const struct slate_ata_task *task)
{
    cdb[3] = (uint8_t)task->features;
    cdb[4] = (uint8_t)task->count;
    cdb[5] = (uint8_t)task->lba;
    cdb[6] = (uint8_t)(task->lba >> 8);
    cdb[7] = (uint8_t)(task->lba >> 16);
    cdb[8] =
        (uint8_t)((task->lba_mode ? 0x40 : 0x00) | (task->lba >> 24 & 0x0F));
    cdb[9] = task->operation;
}

void slate_ata_through_scsi(struct slate_exchange *x,
                            const struct slate_ata_task *task, bool twelve,
                            enum slate_direction direction, void *data,
                            uint32_t data_length)
{
    uint8_t protocol = protocol_of(task, direction);
    bool extend = task->count > UINT8_MAX || task->features > UINT8_MAX ||
                  task->lba >> 28 != 0 || protocol == PROTOCOL_DMA;

    memset(x, 0, sizeof *x);
    x->command[0] = twelve ? SLATE_SCSI_ATA_12 : SLATE_SCSI_ATA_16;
    x->command_length = twelve ? 12 : 16;
    x->command[1] = (uint8_t)(protocol << 1 | (extend && !twelve ? 1 : 0));
    x->command[2] = flags_of(direction);
    if (twelve)
        put_12(x->command, task);
    else
        put_16(x->command, task);
    x->direction = direction;
    x->data = data;
    x->data_length = data_length;
    x->seconds = task->seconds;
}

void slate_ata_ask_through_scsi(struct slate_media *media)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_IDENTIFY, .count = 1};
    const struct slate_geometry geometry = media->geometry;
    struct slate_abilities able = media->abilities;
    struct slate_exchange x;
    uint8_t *data = media->answer;
    bool told = false;

    for (int twelve = 0; twelve < 2 && !told; twelve++) {
        slate_ata_through_scsi(&x, &task, twelve == 1, SLATE_DIRECTION_IN, data,
                               512);
        told = slate_scsi_ask(media, &x) == SLATE_OK && x.transferred == 512;
    }
    if (!told || !slate_ata_take_identity(media, data))
        return;
    /* What the dock can and how large its blocks are stays: it may translate.
     */
    able.rotating = media->abilities.rotating;
    able.passes_ata = true;
    media->abilities = able;
    media->geometry = geometry;
}
