/* SPDX-License-Identifier: MIT */
/* What Macs have: HFS, HFS+ and APFS. */

#include "volume/known/known.h"

static void take_plus(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_be32(run + 1024 + 40);

    volume->cluster_bytes = block;
    volume->bytes = (uint64_t)block * slate_be32(run + 1024 + 44);
}

static void take_classic(const uint8_t *run, struct slate_volume *volume)
{
    const uint8_t *block = run + 1024;

    volume->cluster_bytes = slate_be32(block + 20);
    volume->bytes = (uint64_t)volume->cluster_bytes * slate_be16(block + 18);
    slate_label_bytes(volume, block + 37, block[36] <= 27 ? block[36] : 27);
}

static void take_apfs(const uint8_t *run, struct slate_volume *volume)
{
    uint32_t block = slate_le32(run + 36);

    if (block < 4096 || block > 65536 ||
        slate_le64(run + 40) >= UINT64_MAX / block)
        return;
    slate_volume_take_uuid(run + 72, volume);
    volume->cluster_bytes = block;
    volume->bytes = slate_le64(run + 40) * block;
}

/* The alternate volume header stands 1024 bytes ahead of the end. */
static bool find_copy(struct slate_reader *reader, struct slate_volume *volume)
{
    uint64_t bytes = reader->range.count * reader->media->geometry.block_bytes;
    const uint8_t *header =
        bytes < 4096 ? NULL
                     : slate_reader_at(reader, bytes - 1024, SLATE_PIECE_BYTES);

    if (header == NULL ||
        (memcmp(header, "H+\0\4", 4) != 0 && memcmp(header, "HX\0\5", 4) != 0))
        return false;
    slate_volume_take_copy(reader, SLATE_VOLUME_HFS_PLUS, bytes - 1024, volume);
    return true;
}

static const struct slate_signature classic_sign = {
    SLATE_VOLUME_HFS, SLATE_TURN_BEHIND, 0, 1024, 2, "BD", take_classic};
static const struct slate_signature plus_signs[] = {
    {SLATE_VOLUME_HFS_PLUS, SLATE_TURN_BEHIND, 0, 1024, 4, "H+\0\4", take_plus},
    {SLATE_VOLUME_HFS_PLUS, SLATE_TURN_BEHIND, 0, 1024, 4, "HX\0\5",
     take_plus}};
static const struct slate_signature apfs_sign = {
    SLATE_VOLUME_APFS, SLATE_TURN_START, 0, 32, 4, "NXSB", take_apfs};

static const struct slate_family classic = {.signature = &classic_sign,
                                            .signatures = 1};
static const struct slate_family plus = {
    .signature = plus_signs, .signatures = 2, .find_copy = find_copy};
static const struct slate_family apfs = {
    .signature = &apfs_sign, .signatures = 1, .look = slate_apfs_read};

/* 48465300-0000-11AA-AA11-00306543ECAC */
static const struct slate_guid hfs_data = {{0x00, 0x53, 0x46, 0x48, 0x00, 0x00,
                                            0xAA, 0x11, 0xAA, 0x11, 0x00, 0x30,
                                            0x65, 0x43, 0xEC, 0xAC}};
/* 7C3457EF-0000-11AA-AA11-00306543ECAC */
static const struct slate_guid apfs_data = {{0xEF, 0x57, 0x34, 0x7C, 0x00, 0x00,
                                             0xAA, 0x11, 0xAA, 0x11, 0x00, 0x30,
                                             0x65, 0x43, 0xEC, 0xAC}};

SLATE_KNOWN(hfs, "HFS", &classic, .mbr = {SLATE_MBR_MAC}, .gpt = {&hfs_data},
            .sought = true, .mac_only = true);
SLATE_KNOWN(hfs_plus, "HFS+", &plus, .mbr = {SLATE_MBR_MAC}, .gpt = {&hfs_data},
            .sought = true, .mac_only = true);
SLATE_KNOWN(apfs, "APFS container", &apfs, .mbr = {SLATE_MBR_MAC},
            .gpt = {&apfs_data}, .sought = true, .mac_only = true);
