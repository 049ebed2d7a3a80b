/* SPDX-License-Identifier: MIT */
/* ext2, ext3 and ext4: their rows, and what a superblock tells at once. */

#include "base/base.h"
#include "volume/ext/ext.h"

#define HAS_JOURNAL 0x0004u
/* extents, 64-bit, flexible groups: only the fourth version has them */
#define FOURTH 0x02C0u
#define HAS_64BIT 0x0080u
#define REPLAY 0x0004u /* the journal has to be replayed */
#define STATES 0x0003u /* clean, and errors found */
#define CLEAN 0x0001u
#define READ_ONLY 0x1000u /* of the features that forbid writing */

static void take(const uint8_t *run, struct slate_volume *volume)
{
    const uint8_t *super = run + SLATE_EXT_SUPER_AT;
    uint32_t shift = slate_le32(super + 24);
    uint64_t blocks = slate_le32(super + 4);
    uint64_t free_blocks = slate_le32(super + 12);
    uint32_t incompatible = slate_le32(super + 96);

    if ((incompatible & FOURTH) != 0)
        volume->kind = SLATE_VOLUME_EXT4;
    else if ((slate_le32(super + 92) & HAS_JOURNAL) != 0)
        volume->kind = SLATE_VOLUME_EXT3;
    if ((incompatible & HAS_64BIT) != 0) {
        blocks |= (uint64_t)slate_le32(super + 336) << 32;
        free_blocks |= (uint64_t)slate_le32(super + 344) << 32;
    }
    if (shift > 6)
        return;
    volume->cluster_bytes = (uint32_t)1024 << shift;
    volume->bytes = slate_shifted(blocks, 10 + shift);
    volume->clusters = blocks;
    volume->free_clusters = free_blocks;
    volume->free_known = free_blocks <= blocks;
    volume->own_clusters = slate_le32(super + 584); /* where it was counted */
    volume->own_known = volume->own_clusters > 0;
    volume->replay = (incompatible & REPLAY) != 0;
    volume->dirty =
        (slate_le16(super + 58) & STATES) != CLEAN || volume->replay;
    volume->read_only = (slate_le32(super + 100) & READ_ONLY) != 0;
    slate_volume_take_uuid(super + 104, volume);
    slate_label_utf8(volume, super + 120, 16);
}

static const struct slate_signature signature = {SLATE_VOLUME_EXT2,
                                                 SLATE_TURN_INNER,
                                                 0,
                                                 SLATE_EXT_SUPER_AT + 56,
                                                 2,
                                                 "\x53\xEF",
                                                 take};

static const struct slate_family family = {.words = "ext",
                                           .signature = &signature,
                                           .signatures = 1,
                                           .look = slate_ext_read,
                                           SLATE_FAMILY_PARTS(slate_ext),
                                           .make_first = slate_ext_make_first};

static const struct slate_format format = {
    SLATE_FORMAT_ROW(slate_ext, "ext4"), .kind = SLATE_VOLUME_EXT4,
    .plan = slate_ext_plan, .limits = slate_ext_limits,
    .label_rule = "keeps 16 bytes of UTF-8"};

#define EXT_ROW(version, composed)                                             \
    {                                                                          \
        .words = "ext" #version, .family = &family, .format = (composed),      \
        .mbr = {SLATE_MBR_LINUX, SLATE_MBR_RAID}, .gpt = {&slate_linux_data},  \
        .known = true, .sought = true, .grows = true                           \
    }

const struct slate_kind slate_kind_ext2 = EXT_ROW(2, NULL);
const struct slate_kind slate_kind_ext3 = EXT_ROW(3, NULL);
const struct slate_kind slate_kind_ext4 = EXT_ROW(4, &format);
