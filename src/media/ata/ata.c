/* SPDX-License-Identifier: MIT */
/* Disks that speak ATA: identify, native size, read, write, flush, trim
 * (ACS-3; the host protected area: ATA8-ACS). */

#include "media/ata/ata.h"

/* Ranges that one block of a trim command holds, and blocks of each. */
#define TRIM_RANGES 64u
#define TRIM_BLOCKS 65535u

void slate_ata_task_file(struct slate_exchange *x,
                         const struct slate_ata_task *task,
                         enum slate_direction direction, void *data,
                         uint32_t data_length)
{
    memset(x, 0, sizeof *x);
    slate_put_le16(x->command, task->features);
    slate_put_le16(x->command + 2, task->count);
    slate_put_le32(x->command + 4, (uint32_t)task->lba);
    slate_put_le16(x->command + 8, (uint16_t)(task->lba >> 32));
    x->command[10] = task->lba_mode ? 0x40 : 0x00;
    x->command[11] = task->operation;
    x->command_length = 12;
    x->direction = direction;
    x->data = data;
    x->data_length = data_length;
    x->seconds = task->seconds;
}

static enum slate_status exchange(struct slate_media *media,
                                  struct slate_exchange *x)
{
    SLATE_TRY(slate_media_exchange(media, x));
    return x->state == 0 && x->transferred == x->data_length
               ? SLATE_OK
               : SLATE_ERR_COMMAND;
}

static enum slate_status send(struct slate_media *media,
                              const struct slate_ata_task *task,
                              enum slate_direction direction, void *data,
                              uint32_t data_length)
{
    struct slate_exchange x;

    slate_ata_task_file(&x, task, direction, data, data_length);
    return exchange(media, &x);
}

/* Text stands with the bytes of each word swapped (ACS-3, 7.12.7.10). */
static void take_swapped(char *to, size_t room, const uint8_t *data,
                         uint32_t first, uint32_t words)
{
    uint8_t text[40];

    for (uint32_t i = 0; i < words; i++) {
        text[2 * (size_t)i] = data[2 * (size_t)(first + i) + 1];
        text[2 * (size_t)i + 1] = data[2 * (size_t)(first + i)];
    }
    slate_take_text(to, room, text, 2 * (size_t)words);
}

/* Word 255 holds a checksum when its low byte is A5h. */
static bool sum_is_right(const uint8_t *data)
{
    uint8_t sum = 0;

    if (data[510] != 0xA5)
        return true;
    for (size_t i = 0; i < 512; i++)
        sum = (uint8_t)(sum + data[i]);
    return sum == 0;
}

uint32_t slate_ata_block_bytes(const uint8_t *data)
{
    uint32_t words = slate_le32(data + 234);

    if ((slate_ata_word(data, 106) & 0xD000) != 0x5000)
        return 512;
    return words <= SLATE_BLOCK_MAX ? words * 2 : 0;
}

/* The physical block is the logical one times a power of two (word 106). */
static void take_block_sizes(struct slate_geometry *geometry,
                             const uint8_t *data)
{
    uint16_t sizes = slate_ata_word(data, 106);
    uint32_t logical = slate_ata_block_bytes(data);

    geometry->block_bytes = logical;
    geometry->physical_bytes = logical;
    if ((sizes & 0xE000) == 0x6000 && logical <= SLATE_BLOCK_MAX)
        geometry->physical_bytes = logical << (sizes & 0x0F);
}

/* Word 209 tells where in its physical block the first logical one lies. */
static uint32_t aligned_block(const struct slate_geometry *geometry,
                              const uint8_t *data)
{
    uint32_t whole, lies = slate_ata_word(data, 209);

    if ((lies & 0xC000) != 0x4000 || geometry->block_bytes == 0)
        return 0;
    lies &= 0x3FFF;
    whole = geometry->physical_bytes / geometry->block_bytes;
    return lies == 0 || lies >= whole ? 0 : whole - lies;
}

/* Word 69, bits 0 and 1; host-managed disks have another signature. */
static enum slate_zoned zoned_of(uint16_t bits)
{
    switch (bits) {
    case 1:
        return SLATE_ZONED_AWARE;
    case 2:
        return SLATE_ZONED_BY_DEVICE;
    default:
        return SLATE_ZONED_NOT;
    }
}

