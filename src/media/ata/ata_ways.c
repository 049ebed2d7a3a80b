/* SPDX-License-Identifier: MIT */
/* ATA commands over whatever way there is: directly, or through a dock or host
 * that speaks SCSI (SAT-3, 12.2). */

#include "media/ata/ata.h"
#include "media/scsi/scsi.h"

#define CHECK_CONDITION 0x02
#define CHECK_WANTED 0x20 /* CK_COND: the registers come as sense data */
#define DESCRIPTOR_SENSE 0x72
#define RETURN_DESCRIPTOR 0x09
#define STATUS_ERROR 0x01

static bool is_direct(const struct slate_media *media)
{
    return media->speech->commands == SLATE_COMMANDS_ATA;
}

enum slate_status slate_ata_send(struct slate_media *media,
                                 const struct slate_ata_task *task,
                                 enum slate_direction direction, void *data,
                                 uint32_t length)
{
    struct slate_exchange x;
    enum slate_status status;

    if (!is_direct(media)) {
        slate_ata_through_scsi(&x, task, false, direction, data, length);
        return slate_scsi_ask(media, &x);
    }
    slate_ata_task_file(&x, task, direction, data, length);
    status = slate_media_exchange(media, &x);
    return status == SLATE_OK && x.state != 0 ? SLATE_ERR_COMMAND : status;
}

/* The ATA status return descriptor (SAT-3, 12.2.2.6), behind a head of eight
 * bytes. */
static bool take_descriptor(const struct slate_exchange *x, uint8_t answer[12])
{
    static const uint8_t lba_at[6] = {15, 17, 19, 14, 16, 18};
    const uint8_t *sense = x->answer;

    if (x->answer_length < 22 || (sense[0] & 0x7F) != DESCRIPTOR_SENSE ||
        sense[8] != RETURN_DESCRIPTOR)
        return false;
    memset(answer, 0, 12);
    answer[0] = sense[11];
    answer[2] = sense[13];
    answer[3] = sense[12];
    for (int i = 0; i < 6; i++)
        answer[4 + i] = sense[lba_at[i]];
    answer[10] = sense[20];
    answer[11] = sense[21];
    return true;
}

enum slate_status slate_ata_ask_registers(struct slate_media *media,
                                          const struct slate_ata_task *task,
                                          uint8_t answer[12])
{
    struct slate_exchange x;
    enum slate_status status;

    if (is_direct(media)) {
        slate_ata_task_file(&x, task, SLATE_DIRECTION_NONE, NULL, 0);
        status = slate_media_exchange(media, &x);
        if (status != SLATE_OK || x.answer_length < 12)
            return status == SLATE_OK ? SLATE_ERR_COMMAND : status;
        memcpy(answer, x.answer, 12);
        return x.state == 0 ? SLATE_OK : SLATE_ERR_COMMAND;
    }
    slate_ata_through_scsi(&x, task, false, SLATE_DIRECTION_NONE, NULL, 0);
    x.command[1] |= 0x01; /* the registers are those of 48 bits */
    x.command[2] |= CHECK_WANTED;
    SLATE_TRY(slate_media_exchange(media, &x));
    return x.state == CHECK_CONDITION && take_descriptor(&x, answer) &&
                   (answer[11] & STATUS_ERROR) == 0
               ? SLATE_OK
               : SLATE_ERR_COMMAND;
}

/* What a host protected area (words 82 and 83) or an accessible max address
 * (word 119) may hide. */
enum slate_status slate_ata_read_native(struct slate_media *media,
                                        const uint8_t *data, uint64_t *blocks)
{
    struct slate_ata_task task = {.operation = SLATE_ATA_READ_NATIVE_MAX_EXT,
                                  .lba_mode = true};
    uint8_t answer[12];
    enum slate_status status;

    *blocks = 0;
    if (slate_ata_has_accessible_max(data))
        task.operation = SLATE_ATA_ACCESSIBLE_MAX;
    else if ((slate_ata_word(data, 82) & 0x0400) == 0 ||
             (slate_ata_word(data, 83) & 0x0400) == 0)
        return SLATE_OK;
    status = slate_ata_ask_registers(media, &task, answer);
    if (status == SLATE_OK)
        *blocks =
            (slate_le32(answer + 4) | (uint64_t)slate_le16(answer + 8) << 32) +
            1;
    return status == SLATE_ERR_COMMAND ? SLATE_OK : status;
}

uint32_t slate_ata_erase_minutes(const uint8_t *data, bool enhanced)
{
    uint16_t time = slate_ata_word(data, enhanced ? 90 : 89);

    return 2 * (uint32_t)((time & 0x8000) != 0 ? time & 0x7FFF : time & 0xFF);
}

enum slate_status slate_ata_send_password(struct slate_media *media,
                                          uint8_t operation, uint16_t word,
                                          const char *password,
                                          uint32_t seconds)
{
    struct slate_ata_task task = {
        .operation = operation, .count = 1, .seconds = seconds};
    uint8_t data[512] = {0};

    slate_put_le16(data, word);
    memcpy(data + 2, password, strlen(password));
    return slate_ata_send(media, &task, SLATE_DIRECTION_OUT, data, sizeof data);
}

enum slate_status slate_ata_erase_unit(struct slate_media *media, uint16_t word,
                                       const char *password, uint32_t seconds)
{
    struct slate_ata_task prepare = {.operation = SLATE_ATA_ERASE_PREPARE};
    enum slate_status status =
        slate_ata_send(media, &prepare, SLATE_DIRECTION_NONE, NULL, 0);

    return status == SLATE_OK
               ? slate_ata_send_password(media, SLATE_ATA_ERASE_UNIT, word,
                                         password, seconds)
               : status;
}
