/* SPDX-License-Identifier: MIT */
/* exFAT: its row, and what its first block tells at once (file system
 * specification 1.00, 3.1). */
#include "base/base.h"
#include "volume/exfat/exfat.h"

static void take(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = run[SLATE_EXFAT_BLOCK_SHIFT],
             cluster = block + run[SLATE_EXFAT_CLUSTER_SHIFT];

    if (block < 9 || block > 12 || cluster > 25)
        return;
    volume->block_bytes = (uint32_t)1 << block;
    volume->cluster_bytes = (uint32_t)1 << cluster;
    volume->clusters_at = (uint64_t)slate_le32(run + SLATE_EXFAT_CLUSTERS_AT)
                          << block;
    volume->clusters = slate_le32(run + SLATE_EXFAT_CLUSTERS);
    volume->bytes = slate_shifted(slate_le64(run + SLATE_EXFAT_BLOCKS), block);
    volume->serial = slate_le32(run + SLATE_EXFAT_SERIAL);
    volume->dirty =
        (slate_le16(run + SLATE_EXFAT_FLAGS) & SLATE_EXFAT_DIRTY) != 0;
    if (run[SLATE_EXFAT_IN_USE] <= 100) { /* rounded down: less is free */
        volume->free_known = true;
        volume->free_clusters =
            run[SLATE_EXFAT_IN_USE] == 100
                ? 0
                : volume->clusters * (99u - run[SLATE_EXFAT_IN_USE]) / 100;
    }
}

static const struct slate_signature signature = {SLATE_VOLUME_EXFAT,
                                                 SLATE_TURN_FILLS,
                                                 0,
                                                 SLATE_EXFAT_NAME,
                                                 8,
                                                 "EXFAT   ",
                                                 take};

static const struct slate_family family = {.words = "exFAT",
                                           .signature = &signature,
                                           .signatures = 1,
                                           .look = slate_exfat_read,
                                           SLATE_FAMILY_PARTS(slate_exfat)};

static const struct slate_format format = {
    SLATE_FORMAT_ROW(slate_exfat, "exfat"),
    .kind = SLATE_VOLUME_EXFAT,
    .plan = slate_exfat_plan,
    .limits = slate_exfat_limits,
    .label_rule =
        "keeps 11 characters, and none that names of files must not have",
    .files = true};

const struct slate_kind slate_kind_exfat = {.words = "exFAT",
                                            .family = &family,
                                            .format = &format,
                                            .mbr = {SLATE_MBR_EXFAT},
                                            .gpt = {&slate_basic_data},
                                            .known = true,
                                            .tells_block = true,
                                            .flagged = true,
                                            .sought = true};
