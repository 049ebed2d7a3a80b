/* SPDX-License-Identifier: MIT */
/* Which volume stands in a range of blocks: each recogniser is asked in turn.
 */
#include <string.h>

#include "base/zero.h"
#include "volume/fat.h"

typedef enum slate_status (*recogniser)(struct slate_media *media,
                                        const struct slate_range *range,
                                        uint8_t *work,
                                        struct slate_volume *volume);

/* Nothing, or something that no recogniser knows? */
static enum slate_status judge_unknown(struct slate_media *media,
                                       const struct slate_range *range,
                                       uint8_t *work,
                                       struct slate_volume *volume)
{
    enum slate_status status = slate_media_read(media, range->first, 1, work);

    if (status == SLATE_OK && !slate_is_zero(work, media->geometry.block_bytes))
        volume->kind = SLATE_VOLUME_OTHER;
    return status;
}

enum slate_status slate_volume_read(struct slate_media *media,
                                    const struct slate_range *range, void *work,
                                    struct slate_volume *volume)
{
    static const recogniser ask[] = {slate_fat_read, slate_optical_read,
                                     judge_unknown};

    memset(volume, 0, sizeof *volume);
    if (range->count == 0 || range->first >= media->geometry.block_count)
        return SLATE_OK;
    for (size_t i = 0; i < sizeof ask / sizeof ask[0]; i++) {
        enum slate_status status = ask[i](media, range, work, volume);

        if (status != SLATE_OK || volume->kind != SLATE_VOLUME_NONE)
            return status;
    }
    return SLATE_OK;
}

const char *slate_volume_words(enum slate_volume_kind kind)
{
    switch (kind) {
    case SLATE_VOLUME_FAT12:
        return "FAT12";
    case SLATE_VOLUME_FAT16:
        return "FAT16";
    case SLATE_VOLUME_FAT32:
        return "FAT32";
    case SLATE_VOLUME_OPTICAL:
        return "optical-disc image";
    case SLATE_VOLUME_OTHER:
        return "unknown content";
    case SLATE_VOLUME_NONE:
    default:
        return "nothing";
    }
}
