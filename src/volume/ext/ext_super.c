/* SPDX-License-Identifier: MIT */
/* ext4's superblock, group descriptors and bitmaps, piece by piece (Linux
 * kernel documentation, filesystems/ext4). */

#include "base/base.h"
#include "volume/common/common.h"
#include "volume/ext/ext.h"

#define REVISION 1u
#define INODE_EXTRA 32u
#define HASH_HALF_MD4 1u
#define HASH_SIGNED 1u
#define CHECKSUM_CRC32C 1u
#define CLEAN 1u
#define ON_ERRORS_GO_ON 1u
#define MOUNTS_WITHOUT_END 0xFFFFu
#define ATTRIBUTES_AND_LISTS 0x000Cu /* usual mount options */
#define JOURNAL_IS_KEPT 1u
#define USED_INODES (SLATE_EXT_FIRST_FREE_INODE - 1)
#define FOLDERS 2u /* the root, and what is found */

/* Checksums begin with that of the identifier. */
uint32_t slate_ext_seed(const struct slate_ext *ext)
{
    return slate_crc32c(UINT32_MAX, ext->id, sizeof ext->id);
}

static uint64_t inodes(const struct slate_ext *ext)
{
    return (uint64_t)ext->groups * ext->group_inodes;
}

static void put_halves(uint8_t *super, uint32_t low, uint32_t high,
                       uint64_t value)
{
    slate_put_le32(super + low, (uint32_t)value);
    slate_put_le32(super + high, (uint32_t)(value >> 32));
}

static void put_features(const struct slate_ext *ext, uint8_t *super)
{
    slate_put_le32(super + SLATE_EXT_COMPATIBLE,
                   (ext->journal_units > 0 ? SLATE_EXT_HAS_JOURNAL : 0u) |
                       SLATE_EXT_HAS_ATTRIBUTES | SLATE_EXT_HAS_FOLDER_INDEX);
    slate_put_le32(super + SLATE_EXT_INCOMPATIBLE,
                   SLATE_EXT_HAS_FILE_KINDS | SLATE_EXT_HAS_EXTENTS |
                       SLATE_EXT_HAS_64_BITS | SLATE_EXT_HAS_FLEX_GROUPS);
    slate_put_le32(super + SLATE_EXT_READ_ONLY,
                   SLATE_EXT_HAS_FEW_COPIES | SLATE_EXT_HAS_LARGE_FILES |
                       SLATE_EXT_HAS_HUGE_FILES | SLATE_EXT_HAS_MANY_LINKS |
                       SLATE_EXT_HAS_EXTRA_INODE | SLATE_EXT_HAS_CHECKSUMS);
}

static void put_sizes(const struct slate_ext *ext, uint8_t *super)
{
    uint32_t shift = ext->unit_bytes / 2048; /* 0, 1, 2 */

    slate_put_le32(super + SLATE_EXT_INODES, (uint32_t)inodes(ext));
    slate_put_le32(super + SLATE_EXT_FREE_INODES,
                   (uint32_t)(inodes(ext) - USED_INODES));
    put_halves(super, SLATE_EXT_UNITS, SLATE_EXT_UNITS_HIGH, ext->units);
    put_halves(super, SLATE_EXT_RESERVED, SLATE_EXT_RESERVED_HIGH,
               ext->reserved);
    put_halves(super, SLATE_EXT_FREE_UNITS, SLATE_EXT_FREE_UNITS_HIGH,
               slate_ext_free(ext));
    slate_put_le32(super + SLATE_EXT_FIRST_UNIT, slate_ext_first_unit(ext));
    slate_put_le32(super + SLATE_EXT_UNIT_SHIFT, shift);
    slate_put_le32(super + SLATE_EXT_CLUSTER_SHIFT, shift);
    slate_put_le32(super + SLATE_EXT_GROUP_UNITS, slate_ext_group_units(ext));
    slate_put_le32(super + SLATE_EXT_GROUP_CLUSTERS,
                   slate_ext_group_units(ext));
    slate_put_le32(super + SLATE_EXT_GROUP_INODES, ext->group_inodes);
    slate_put_le32(super + SLATE_EXT_FIRST_INODE, USED_INODES);
    slate_put_le16(super + SLATE_EXT_INODE_BYTES, SLATE_EXT_INODE);
    slate_put_le16(super + SLATE_EXT_DESCRIPTOR_BYTES, SLATE_EXT_DESCRIPTOR);
    slate_put_le16(super + SLATE_EXT_EXTRA_LEAST, INODE_EXTRA);
    slate_put_le16(super + SLATE_EXT_EXTRA_WANTED, INODE_EXTRA);
    super[SLATE_EXT_FLEX_BITS] = ext->flex_bits;
}

