/* SPDX-License-Identifier: MIT */
/* Does a volume begin here, and what of its own says so? */
#include <string.h>

#include "base/bytes.h"
#include "volume/common/begins.h"
#include "volume/exfat/exfat.h"
#include "volume/ext/ext.h"
#include "volume/fat/fat.h"
#include "volume/common/read.h"

#define FAR_RUN 65536u
#define HIDDEN_BLOCKS_AT 28u /* of FAT and NTFS: blocks ahead of the volume */
#define EXFAT_PLACE_AT 64u   /* exFAT 1.00, 3.1.4 */
#define BTRFS_PLACE_AT 48u   /* byte of the volume where this copy stands */
#define XFS_SECTOR_AT 102u
#define XFS_GROUP_AT 8u /* of the header of an allocation group: its number */

bool slate_volume_begins(struct slate_reader *reader,
                         struct slate_volume *volume)
{
    const uint8_t *run = slate_reader_at(reader, 0, SLATE_WORK_MIN);
    uint8_t boot[SLATE_PIECE_BYTES];

    memset(volume, 0, sizeof *volume);
    if (run == NULL)
        return false;
    memcpy(boot, run, sizeof boot);
    if (slate_fat_read(reader, boot, SLATE_DEPTH_GLANCE, volume))
        return true;
    run = slate_reader_at(reader, 0, SLATE_WORK_MIN);
    if (run != NULL && slate_signature_judge(0, run, volume))
        return true;
    run = slate_reader_at(reader, FAR_RUN, SLATE_WORK_MIN);
    return run != NULL && slate_signature_judge(FAR_RUN, run, volume);
}

static bool is_fat(enum slate_volume_kind kind)
{
    return kind >= SLATE_VOLUME_FAT12 && kind <= SLATE_VOLUME_FAT32;
}

static bool is_ext(enum slate_volume_kind kind)
{
    return kind >= SLATE_VOLUME_EXT2 && kind <= SLATE_VOLUME_EXT4;
}

/* The header that follows each superblock of XFS; NULL: there is none. */
static const uint8_t *xfs_group(struct slate_reader *reader)
{
    const uint8_t *run = slate_reader_at(reader, 0, SLATE_WORK_MIN);
    uint32_t at = run == NULL ? 0 : slate_be16(run + XFS_SECTOR_AT);

    return at >= 512 && at <= 2048 && memcmp(run + at, "XAGF", 4) == 0
               ? run + at
               : NULL;
}

/* Each allocation group begins with a copy of the superblock. */
static bool is_later_group(struct slate_reader *reader)
{
    const uint8_t *group = xfs_group(reader);

    return group != NULL && slate_be32(group + XFS_GROUP_AT) != 0;
}

enum slate_here slate_volume_place(struct slate_reader *reader,
                                   const struct slate_volume *volume)
{
    uint64_t here = reader->range.first, told = 0;
    const uint8_t *bytes = slate_reader_at(
        reader, volume->kind == SLATE_VOLUME_BTRFS ? FAR_RUN : 0,
        SLATE_WORK_MIN);

    if (bytes != NULL && volume->kind == SLATE_VOLUME_XFS)
        return is_later_group(reader) ? SLATE_HERE_COPY : SLATE_HERE_UNTOLD;
    if (bytes == NULL)
        return SLATE_HERE_UNTOLD;
    if (is_ext(volume->kind)) /* each group may keep a copy */
        return slate_le16(bytes + SLATE_EXT_SUPER_AT +
                          SLATE_EXT_GROUP_NUMBER) == 0
                   ? SLATE_HERE_UNTOLD
                   : SLATE_HERE_COPY;
    if (volume->kind == SLATE_VOLUME_BTRFS)
        return slate_le64(bytes + BTRFS_PLACE_AT) == FAR_RUN ? SLATE_HERE_TOLD
                                                             : SLATE_HERE_COPY;
    if (volume->kind == SLATE_VOLUME_EXFAT)
        told = slate_le64(bytes + EXFAT_PLACE_AT);
    else if (is_fat(volume->kind) || volume->kind == SLATE_VOLUME_NTFS)
        told = slate_le32(bytes + HIDDEN_BLOCKS_AT);
    return told != 0 && told == here ? SLATE_HERE_TOLD : SLATE_HERE_UNTOLD;
}

/* The first entry of a FAT repeats the medium, and has ones above it (FAT32
 * specification 1.03, 4.2). */
static bool fat_leads_on(struct slate_reader *reader,
                         enum slate_volume_kind kind)
{
    uint32_t block = reader->media->geometry.block_bytes;
    const uint8_t *boot = slate_reader_at(reader, 0, SLATE_PIECE_BYTES), *entry;
    uint32_t medium, mask = kind == SLATE_VOLUME_FAT12   ? 0xFFFu
                            : kind == SLATE_VOLUME_FAT16 ? 0xFFFFu
                                                         : 0x0FFFFFFFu;

    if (boot == NULL || slate_le16(boot + SLATE_FAT_BYTES_PER_BLOCK) != block)
        return false;
    medium = boot[SLATE_FAT_MEDIUM];
    entry = slate_reader_at(
        reader, (uint64_t)slate_le16(boot + SLATE_FAT_RESERVED_BLOCKS) * block,
        4);
    return entry != NULL &&
           (slate_le32(entry) & mask) == ((0x0FFFFF00u | medium) & mask);
}

bool slate_volume_leads_on(struct slate_reader *reader,
                           const struct slate_volume *volume)
{
    if (is_fat(volume->kind))
        return fat_leads_on(reader, volume->kind);
    if (volume->kind == SLATE_VOLUME_EXFAT)
        return slate_exfat_leads_on(reader, 0);
    if (volume->kind == SLATE_VOLUME_NTFS)
        return slate_ntfs_leads_on(reader, 0);
    if (volume->kind == SLATE_VOLUME_XFS)
        return xfs_group(reader) != NULL && !is_later_group(reader);
    return is_ext(volume->kind) &&
           slate_ext_leads_on(reader, SLATE_EXT_SUPER_AT,
                              volume->cluster_bytes);
}

bool slate_volume_has_ground(enum slate_volume_kind kind)
{
    return is_fat(kind) || is_ext(kind) || kind == SLATE_VOLUME_EXFAT ||
           kind == SLATE_VOLUME_NTFS || kind == SLATE_VOLUME_XFS;
}
