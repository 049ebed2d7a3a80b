/* SPDX-License-Identifier: MIT */
/* Recognising volumes that are not composed here: a signature at a fixed place
 * tells the kind; the sizes and labels that are cheap are read as well. One
 * row for each kind; docs/volumes.md names the specification of each. */
#include <string.h>

#include "base/bits.h"
#include "base/bytes.h"
#include "volume/exfat/exfat.h"
#include "volume/common/read.h"

struct signature {
    enum slate_volume_kind kind;
    uint32_t run; /* byte at which the run of 4096 bytes begins */
    uint16_t at;  /* in the run */
    uint8_t length;
    const char *bytes;
    void (*more)(const uint8_t *run, struct slate_volume *volume);
};

static void take_uuid(const uint8_t *field, struct slate_volume *volume)
{
    memcpy(volume->uuid.bytes, field, sizeof volume->uuid.bytes);
}

static uint64_t shifted(uint64_t value, uint32_t shift)
{
    return shift < 64 && value <= UINT64_MAX >> shift ? value << shift : 0;
}

/* exFAT file system specification, 3.1 */
static void take_exfat(const uint8_t *run, struct slate_volume *volume)
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
    volume->bytes = shifted(slate_le64(run + SLATE_EXFAT_BLOCKS), block);
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

/* The boot block: bytes a block, blocks a cluster, blocks of the volume (one
 * less than its partition has). */
static void take_ntfs(const uint8_t *run, struct slate_volume *volume)
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

#define EXT_AT 1024
#define EXT_HAS_JOURNAL 0x0004u
/* extents, 64-bit, flexible groups: only the fourth version has them */
#define EXT_FOURTH 0x02C0u
#define EXT_64BIT 0x0080u
#define EXT_REPLAY 0x0004u /* the journal has to be replayed */
#define EXT_STATES 0x0003u /* clean, and errors found */
#define EXT_CLEAN 0x0001u
#define EXT_READ_ONLY 0x1000u /* of the features that forbid writing */

static void take_ext(const uint8_t *run, struct slate_volume *volume)
{
    const uint8_t *super = run + EXT_AT;
    uint32_t shift = slate_le32(super + 24);
    uint64_t blocks = slate_le32(super + 4);
    uint64_t free_blocks = slate_le32(super + 12);
    uint32_t incompatible = slate_le32(super + 96);

    if ((incompatible & EXT_FOURTH) != 0)
        volume->kind = SLATE_VOLUME_EXT4;
    else if ((slate_le32(super + 92) & EXT_HAS_JOURNAL) != 0)
        volume->kind = SLATE_VOLUME_EXT3;
    if ((incompatible & EXT_64BIT) != 0) {
        blocks |= (uint64_t)slate_le32(super + 336) << 32;
        free_blocks |= (uint64_t)slate_le32(super + 344) << 32;
    }
    if (shift > 6)
        return;
    volume->cluster_bytes = (uint32_t)1024 << shift;
    volume->bytes = shifted(blocks, 10 + shift);
    volume->clusters = blocks;
    volume->free_clusters = free_blocks;
    volume->free_known = free_blocks <= blocks;
    volume->replay = (incompatible & EXT_REPLAY) != 0;
    volume->dirty =
        (slate_le16(super + 58) & EXT_STATES) != EXT_CLEAN || volume->replay;
    volume->read_only = (slate_le32(super + 100) & EXT_READ_ONLY) != 0;
    take_uuid(super + 104, volume);
    slate_label_utf8(volume, super + 120, 16);
}

static void take_xfs(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_be32(run + 4);

    if (block >= 512 && block <= 65536 &&
        slate_be64(run + 8) < UINT64_MAX / block) {
        volume->cluster_bytes = block;
        volume->bytes = slate_be64(run + 8) * block;
    }
    slate_label_utf8(volume, run + 108, 12);
}

static void take_btrfs(const uint8_t *run, struct slate_volume *volume)
{
    volume->bytes = slate_le64(run + 112);
    volume->cluster_bytes = slate_le32(run + 144);
    slate_label_utf8(volume, run + 299, SLATE_LABEL_ROOM - 1);
    take_uuid(run + 32, volume);
    volume->has_members = slate_le64(run + 136) > 1;
}

static void take_f2fs(const uint8_t *run, struct slate_volume *volume)
{
    volume->bytes = shifted(slate_le64(run + 1024 + 36), 12);
    slate_label_utf16(volume, run + 1024 + 124, 31);
}

static void take_hfs(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_be32(run + 1024 + 40);

    volume->cluster_bytes = block;
    volume->bytes = (uint64_t)block * slate_be32(run + 1024 + 44);
}

static void take_apfs(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_le32(run + 36);

    if (block < 4096 || block > 65536 ||
        slate_le64(run + 40) >= UINT64_MAX / block)
        return;
    take_uuid(run + 72, volume);
    volume->cluster_bytes = block;
    volume->bytes = slate_le64(run + 40) * block;
}