static void put_journal(const struct slate_ext *ext, uint8_t *super)
{
    if (ext->journal_units == 0)
        return;
    slate_put_le32(super + SLATE_EXT_JOURNAL_INODE,
                   SLATE_EXT_JOURNAL_INODE_NUMBER);
    super[SLATE_EXT_JOURNAL_KEPT] = JOURNAL_IS_KEPT;
    slate_ext_put_journal_map(ext, super + SLATE_EXT_JOURNAL_COPY);
    put_halves(super, SLATE_EXT_JOURNAL_COPY + 64, SLATE_EXT_JOURNAL_COPY + 60,
               (uint64_t)ext->journal_units * ext->unit_bytes);
}

/* The first half: all fields but the checksum. super: zeroed */
static void put_fields(const struct slate_ext *ext, uint32_t group,
                       uint8_t *super)
{
    put_sizes(ext, super);
    put_features(ext, super);
    put_journal(ext, super);
    slate_put_le32(super + SLATE_EXT_WRITTEN, ext->seconds);
    slate_put_le32(super + SLATE_EXT_CHECKED, ext->seconds);
    slate_put_le32(super + SLATE_EXT_MADE, ext->seconds);
    slate_put_le16(super + SLATE_EXT_MOUNTS_MOST, MOUNTS_WITHOUT_END);
    slate_put_le16(super + SLATE_EXT_MAGIC_AT, SLATE_EXT_MAGIC);
    slate_put_le16(super + SLATE_EXT_STATE, CLEAN);
    slate_put_le16(super + SLATE_EXT_ON_ERRORS, ON_ERRORS_GO_ON);
    slate_put_le32(super + SLATE_EXT_REVISION, REVISION);
    slate_put_le16(super + SLATE_EXT_GROUP_NUMBER, (uint16_t)group);
    memcpy(super + SLATE_EXT_ID, ext->id, sizeof ext->id);
    memcpy(super + SLATE_EXT_LABEL, ext->label, strlen(ext->label));
    memcpy(super + SLATE_EXT_HASH_SEED, ext->hash_seed, sizeof ext->hash_seed);
    super[SLATE_EXT_HASH_KIND] = HASH_HALF_MD4;
    slate_put_le32(super + SLATE_EXT_MOUNT_OPTIONS, ATTRIBUTES_AND_LISTS);
    slate_put_le32(super + SLATE_EXT_FLAGS, HASH_SIGNED);
    super[SLATE_EXT_CHECKSUM_KIND] = CHECKSUM_CRC32C;
}

/* The second half is zeros, and ends with the checksum over all ahead of it. */
void slate_ext_put_super(const struct slate_ext *ext, uint32_t group,
                         uint32_t at, uint8_t *piece)
{
    uint8_t half[SLATE_EXT_PIECE] = {0};
    uint32_t sum, rest = SLATE_EXT_CHECKSUM - SLATE_EXT_PIECE;

    if (at == 0)
        put_fields(ext, group, piece);
    if (at != SLATE_EXT_PIECE)
        return;
    put_fields(ext, group, half);
    sum = slate_crc32c(UINT32_MAX, half, sizeof half);
    slate_put_le32(piece + rest, slate_crc32c(sum, piece, rest));
}

/* A checksum over a bitmap, composed piece by piece. */
static uint32_t
bitmap_sum(const struct slate_ext *ext, uint32_t group, uint32_t bytes,
           void (*put)(const struct slate_ext *ext, uint32_t group, uint32_t at,
                       uint8_t *piece))
{
    uint32_t sum = slate_ext_seed(ext);

    for (uint32_t at = 0; at < bytes; at += SLATE_EXT_PIECE) {
        uint8_t piece[SLATE_EXT_PIECE] = {0};
        uint32_t left = bytes - at;

        put(ext, group, at, piece);
        sum = slate_crc32c(sum, piece,
                           left < SLATE_EXT_PIECE ? left : SLATE_EXT_PIECE);
    }
    return sum;
}

/* Halves of a field of the descriptor, at the same place of both its halves. */
static void put_wide(uint8_t *descriptor, uint32_t at, uint64_t value)
{
    slate_put_le32(descriptor + at, (uint32_t)value);
    slate_put_le32(descriptor + SLATE_EXT_GROUP_HIGH + at,
                   (uint32_t)(value >> 32));
}

