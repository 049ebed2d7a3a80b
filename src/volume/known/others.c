/* SPDX-License-Identifier: MIT */
/* ReFS, encrypted volumes, optical-disc images, UDF, members of mirrors and of
 * pools: their rows. */
#include "volume/known/known.h"

static const struct slate_signature refs_sign = {
    SLATE_VOLUME_REFS, SLATE_TURN_LOOSE, 0, 3, 8, "ReFS\0\0\0\0", NULL};

/* The second one is 4967D63B-2E29-4AD8-8399-F6A339E3D001, behind a FAT front.
 */
static const struct slate_signature encrypted_signs[] = {
    {SLATE_VOLUME_ENCRYPTED, SLATE_TURN_FILLS, 0, 3, 8, "-FVE-FS-", NULL},
    {SLATE_VOLUME_ENCRYPTED, SLATE_TURN_FRONT, 0, 424, 16,
     "\x3B\xD6\x67\x49\x29\x2E\xD8\x4A\x83\x99\xF6\xA3\x39\xE3\xD0\x01", NULL}};

static const struct slate_family refs = {.signature = &refs_sign,
                                         .signatures = 1};
static const struct slate_family encrypted = {.signature = encrypted_signs,
                                              .signatures = 2};
static const struct slate_family optical = {.judge_further =
                                                slate_optical_read};

SLATE_KNOWN(refs, "ReFS", &refs, .mbr = {SLATE_MBR_EXFAT},
            .gpt = {&slate_basic_data}, .never_fills = true);
SLATE_KNOWN(encrypted, "encrypted volume", &encrypted,
            .part_of = "an encrypted volume", .mbr = {SLATE_MBR_EXFAT},
            .gpt = {&slate_basic_data}, .needs_more = true, .keyed = true);
SLATE_KNOWN(optical, "optical-disc image", &optical, .gpt = {&slate_linux_data},
            .own_blocks = true, .never_fills = true);
SLATE_KNOWN(udf, "UDF", &optical, .mbr = {SLATE_MBR_EXFAT},
            .gpt = {&slate_basic_data}, .own_blocks = true,
            .never_fills = true);

/* Members of a Linux RAID whose record stands near the end (the Linux kernel's
 * header on its layout): version 1.0 and version 0.90. */

#define MAGIC 0xA92B4EFCu

void slate_raid_tail_read(struct slate_reader *reader,
                          struct slate_volume *volume)
{
    uint64_t bytes = reader->range.count * reader->media->geometry.block_bytes;
    const uint8_t *record;

    if (bytes < 131072)
        return;
    record = slate_reader_at(reader, (bytes - 8192) & ~(uint64_t)4095,
                             SLATE_PIECE_BYTES);
    if (record != NULL && slate_le32(record) == MAGIC) {
        volume->kind = SLATE_VOLUME_RAID;
        slate_volume_take_uuid(record + 16, volume);
        slate_label_utf8(volume, record + 32, 32);
        return;
    }
    record = slate_reader_at(reader, (bytes & ~(uint64_t)65535) - 65536,
                             SLATE_PIECE_BYTES);
    if (record != NULL && slate_le32(record) == MAGIC)
        volume->kind = SLATE_VOLUME_RAID;
}

/* Members of a ZFS pool: a list of names and values, each with its lengths
 * ahead (XDR, RFC 4506); the first name is "version", the pool's own stands a
 * few behind it. */

static void take(const uint8_t *run, struct slate_volume *volume)
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

static const struct slate_signature signature = {SLATE_VOLUME_ZFS,
                                                 SLATE_TURN_START,
                                                 SLATE_RUN_FIFTH,
                                                 24,
                                                 8,
                                                 "version\0",
                                                 take};

/* The same in the two labels at the end, of the 256 KiB that they come in. */
static const struct slate_remnant remnants[] = {
    {"version\0", 8, 262144, 524288 - SLATE_RUN_FIFTH - 24},
    {"version\0", 8, 262144, 262144 - SLATE_RUN_FIFTH - 24}};

static const struct slate_family family = {.signature = &signature,
                                           .signatures = 1,
                                           .remnant = remnants,
                                           .remnants = 2};

SLATE_KNOWN(zfs, "ZFS member", &family, .part_of = "a member of a pool (ZFS)",
            .needs_more = true);
