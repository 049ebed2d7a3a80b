/* SPDX-License-Identifier: MIT */
/* A closer look at ext2, ext3 and ext4: the copy of the superblock in the
 * second group (Linux kernel documentation, filesystems/ext4). */

#include "base/base.h"
#include "volume/ext/ext.h"
#include "volume/common/common.h"

#define SUPER_AT 1024u
#define SUPER_BYTES 1024u
#define READ_ONLY_AT 101u /* second byte of the features, bit 12 of them */
#define READ_ONLY 0x10
#define FEATURES_AT 100u
#define SEALED 0x0400u
#define SEAL_AT 1020u

/* What no host ever changes: sizes, magic, identifier. */
static bool is_copy(const uint8_t *super, const uint8_t *copy)
{
    return memcmp(super + 20, copy + 20, 12) == 0 &&
           memcmp(super + 4, copy + 4, 4) == 0 &&
           memcmp(super + 56, copy + 56, 2) == 0 &&
           memcmp(super + 104, copy + 104, 16) == 0;
}

void slate_ext_read(struct slate_reader *reader, const uint8_t *boot,
                    struct slate_volume *volume)
{
    const uint8_t *super = slate_reader_at(reader, SUPER_AT, SUPER_BYTES);
    uint8_t kept[120];
    uint64_t block;

    (void)boot;
    if (volume->read_only)
        slate_reader_flag(reader, SLATE_FLAG_READ_ONLY, SUPER_AT + READ_ONLY_AT,
                          READ_ONLY, false);
    if (super == NULL || volume->cluster_bytes == 0)
        return;
    memcpy(kept, super, sizeof kept);
    block = (uint64_t)slate_le32(super + 20) + slate_le32(super + 32);
    if (slate_le32(super + 32) == 0 || block >= volume->clusters)
        return; /* a single group keeps no copy */
    volume->copy_lba = slate_reader_lba(reader, block * volume->cluster_bytes);
    super = slate_reader_at(reader, block * volume->cluster_bytes, SUPER_BYTES);
    if (reader->status != SLATE_OK)
        return;
    volume->copy = super == NULL          ? SLATE_COPY_OUTSIDE
                   : is_copy(kept, super) ? SLATE_COPY_EQUAL
                                          : SLATE_COPY_DIFFERENT;
}

void slate_ext_seal(uint8_t *super)
{
    if ((slate_le32(super + FEATURES_AT) & SEALED) != 0)
        slate_put_le32(super + SEAL_AT,
                       slate_crc32c(UINT32_MAX, super, SEAL_AT));
}