static void put_narrow(uint8_t *descriptor, uint32_t at, uint32_t value)
{
    slate_put_le16(descriptor + at, (uint16_t)value);
    slate_put_le16(descriptor + SLATE_EXT_GROUP_HIGH + at,
                   (uint16_t)(value >> 16));
}

static void put_sums(const struct slate_ext *ext, uint32_t group, bool written,
                     uint8_t *descriptor)
{
    uint16_t flags = 0;

    if (written)
        put_narrow(
            descriptor, SLATE_EXT_GROUP_BITMAP_SUM,
            bitmap_sum(ext, group, ext->unit_bytes, slate_ext_put_bitmap));
    else
        flags |= SLATE_EXT_BITMAP_BLANK;
    if (group == 0)
        put_narrow(descriptor, SLATE_EXT_GROUP_INODE_BITMAP_SUM,
                   bitmap_sum(ext, 0, ext->group_inodes / 8,
                              slate_ext_put_inode_bitmap));
    else
        flags |= SLATE_EXT_INODES_BLANK;
    slate_put_le16(descriptor + SLATE_EXT_GROUP_FLAGS, flags);
}

static void put_counts(const struct slate_ext *ext, uint32_t group,
                       bool written, uint8_t *descriptor)
{
    uint32_t used = group == 0 ? USED_INODES : 0;
    uint64_t blank = slate_ext_group_end(ext, group) -
                     slate_ext_group_first(ext, group) -
                     slate_ext_head_units(ext, group);

    put_narrow(descriptor, SLATE_EXT_GROUP_FREE,
               (uint32_t)(written ? slate_ext_free_in(ext, group) : blank));
    put_narrow(descriptor, SLATE_EXT_GROUP_FREE_INODES,
               ext->group_inodes - used);
    put_narrow(descriptor, SLATE_EXT_GROUP_FOLDERS, group == 0 ? FOLDERS : 0);
    put_narrow(descriptor, SLATE_EXT_GROUP_UNUSED, ext->group_inodes - used);
}

static void put_descriptor(const struct slate_ext *ext, uint32_t group,
                           uint8_t *descriptor)
{
    struct slate_ext_places places;
    uint8_t number[4];
    bool written;
    uint32_t sum;

    slate_ext_find(ext, group, &places);
    written = slate_ext_is_written(ext, group, places.end);
    put_wide(descriptor, SLATE_EXT_GROUP_BITMAP, places.bitmap);
    put_wide(descriptor, SLATE_EXT_GROUP_INODE_BITMAP, places.inode_bitmap);
    put_wide(descriptor, SLATE_EXT_GROUP_TABLE, places.table);
    put_counts(ext, group, written, descriptor);
    put_sums(ext, group, written, descriptor);
    slate_put_le32(number, group);
    sum = slate_crc32c(slate_ext_seed(ext), number, sizeof number);
    sum = slate_crc32c(sum, descriptor, SLATE_EXT_DESCRIPTOR);
    slate_put_le16(descriptor + SLATE_EXT_GROUP_SUM, (uint16_t)sum);
}

void slate_ext_put_descriptors(const struct slate_ext *ext, uint32_t first,
                               uint8_t *piece)
{
    for (uint32_t i = 0;
         i < SLATE_EXT_PIECE / SLATE_EXT_DESCRIPTOR && first + i < ext->groups;
         i++)
        put_descriptor(ext, first + i,
                       piece + (size_t)i * SLATE_EXT_DESCRIPTOR);
}

static void set_bits(void *context, uint64_t first, uint64_t count)
{
    slate_bits_set(context, first, count);
}

static struct slate_bits bits_at(uint32_t at, uint8_t *piece)
{
    return (struct slate_bits){piece, (uint64_t)at * 8,
                               (uint64_t)SLATE_EXT_PIECE * 8};
}

/* What lies behind the end of the volume is in use, too. */
void slate_ext_put_bitmap(const struct slate_ext *ext, uint32_t group,
                          uint32_t at, uint8_t *piece)
{
    struct slate_bits bits = bits_at(at, piece);
    uint64_t count =
        slate_ext_group_end(ext, group) - slate_ext_group_first(ext, group);

    slate_ext_used(ext, group, set_bits, &bits);
    slate_bits_set(&bits, count, slate_ext_group_units(ext) - count);
}

void slate_ext_put_inode_bitmap(const struct slate_ext *ext, uint32_t group,
                                uint32_t at, uint8_t *piece)
{
    struct slate_bits bits = bits_at(at, piece);

    if (group == 0)
        slate_bits_set(&bits, 0, USED_INODES);
    slate_bits_set(&bits, ext->group_inodes,
                   8 * (uint64_t)ext->unit_bytes - ext->group_inodes);
}
