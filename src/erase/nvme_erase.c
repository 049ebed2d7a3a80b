/* SPDX-License-Identifier: MIT */
/* Sanitize and Format NVM (NVM Express base specification 1.4, 5.23, 5.24,
 * 8.15). */

#include "base/base.h"
#include "erase/erase.h"
#include "media/nvme/nvme.h"

#define WHOLE_DRIVE UINT32_MAX
#define LOG_SANITIZE 0x81u
#define LOG_BYTES 512u
#define NOT_TOLD UINT32_MAX

/* SANACT */
#define ACTION_BLOCK 2u
#define ACTION_OVERWRITE 3u
#define ACTION_CRYPTO 4u
#define ONE_ROUND (1u << 4)

/* SANICAP, bytes 328 to 331 of Identify Controller */
#define HAS_CRYPTO 0x1u
#define HAS_BLOCK 0x2u
#define HAS_OVERWRITE 0x4u

/* FNA, byte 524 */
#define FORMATS_ALL 0x3
#define KNOWS_KEY 0x4

#define ERASE_USER_DATA (1u << 9) /* SES */
#define ERASE_KEY (2u << 9)

static enum slate_status identify(struct slate_media *media, uint32_t which)
{
    const uint32_t words[2] = {which, 0};

    return slate_nvme_admin(media, SLATE_NVME_IDENTIFY,
                            which == 0 ? media->address : 0, words,
                            media->answer, SLATE_ANSWER_BYTES, NULL);
}

static enum slate_status read_log(struct slate_media *media)
{
    const uint32_t words[2] = {LOG_SANITIZE | (LOG_BYTES / 4 - 1) << 16, 0};

    return slate_nvme_admin(media, SLATE_NVME_GET_LOG_PAGE, WHOLE_DRIVE, words,
                            media->answer, LOG_BYTES, NULL);
}

/* Estimates stand in seconds; a drive that has none says so by all ones. */
static uint32_t minutes_at(const uint8_t *log, uint32_t byte)
{
    uint32_t seconds = slate_le32(log + byte);

    return seconds == NOT_TOLD ? 0 : seconds / 60 + (seconds % 60 > 0 ? 1 : 0);
}

enum slate_status slate_erase_find_nvme(struct slate_media *media,
                                        struct slate_erase_list *list)
{
    uint8_t *data = media->answer;
    bool many = media->units > 1, format, all, key;
    uint32_t can;
    enum slate_status status = identify(media, 1);

    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    can = slate_le32(data + 328);
    format = (data[256] & 0x02) != 0;
    all = many && (data[524] & FORMATS_ALL) != 0;
    key = (data[524] & KNOWS_KEY) != 0;
    memset(data, 0xFF, LOG_BYTES);
    if (can != 0 && read_log(media) == SLATE_ERR_NO_DEVICE)
        return SLATE_ERR_NO_DEVICE;
    if ((can & HAS_OVERWRITE) != 0)
        slate_erase_note(list, SLATE_ERASE_NVME_OVERWRITE, minutes_at(data, 8),
                         many);
    if ((can & HAS_BLOCK) != 0)
        slate_erase_note(list, SLATE_ERASE_NVME_BLOCK, minutes_at(data, 12),
                         many);
    if ((can & HAS_CRYPTO) != 0)
        slate_erase_note(list, SLATE_ERASE_NVME_CRYPTO, minutes_at(data, 16),
                         many);
    if (format)
        slate_erase_note(list, SLATE_ERASE_NVME_FORMAT, 0, all);
    if (format && key)
        slate_erase_note(list, SLATE_ERASE_NVME_KEY, 0, all);
    return SLATE_OK;
}

static enum slate_status sanitize(struct slate_media *media, uint32_t word)
{
    const uint32_t words[2] = {word, 0};

    return slate_nvme_order(media, SLATE_NVME_SANITIZE, 0, words, 0);
}

/* In the block format and with the protection that it has (figures 245, 329).
 */
static enum slate_status format(struct slate_media *media, uint32_t erase)
{
    const uint8_t *data = media->answer;
    enum slate_status status = identify(media, 0);
    uint32_t words[2] = {erase, 0};

    SLATE_TRY(status);
    words[0] |= (data[26] & 0x0Fu) | (data[26] & 0x10u) |
                (data[29] & 0x07u) << 5 | (data[29] & 0x08u) << 5;
    return slate_nvme_order(media, SLATE_NVME_FORMAT, media->address, words,
                            SLATE_ERASE_SECONDS);
}

enum slate_status slate_erase_order_nvme(struct slate_media *media,
                                         enum slate_erase_kind kind)
{
    switch (kind) {
    case SLATE_ERASE_NVME_OVERWRITE:
        return sanitize(media, ACTION_OVERWRITE | ONE_ROUND);
    case SLATE_ERASE_NVME_BLOCK:
        return sanitize(media, ACTION_BLOCK);
    case SLATE_ERASE_NVME_CRYPTO:
        return sanitize(media, ACTION_CRYPTO);
    case SLATE_ERASE_NVME_FORMAT:
        return format(media, ERASE_USER_DATA);
    case SLATE_ERASE_NVME_KEY:
        return format(media, ERASE_KEY);
    default:
        return SLATE_ERR_ARGUMENT;
    }
}

/* Figure 207: progress, and the state in the lowest three bits of the next
 * field. Only a drive that can sanitize is asked. */
enum slate_status slate_erase_ask_nvme(struct slate_media *media,
                                       struct slate_erase_state *state)
{
    static const enum slate_erase_activity activities[8] = {
        SLATE_ERASE_IDLE,   SLATE_ERASE_DONE, SLATE_ERASE_WORKING,
        SLATE_ERASE_FAILED, SLATE_ERASE_DONE, SLATE_ERASE_IDLE,
        SLATE_ERASE_IDLE,   SLATE_ERASE_IDLE};
    enum slate_status status = identify(media, 1);

    if (status == SLATE_OK && slate_le32(media->answer + 328) == 0)
        return SLATE_OK;
    memset(media->answer, 0, LOG_BYTES);
    SLATE_THEN(status, read_log(media));
    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    state->activity = activities[media->answer[2] & 7];
    state->told = state->activity == SLATE_ERASE_WORKING;
    state->progress = slate_le16(media->answer);
    return SLATE_OK;
}
