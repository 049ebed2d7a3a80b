/* SPDX-License-Identifier: MIT */
/* NTFS: its row, and what its first block tells at once. */
#include "base/base.h"
#include "volume/ntfs/ntfs.h"

/* The boot block: bytes a block, blocks a cluster, blocks of the volume (one
 * less than its partition has). */
static void take(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_le16(run + 11);

    if (!slate_is_block_size(block))
        return;
    volume->block_bytes = block;
    if (run[13] <= 128)
        volume->cluster_bytes = run[13] * block;
    else if (run[13] >= 0xF4)
        volume->cluster_bytes = (uint32_t)block << (256 - run[13]);
    if (slate_le64(run + 40) < UINT64_MAX / block)
        volume->bytes = (slate_le64(run + 40) + 1) * block;
    if (volume->cluster_bytes != 0) /* the last block is in none */
        volume->clusters = volume->bytes == 0 ? 0
                                              : (volume->bytes - block) /
                                                    volume->cluster_bytes;
    volume->serial = slate_le32(run + 72);
}

static const struct slate_signature signature = {
    SLATE_VOLUME_NTFS, SLATE_TURN_FILLS, 0, 3, 8, "NTFS    ", take};

static const struct slate_family family = {.words = "NTFS",
                                           .signature = &signature,
                                           .signatures = 1,
                                           .look = slate_ntfs_read,
                                           SLATE_FAMILY_PARTS(slate_ntfs)};

static const struct slate_format format = {
    SLATE_FORMAT_ROW(slate_ntfs, "ntfs"), .kind = SLATE_VOLUME_NTFS,
    .plan = slate_ntfs_plan, .limits = slate_ntfs_limits,
    .label_rule = "keeps 32 characters"};

const struct slate_kind slate_kind_ntfs = {.words = "NTFS",
                                           .family = &family,
                                           .format = &format,
                                           .mbr = {SLATE_MBR_EXFAT},
                                           .gpt = {&slate_basic_data},
                                           .known = true,
                                           .tells_block = true,
                                           .flagged = true,
                                           .sought = true,
                                           .grows = true};
