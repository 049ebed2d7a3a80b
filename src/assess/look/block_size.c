/* SPDX-License-Identifier: MIT */
/* For which block size was an image made? Its structures tell. */

#include "base/base.h"
#include "trueslate/assess.h"
#include "volume/common/common.h"

#define SMALL 512u
#define LARGE 4096u
/* Partitions that are asked. */
#define STARTS 3u

/* A FAT volume at this byte that says it has such blocks? */
static enum slate_status volume_agrees(struct slate_media *media, void *work,
                                       uint64_t byte, uint32_t block_bytes,
                                       bool *agrees)
{
    struct slate_range range = {byte / SMALL,
                                media->geometry.block_count - byte / SMALL};
    struct slate_volume volume;
    enum slate_status status;

    *agrees = false;
    if (byte / SMALL >= media->geometry.block_count)
        return SLATE_OK;
    status =
        slate_volume_read(media, &range, SLATE_DEPTH_GLANCE, work, &volume);
    /* what does not tell is where it is */
    *agrees = status == SLATE_OK && slate_volume_is_known(volume.kind) &&
              (volume.block_bytes == block_bytes || volume.block_bytes == 0) &&
              !slate_kind_of(volume.kind)->own_blocks;
    return status;
}

static enum slate_status ask_gpt(struct slate_media *media, uint8_t *work,
                                 uint32_t *block_bytes)
{
    static const uint32_t sizes[] = {SMALL, LARGE};

    for (int i = 0; i < 2; i++) {
        uint64_t lba = sizes[i] / SMALL;

        if (lba >= media->geometry.block_count)
            return SLATE_OK;
        SLATE_TRY(slate_media_read(media, lba, 1, work));
        if (memcmp(work, "EFI PART", 8) == 0) {
            *block_bytes = sizes[i];
            return SLATE_OK;
        }
    }
    return SLATE_OK;
}

/* first is a block number out of the table; count such blocks would hold it */
static enum slate_status ask_volume(struct slate_media *media, void *work,
                                    uint64_t first, uint32_t *block_bytes)
{
    static const uint32_t sizes[] = {SMALL, LARGE};

    for (int i = 0; i < 2 && first <= UINT32_MAX; i++) {
        bool agrees;
        SLATE_TRY(
            volume_agrees(media, work, first * sizes[i], sizes[i], &agrees));
        if (agrees) {
            *block_bytes = sizes[i];
            return SLATE_OK;
        }
    }
    return SLATE_OK;
}

/* At block 0 only a volume that tells helps: the place is the same. */
static enum slate_status ask_whole(struct slate_media *media, void *work,
                                   uint32_t *block_bytes)
{
    struct slate_range range = {0, media->geometry.block_count};
    struct slate_volume volume;
    enum slate_status status =
        slate_volume_read(media, &range, SLATE_DEPTH_GLANCE, work, &volume);

    if (status == SLATE_OK &&
        (volume.block_bytes == SMALL || volume.block_bytes == LARGE) &&
        !slate_kind_of(volume.kind)->own_blocks)
        *block_bytes = volume.block_bytes;
    return status;
}

/* Where partitions begin, as blocks of any size would have it. */
static enum slate_status find_starts(struct slate_media *media, void *work,
                                     uint64_t start[STARTS], uint32_t *count)
{
    struct slate_partition partition[STARTS] = {{0}};
    struct slate_layout layout = {.partition = partition, .room = STARTS};
    enum slate_status status = slate_layout_read(media, work, &layout);

    *count = status == SLATE_OK ? layout.count : 0;
    for (uint32_t i = 0; i < *count; i++)
        start[i] = partition[i].first;
    return status;
}

enum slate_status slate_assess_block_bytes(struct slate_media *media,
                                           void *work, uint32_t *block_bytes)
{
    uint64_t start[STARTS];
    uint32_t count = 0;
    enum slate_status status;

    *block_bytes = 0;
    status = ask_gpt(media, work, block_bytes);
    if (status == SLATE_OK && *block_bytes == 0)
        status = ask_whole(media, work, block_bytes);
    if (status == SLATE_OK && *block_bytes == 0)
        status = find_starts(media, work, start, &count);
    for (uint32_t i = 0; status == SLATE_OK && *block_bytes == 0 && i < count;
         i++)
        status = ask_volume(media, work, start[i], block_bytes);
    return status;
}
