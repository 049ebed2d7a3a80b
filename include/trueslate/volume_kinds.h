/* SPDX-License-Identifier: MIT */
/* The kinds of volumes: one list. All else that is known of a kind stands in
 * its row, slate_kind_ and the second word, in a folder of src/volume. */
#ifndef TRUESLATE_VOLUME_KINDS_H
#define TRUESLATE_VOLUME_KINDS_H

/** KIND(enumerator, row) for each kind. */
#define SLATE_VOLUME_LIST(KIND)                                                \
    KIND(NONE, none)     /**< nothing, all zeros */                            \
    KIND(UNREAD, unread) /**< could not be read, or was not looked at */       \
    KIND(OTHER, other)   /**< content that is not recognised */                \
    KIND(RANDOM, random) /**< the same, and evenly random: encrypted? */       \
    KIND(UNFINISHED, unfinished) /**< the mark: it is being overwritten */     \
    KIND(FAT12, fat12)                                                         \
    KIND(FAT16, fat16)                                                         \
    KIND(FAT32, fat32)                                                         \
    KIND(OPTICAL, optical) /**< an optical-disc image (ISO 9660) */            \
    KIND(UDF, udf)         /**< of another kind (ECMA-167) */                  \
    KIND(EXFAT, exfat)                                                         \
    KIND(NTFS, ntfs)                                                           \
    KIND(REFS, refs)                                                           \
    KIND(EXT2, ext2)                                                           \
    KIND(EXT3, ext3)                                                           \
    KIND(EXT4, ext4)                                                           \
    KIND(XFS, xfs)                                                             \
    KIND(BTRFS, btrfs)                                                         \
    KIND(F2FS, f2fs)                                                           \
    KIND(SQUASHFS, squashfs)                                                   \
    KIND(HFS, hfs)                                                             \
    KIND(HFS_PLUS, hfs_plus)                                                   \
    KIND(APFS, apfs) /**< a container; its volumes' names are the label */     \
    KIND(SWAP, swap)                                                           \
    KIND(LUKS, luks)           /**< encrypted */                               \
    KIND(ENCRYPTED, encrypted) /**< encrypted in another way */                \
    KIND(LVM, lvm)             /**< member of something larger */              \
    KIND(RAID, raid)           /**< member of something larger */              \
    KIND(ZFS, zfs)             /**< member of something larger */

/** SLATE_VOLUME_NONE and so on; SLATE_VOLUME_KINDS is their number. */
#define SLATE_VOLUME_ENUM(NAME, row) SLATE_VOLUME_##NAME,
enum slate_volume_kind {
    SLATE_VOLUME_LIST(SLATE_VOLUME_ENUM) SLATE_VOLUME_KINDS
};
#undef SLATE_VOLUME_ENUM

#endif
