/* SPDX-License-Identifier: MIT */
/* Identifying an SD card, and the fields of its registers. */

#include "base/base.h"
#include "media/sd/sd.h"

#define VOLTAGE_AND_PATTERN 0x1AAu
#define VOLTAGES 0x00FF8000u
#define HIGH_CAPACITY 0x40000000u
#define POWERED_UP 0x80000000u

/* A card may take a second to power up; a try takes about a millisecond. */
#define TRIES 1000

/* Bits of a register counted from its last one, as the specification does. */
uint32_t slate_sd_bits(const uint8_t value[16], int high, int low)
{
    uint32_t result = 0;

    for (int i = high; i >= low; i--)
        result = result << 1 | ((uint32_t)value[15 - i / 8] >> i % 8 & 1u);
    return result;
}

static enum slate_status simple(struct slate_media *media, uint8_t index,
                                uint32_t argument, uint32_t *content)
{
    return slate_sd_send(media, index, argument, SLATE_DIRECTION_NONE, NULL, 0,
                         content);
}

/* 4.2.3: a card of version 2 answers CMD8 with the pattern it was given. */
static enum slate_status power_up(struct slate_media *media, uint32_t *ocr)
{
    bool spi = slate_sd_is_spi(media);
    uint32_t content, wanted = 0;
    enum slate_status status = simple(media, SLATE_SD_GO_IDLE, 0, NULL);

    if (status != SLATE_OK)
        return status == SLATE_ERR_COMMAND ? SLATE_ERR_NO_MEDIUM : status;
    status =
        simple(media, SLATE_SD_SEND_IF_COND, VOLTAGE_AND_PATTERN, &content);
    if (status == SLATE_OK && (content & 0xFFF) == VOLTAGE_AND_PATTERN)
        wanted = HIGH_CAPACITY;
    else if (status == SLATE_ERR_NO_DEVICE)
        return status;
    for (int i = 0; i < TRIES; i++) {
        status = slate_sd_send_app(media, SLATE_SD_SEND_OP_COND,
                                   wanted | (spi ? 0 : VOLTAGES), NULL, 0, ocr);
        if (status != SLATE_OK)
            return status == SLATE_ERR_COMMAND ? SLATE_ERR_NO_MEDIUM : status;
        if (spi ? (*ocr & 1) == 0 : (*ocr & POWERED_UP) != 0)
            return spi ? simple(media, SLATE_SD_READ_OCR, 0, ocr) : SLATE_OK;
    }
    return SLATE_ERR_NO_MEDIUM;
}

static enum slate_status read_registers(struct slate_media *media)
{
    uint8_t csd[16] = {0}, cid[16] = {0};
    uint32_t content;
    bool spi = slate_sd_is_spi(media);
    enum slate_status status = slate_sd_register(
        media, spi ? SLATE_SD_SEND_CID : SLATE_SD_ALL_SEND_CID, 0, cid);

    if (status == SLATE_OK && !spi) {
        status = simple(media, SLATE_SD_SEND_RELATIVE_ADDRESS, 0, &content);
        media->address = content >> 16;
    }
    SLATE_THEN(status, slate_sd_register(media, SLATE_SD_SEND_CSD,
                                         media->address << 16, csd));
    SLATE_TRY(status);
    slate_sd_take_cid(media, cid);
    return slate_sd_take_csd(media, csd) ? SLATE_OK : SLATE_ERR_GEOMETRY;
}

/* 4.10.2: AU_SIZE in bits 431 to 428, SPEED_CLASS in bits 447 to 440 */
static void take_status(struct slate_media *media, const uint8_t status[64])
{
    static const uint32_t unit_kib[16] = {
        0,    16,   32,   64,    128,   256,   512,   1024,
        2048, 4096, 8192, 12288, 16384, 24576, 32768, 65536};
    static const uint8_t classes[5] = {0, 2, 4, 6, 10};

    media->geometry.erase_bytes = unit_kib[status[10] >> 4] * 1024;
    if (status[8] < sizeof classes)
        media->abilities.speed_class = classes[status[8]];
}

