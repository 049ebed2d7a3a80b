/* SPDX-License-Identifier: MIT */
/* What Linux puts on a disk beside ext: file systems, swap, and what is part of
 * something larger. docs/volumes.md names the specification of each. */

#include "volume/known/known.h"

#define BTRFS_PLACE_AT 48u /* byte of the volume where this copy stands */

static void take_btrfs(const uint8_t *run, struct slate_volume *volume)
{
    volume->bytes = slate_le64(run + 112);
    volume->cluster_bytes = slate_le32(run + 144);
    slate_label_utf8(volume, run + 299, SLATE_LABEL_ROOM - 1);
    slate_volume_take_uuid(run + 32, volume);
    volume->has_members = slate_le64(run + 136) > 1;
}

static enum slate_here place_btrfs(struct slate_reader *reader)
{
    const uint8_t *run =
        slate_reader_at(reader, SLATE_RUN_FAR, SLATE_PIECE_BYTES);

    if (run == NULL)
        return SLATE_HERE_UNTOLD;
    return slate_le64(run + BTRFS_PLACE_AT) == SLATE_RUN_FAR ? SLATE_HERE_TOLD
                                                             : SLATE_HERE_COPY;
}

static void take_f2fs(const uint8_t *run, struct slate_volume *volume)
{
    volume->bytes = slate_shifted(slate_le64(run + 1024 + 36), 12);
    slate_label_utf16(volume, run + 1024 + 124, 31);
}

/* Linux RAID, version 1: the name of the array. */
static void take_raid(const uint8_t *run, struct slate_volume *volume)
{
    slate_volume_take_uuid(run + 16, volume);
    slate_label_utf8(volume, run + 32, 32);
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

/* 0657FD6D-A4AB-43C4-84E5-0933C84B4F4F */
static const struct slate_guid swap_data = {{0x6D, 0xFD, 0x57, 0x06, 0xAB, 0xA4,
                                             0xC4, 0x43, 0x84, 0xE5, 0x09, 0x33,
                                             0xC8, 0x4B, 0x4F, 0x4F}};
/* E6D6D379-F507-44C2-A23C-238F2A3DF928 */
static const struct slate_guid lvm_data = {{0x79, 0xD3, 0xD6, 0xE6, 0x07, 0xF5,
                                            0xC2, 0x44, 0xA2, 0x3C, 0x23, 0x8F,
                                            0x2A, 0x3D, 0xF9, 0x28}};
/* A19D880F-05FC-4D3B-A006-743F0F84911E */
static const struct slate_guid raid_data = {{0x0F, 0x88, 0x9D, 0xA1, 0xFC, 0x05,
                                             0x3B, 0x4D, 0xA0, 0x06, 0x74, 0x3F,
                                             0x0F, 0x84, 0x91, 0x1E}};

#define FAMILY(name)                                                           \
    static const struct slate_family name = {                                  \
        .signature = name##_signs,                                             \
        .signatures = sizeof name##_signs / sizeof name##_signs[0]}

static const struct slate_signature f2fs_signs[] = {
    {SLATE_VOLUME_F2FS, SLATE_TURN_BEHIND, 0, 1024, 4, "\x10\x20\xF5\xF2",
     take_f2fs}};
FAMILY(f2fs);
static const struct slate_signature squash_signs[] = {
    {SLATE_VOLUME_SQUASHFS, SLATE_TURN_START, 0, 0, 4, "hsqs", take_squash}};
FAMILY(squash);
static const struct slate_signature swap_signs[] = {
    {SLATE_VOLUME_SWAP, SLATE_TURN_TAIL, 0, 4086, 10, "SWAPSPACE2", take_swap}};
FAMILY(swap);
static const struct slate_signature luks_signs[] = {
    {SLATE_VOLUME_LUKS, SLATE_TURN_FILLS, 0, 0, 6, "LUKS\xBA\xBE", take_luks}};
/* The second header, behind the first one's smallest list (LUKS2, 2.1). */
static const struct slate_remnant luks_remnants[] = {
    {"SKUL\xBA\xBE", 6, 0, 16384}};
static const struct slate_family luks = {.signature = luks_signs,
                                         .signatures = 1,
                                         .remnant = luks_remnants,
                                         .remnants = 1};
static const struct slate_signature lvm_signs[] = {
    {SLATE_VOLUME_LVM, SLATE_TURN_LOOSE, 0, 24, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_LVM, SLATE_TURN_LOOSE, 0, 536, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_LVM, SLATE_TURN_LOOSE, 0, 1048, 8, "LVM2 001", NULL},
    {SLATE_VOLUME_LVM, SLATE_TURN_LOOSE, 0, 1560, 8, "LVM2 001", NULL}};
FAMILY(lvm);

static const struct slate_signature btrfs_signs[] = {
    {SLATE_VOLUME_BTRFS, SLATE_TURN_START, SLATE_RUN_FAR, 64, 8, "_BHRfS_M",
     take_btrfs}};
static const struct slate_family btrfs = {
    .signature = btrfs_signs, .signatures = 1, .place = place_btrfs};

static const struct slate_signature raid_signs[] = {
    {SLATE_VOLUME_RAID, SLATE_TURN_LOOSE, 0, 0, 4, "\xFC\x4E\x2B\xA9",
     take_raid},
    {SLATE_VOLUME_RAID, SLATE_TURN_LOOSE, SLATE_RUN_SECOND, 0, 4,
     "\xFC\x4E\x2B\xA9", take_raid}};
static const struct slate_family raid = {.signature = raid_signs,
                                         .signatures = 2,
                                         .judge_tail = slate_raid_tail_read};

SLATE_KNOWN(btrfs, "Btrfs", &btrfs,
            .part_of = "one of several members of a Btrfs volume",
            .mbr = {SLATE_MBR_LINUX, SLATE_MBR_RAID},
            .gpt = {&slate_linux_data}, .sought = true, .grows = true);
SLATE_KNOWN(f2fs, "F2FS", &f2fs, .mbr = {SLATE_MBR_LINUX, SLATE_MBR_RAID},
            .gpt = {&slate_linux_data}, .sought = true, .never_fills = true);
SLATE_KNOWN(squashfs, "SquashFS", &squash,
            .mbr = {SLATE_MBR_LINUX, SLATE_MBR_RAID},
            .gpt = {&slate_linux_data}, .never_fills = true);
SLATE_KNOWN(swap, "Linux swap", &swap, .mbr = {SLATE_MBR_SWAP},
            .gpt = {&swap_data}, .never_fills = true);
SLATE_KNOWN(luks, "LUKS, encrypted", &luks,
            .part_of = "an encrypted volume (LUKS)",
            .mbr = {SLATE_MBR_LINUX, SLATE_MBR_RAID},
            .gpt = {&slate_linux_data}, .needs_more = true, .keyed = true);
SLATE_KNOWN(lvm, "LVM member", &lvm,
            .part_of = "a member of a volume group (LVM)",
            .mbr = {SLATE_MBR_LVM, SLATE_MBR_RAID}, .gpt = {&lvm_data},
            .needs_more = true);
SLATE_KNOWN(raid, "RAID member", &raid, .part_of = "a member of a RAID",
            .mbr = {SLATE_MBR_RAID}, .gpt = {&raid_data}, .needs_more = true);
