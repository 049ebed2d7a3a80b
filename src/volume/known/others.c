/* SPDX-License-Identifier: MIT */
/* ReFS, encrypted volumes, optical-disc images and UDF: their rows. */
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