/* Nice to know; a card that refuses these still works. */
static enum slate_status read_status(struct slate_media *media)
{
    uint8_t sd_status[64] = {0}, scr[8] = {0};
    enum slate_status status =
        slate_sd_send_app(media, SLATE_SD_SEND_SCR, 0, scr, sizeof scr, NULL);

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    status = slate_sd_send_app(media, SLATE_SD_SEND_STATUS, 0, sd_status,
                               sizeof sd_status, NULL);
    if (status == SLATE_OK)
        take_status(media, sd_status);
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

/* A card that the host has identified is ready for transfers as it is. */
enum slate_status slate_sd_take_over(struct slate_media *media,
                                     const struct slate_port_facts *facts)
{
    slate_sd_take_cid(media, facts->cid);
    if (!slate_sd_take_csd(media, facts->csd))
        return SLATE_ERR_GEOMETRY;
    media->address = facts->card_address;
    media->byte_addressed = slate_sd_bits(facts->csd, 127, 126) == 0;
    return read_status(media);
}

enum slate_status slate_sd_identify(struct slate_media *media)
{
    uint32_t ocr = 0;

    SLATE_TRY(power_up(media, &ocr));
    media->byte_addressed = (ocr & HIGH_CAPACITY) == 0;
    SLATE_TRY(read_registers(media));
    if (!slate_sd_is_spi(media))
        SLATE_TRY(simple(media, SLATE_SD_SELECT, media->address << 16, NULL));
    SLATE_TRY(read_status(media));
    return media->byte_addressed
               ? simple(media, SLATE_SD_SET_BLOCK_LENGTH, 512, NULL)
               : SLATE_OK;
}

/* 5.3: three versions of the CSD count their capacity in three ways. */
bool slate_sd_take_csd(struct slate_media *media, const uint8_t csd[16])
{
    uint64_t bytes = 0;

    switch (slate_sd_bits(csd, 127, 126)) {
    case 0:
        if (slate_sd_bits(csd, 83, 80) >= 9 && slate_sd_bits(csd, 83, 80) <= 11)
            bytes = (uint64_t)(slate_sd_bits(csd, 73, 62) + 1)
                    << (slate_sd_bits(csd, 49, 47) + 2 +
                        slate_sd_bits(csd, 83, 80));
        break;
    case 1:
        bytes = ((uint64_t)slate_sd_bits(csd, 69, 48) + 1) * 524288;
        break;
    case 2:
        bytes = ((uint64_t)slate_sd_bits(csd, 75, 48) + 1) * 524288;
        break;
    default:
        break;
    }
    media->geometry.block_bytes = 512;
    media->geometry.block_count = bytes / 512;
    media->read_only = slate_sd_bits(csd, 13, 12) != 0; /* PERM, TMP */
    return bytes != 0;
}

static void put_month(struct slate_text *text, uint32_t date)
{
    SLATE_SAY(text, "{}{}{}", AS_NUMBER(2000 + (date >> 4)),
              AS_TEXT((date & 15) < 10 ? "-0" : "-"), AS_NUMBER(date & 15));
}

/* 5.2 */
void slate_sd_take_cid(struct slate_media *media, const uint8_t cid[16])
{
    struct slate_identity *identity = &media->identity;
    struct slate_text text;

    slate_take_text(identity->maker, SLATE_MAKER_ROOM, cid + 1, 2);
    slate_take_text(identity->model, SLATE_MODEL_ROOM, cid + 3, 5);
    slate_text_start(&text, identity->revision, SLATE_REVISION_ROOM);
    put_month(&text, slate_sd_bits(cid, 19, 8));
    slate_text_start(&text, identity->serial, SLATE_SERIAL_ROOM);
    SLATE_SAY(&text, "{}-{}", AS_HEX(cid[0], 2),
              AS_HEX(slate_be32(cid + 9), 8));
}
