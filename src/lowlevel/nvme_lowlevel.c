/* SPDX-License-Identifier: MIT */
/* Block formats of NVMe drives, and Format NVM (NVM Express base specification
 * 1.4, 5.15.2.1 and 5.23). */
#include "base/base.h"
#include "lowlevel/lowlevel.h"
#include "media/nvme/nvme.h"

#define IDENTIFY_BYTES 4096u
#define FORMATS_AT 128u
#define FORMATS_ALL 0x01  /* FNA, byte 524 */
#define KNOWS_FORMAT 0x02 /* OACS, byte 256 of Identify Controller */

static enum slate_status identify(struct slate_media *media, uint32_t which)
{
    const uint32_t words[2] = {which, 0};

    return slate_nvme_admin(media, SLATE_NVME_IDENTIFY,
                            which == 0 ? media->address : 0, words,
                            media->answer, IDENTIFY_BYTES, NULL);
}

/* Figure 245 and 246: metadata, size as a power of two, relative speed. */
enum slate_status slate_lowlevel_look_nvme(struct slate_media *media,
                                           struct slate_lowlevel_facts *facts)
{
    const uint8_t *data = media->answer;
    enum slate_status status = identify(media, 1);

    if (status != SLATE_OK || (data[256] & KNOWS_FORMAT) == 0)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    facts->reaches_units = media->units > 1 && (data[524] & FORMATS_ALL) != 0;
    status = identify(media, 0);
    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    facts->kind = SLATE_LOWLEVEL_NVME;
    for (uint32_t i = 0; i <= data[25] && i < SLATE_BLOCK_FORMATS_MAX; i++) {
        const uint8_t *entry = data + FORMATS_AT + 4 * (size_t)i;
        const struct slate_block_format format = {
            .block_bytes = entry[2] < 31 ? (uint32_t)1 << entry[2] : 0,
            .extra_bytes = slate_le16(entry),
            .index = (uint8_t)i,
            .speed = entry[3] & 0x03,
            .told = true};

        if (format.block_bytes >= 512)
            slate_lowlevel_note(facts, &format);
    }
    return SLATE_OK;
}

/* Without protection information and without erasing first: what the blocks
 * held cannot be asked for in another size. */
enum slate_status slate_lowlevel_order_nvme(struct slate_lowlevel *lowlevel)
{
    const struct slate_block_format *format =
        slate_lowlevel_format_of(&lowlevel->facts, lowlevel->wish.block_bytes);
    uint32_t words[2] = {0, 0};

    if (format == NULL)
        return SLATE_ERR_ARGUMENT;
    words[0] = format->index;
    return slate_nvme_order(lowlevel->media, SLATE_NVME_FORMAT,
                            lowlevel->media->address, words,
                            SLATE_LOWLEVEL_SECONDS);
}
