/* SPDX-License-Identifier: MIT */
/* Which volume stands in a range of blocks: first by what its start says, then
 * by what stands further in. */
#include <string.h>

#include "base/zero.h"
#include "volume/fat.h"

/* The run at this byte of the range, zeros behind its end; false when none of
 * it lies inside, or it could not be read. */
static bool read_run(struct slate_media *media, const struct slate_range *range,
                     uint32_t byte, uint8_t *work, enum slate_status *status)
{
    uint32_t block = media->geometry.block_bytes;
    uint64_t at = byte / block, left, room = SLATE_WORK_MIN / block;
    uint64_t end = media->geometry.block_count - range->first;

    if (range->count < end)
        end = range->count;
    if (at >= end)
        return false;
    left = end - at;
    if (left > room)
        left = room;
    memset(work, 0, SLATE_WORK_MIN);
    *status = slate_media_read(media, range->first + at, (uint32_t)left, work);
    return *status == SLATE_OK;
}

/* Signatures that lie further in, once the start told nothing. */
static enum slate_status look_further(struct slate_media *media,
                                      const struct slate_range *range,
                                      uint8_t *work,
                                      struct slate_volume *volume)
{
    static const uint32_t runs[] = {4096, 65536};
    enum slate_status status = slate_optical_read(media, range, work, volume);

    for (size_t i = 0; i < 2 && status == SLATE_OK; i++) {
        if (volume->kind != SLATE_VOLUME_NONE ||
            !read_run(media, range, runs[i], work, &status))
            return status;
        (void)slate_signature_judge(runs[i], work, volume);
    }
    return status;
}

enum slate_status slate_volume_read(struct slate_media *media,
                                    const struct slate_range *range, void *work,
                                    struct slate_volume *volume)
{
    enum slate_status status = SLATE_OK;
    bool blank;

    memset(volume, 0, sizeof *volume);
    if (range->count == 0 || range->first >= media->geometry.block_count ||
        !read_run(media, range, 0, work, &status))
        return status;
    blank = slate_is_zero(work, SLATE_WORK_MIN);
    /* FAT first: its reserved blocks may hold an older volume's signature. */
    status = slate_fat_read(media, range, work, volume);
    if (status != SLATE_OK || volume->kind != SLATE_VOLUME_NONE ||
        slate_signature_judge(0, work, volume))
        return status;
    status = look_further(media, range, work, volume);
    if (status == SLATE_OK && volume->kind == SLATE_VOLUME_NONE && !blank)
        volume->kind = SLATE_VOLUME_OTHER;
    return status;
}

const char *slate_volume_words(enum slate_volume_kind kind)
{
    /* in the order of enum slate_volume_kind */
    static const char *const words[] = {"nothing",
                                        "unknown content",
                                        "FAT12",
                                        "FAT16",
                                        "FAT32",
                                        "optical-disc image",
                                        "exFAT",
                                        "NTFS",
                                        "ext2",
                                        "ext3",
                                        "ext4",
                                        "XFS",
                                        "Btrfs",
                                        "F2FS",
                                        "SquashFS",
                                        "HFS+",
                                        "APFS container",
                                        "Linux swap",
                                        "LUKS, encrypted",
                                        "encrypted volume",
                                        "LVM member",
                                        "RAID member"};

    return words[kind];
}