static void take_hfs_classic(const uint8_t *run, struct slate_volume *volume)
{
    const uint8_t *block = run + 1024;

    volume->cluster_bytes = slate_be32(block + 20);
    volume->bytes = (uint64_t)volume->cluster_bytes * slate_be16(block + 18);
    slate_label_bytes(volume, block + 37, block[36] <= 27 ? block[36] : 27);
}

/* Linux RAID, version 1: the name of the array. */
static void take_raid(const uint8_t *run, struct slate_volume *volume)
{
    take_uuid(run + 16, volume);
    slate_label_utf8(volume, run + 32, 32);
}

/* A list of names and values, each with its lengths ahead (XDR, RFC 4506); the
 * first name is "version", the pool's own stands a few behind it. */
static void take_zfs(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t at = 12;

    volume->has_members = true;
    while (at + 40 < SLATE_WORK_MIN) {
        uint32_t size = slate_be32(run + at);
        uint32_t value = at + 12 + ((slate_be32(run + at + 8) + 3u) & ~3u);

        if (size < 20 || size > SLATE_WORK_MIN - at)
            return;
        if (memcmp(run + at + 8, "\0\0\0\4name\0\0\0\11", 12) == 0) {
            uint32_t length = slate_be32(run + value + 8);

            if (value + 12 < at + size && length <= at + size - value - 12)
                slate_label_utf8(volume, run + value + 12, length);
            return;
        }
        at += size;
    }
}

static void take_squash(const uint8_t *run, struct slate_volume *volume)
{
    volume->bytes = slate_le64(run + 40);
}

static void take_swap(const uint8_t *run, struct slate_volume *volume)
{
    slate_label_utf8(volume, run + 1052, 16);
}

static void take_luks(const uint8_t *run, struct slate_volume *volume)
{
    if (slate_be16(run + 6) == 2)
        slate_label_utf8(volume, run + 24, 48);
}

static const struct signature signatures[] = {
    {SLATE_VOLUME_EXFAT, 0, SLATE_EXFAT_NAME, 8, "EXFAT   ", take_exfat},
    {SLATE_VOLUME_NTFS, 0, 3, 8, "NTFS    ", take_ntfs},
    {SLATE_VOLUME_ENCRYPTED, 0, 3, 8, "-FVE-FS-", NULL},
    {SLATE_VOLUME_LUKS, 0, 0, 6, "LUKS\xBA\xBE", take_luks},
    {SLATE_VOLUME_EXT2, 0, EXT_AT + 56, 2, "\x53\xEF", take_ext},
    {SLATE_VOLUME_XFS, 0, 0, 4, "XFSB", take_xfs},
    {SLATE_VOLUME_SQUASHFS, 0, 0, 4, "hsqs", take_squash},
    {SLATE_VOLUME_APFS, 0, 32, 4, "NXSB", take_apfs},
    {SLATE_VOLUME_F2FS, 0, 1024, 4, "\x10\x20\xF5\xF2", take_f2fs},
    {SLATE_VOLUME_HFS_PLUS, 0, 1024, 4, "H+\0\4", take_hfs},
    {SLATE_VOLUME_HFS_PLUS, 0, 1024, 4, "HX\0\5", take_hfs},
    {SLATE_VOLUME_HFS, 0, 1024, 2, "BD", take_hfs_classic},
    {SLATE_VOLUME_REFS, 0, 3, 8, "ReFS\0\0\0\0", NULL},
    {SLATE_VOLUME_LVM, 0, 24, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_LVM, 0, 536, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_LVM, 0, 1048, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_LVM, 0, 1560, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_RAID, 0, 0, 4, "\xFC\x4E\x2B\xA9", take_raid},
    {SLATE_VOLUME_SWAP, 0, 4086, 10, "SWAPSPACE2", take_swap},
    {SLATE_VOLUME_RAID, 4096, 0, 4, "\xFC\x4E\x2B\xA9", take_raid},
    {SLATE_VOLUME_ZFS, 16384, 24, 8, "version\0", take_zfs},
    {SLATE_VOLUME_BTRFS, 65536, 64, 8, "_BHRfS_M", take_btrfs},
};

static bool matches(const struct signature *row, uint32_t run,
                    const uint8_t *bytes)
{
    return row->run == run &&
           memcmp(bytes + row->at, row->bytes, row->length) == 0;
}

bool slate_signature_judge(uint32_t run, const uint8_t *bytes,
                           struct slate_volume *volume)
{
    for (size_t i = 0; i < sizeof signatures / sizeof signatures[0]; i++) {
        if (!matches(&signatures[i], run, bytes))
            continue;
        volume->kind = signatures[i].kind;
        if (signatures[i].more != NULL)
            signatures[i].more(bytes, volume);
        return true;
    }
    return false;
}