bool slate_ata_take_identity(struct slate_media *media, const uint8_t *data)
{
    struct slate_identity *identity = &media->identity;
    bool large = (slate_ata_word(data, 83) & 0xC400) == 0x4400;

    if ((slate_ata_word(data, 0) & 0x8000) != 0 || !sum_is_right(data))
        return false;
    identity->maker[0] = '\0';
    take_swapped(identity->serial, SLATE_SERIAL_ROOM, data, 10, 10);
    take_swapped(identity->revision, SLATE_REVISION_ROOM, data, 23, 4);
    take_swapped(identity->model, SLATE_MODEL_ROOM, data, 27, 20);
    media->geometry.block_count =
        large ? slate_le64(data + 200) : slate_le32(data + 120);
    take_block_sizes(&media->geometry, data);
    media->abilities.aligned_block = aligned_block(&media->geometry, data);
    media->abilities.rotating = slate_ata_word(data, 217) > 1;
    media->abilities.discard = (slate_ata_word(data, 169) & 0x0001) != 0;
    media->abilities.zoned = zoned_of(slate_ata_word(data, 69) & 0x0003);
    return true;
}

static enum slate_status ata_open(struct slate_media *media,
                                  const struct slate_port_facts *facts)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_IDENTIFY};
    uint8_t data[512] = {0};

    if (media->ops.exchange == NULL)
        return SLATE_ERR_ARGUMENT;
    SLATE_TRY(send(media, &task, SLATE_DIRECTION_IN, data, sizeof data));
    if (!slate_ata_take_identity(media, data))
        return SLATE_ERR_COMMAND;
    media->read_only = facts->read_only;
    media->removable = facts->removable;
    media->largest_transfer = UINT16_MAX;
    media->abilities.clear_most = (uint64_t)TRIM_RANGES * TRIM_BLOCKS;
    return slate_ata_read_native(media, data, &media->abilities.native_blocks);
}

static void ata_prepare(struct slate_media *media, bool write, uint64_t lba,
                        uint32_t count, void *data, struct slate_exchange *x)
{
    const struct slate_ata_task task = {
        .operation = write ? SLATE_ATA_WRITE_DMA_EXT : SLATE_ATA_READ_DMA_EXT,
        .count = (uint16_t)count,
        .lba = lba,
        .lba_mode = true};

    slate_ata_task_file(x, &task,
                        write ? SLATE_DIRECTION_OUT : SLATE_DIRECTION_IN, data,
                        count * media->geometry.block_bytes);
}

static enum slate_status transfer(struct slate_media *media, bool write,
                                  uint64_t lba, uint32_t count, void *data)
{
    struct slate_exchange x;

    ata_prepare(media, write, lba, count, data, &x);
    return exchange(media, &x);
}

static enum slate_status ata_flush(struct slate_media *media)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_FLUSH_CACHE_EXT,
                                  .lba_mode = true};
    enum slate_status status =
        send(media, &task, SLATE_DIRECTION_NONE, NULL, 0);

    return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
}

/* DATA SET MANAGEMENT, trim: up to 64 ranges of 16-bit length (ACS-3, 7.5) */
static enum slate_status ata_clear(struct slate_media *media, uint64_t lba,
                                   uint64_t count, enum slate_clear how)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_DATA_SET_MANAGEMENT,
                                  .features = 1,
                                  .count = 1,
                                  .lba_mode = true};
    uint8_t ranges[512] = {0};
    enum slate_status status;

    (void)how; /* zeros are not promised; abilities say so */
    for (size_t i = 0; i < TRIM_RANGES && count > 0; i++) {
        uint64_t n = count < TRIM_BLOCKS ? count : TRIM_BLOCKS;

        slate_put_le64(ranges + 8 * i, lba | n << 48);
        lba += n;
        count -= n;
    }
    status = send(media, &task, SLATE_DIRECTION_OUT, ranges, sizeof ranges);
    return status == SLATE_ERR_COMMAND ? SLATE_ERR_WRITE : status;
}

static enum slate_status ata_eject(struct slate_media *media)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_STANDBY_IMMEDIATE};

    return send(media, &task, SLATE_DIRECTION_NONE, NULL, 0);
}

const struct slate_speech slate_speech_ata = {
    .commands = SLATE_COMMANDS_ATA,
    .open = ata_open,
    .transfer = transfer,
    .prepare = ata_prepare,
    .flush = ata_flush,
    .clear = ata_clear,
    .eject = ata_eject,
    .rest = ata_eject,
};
