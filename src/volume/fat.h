/* SPDX-License-Identifier: MIT */
/* The FAT boot block's fields (FAT32 specification 1.03, 3), shared by the
 * reader and the composer. */
#ifndef SLATE_VOLUME_FAT_H
#define SLATE_VOLUME_FAT_H

#include "trueslate/volume.h"

/* Reserved blocks that are written; more may be left as padding. */
#define SLATE_FAT32_RESERVED 32u

/* Offsets in the boot block. */
enum {
    SLATE_FAT_BYTES_PER_BLOCK = 11,
    SLATE_FAT_BLOCKS_PER_CLUSTER = 13,
    SLATE_FAT_RESERVED_BLOCKS = 14,
    SLATE_FAT_TABLES = 16,
    SLATE_FAT_ROOT_ENTRIES = 17,
    SLATE_FAT_BLOCKS_16 = 19,
    SLATE_FAT_MEDIUM = 21,
    SLATE_FAT_TABLE_BLOCKS_16 = 22,
    SLATE_FAT_TRACK_SECTORS = 24,
    SLATE_FAT_HEADS = 26,
    SLATE_FAT_HIDDEN_BLOCKS = 28,
    SLATE_FAT_BLOCKS_32 = 32,
    SLATE_FAT16_SERIAL = 39,
    SLATE_FAT16_LABEL = 43,
    SLATE_FAT32_TABLE_BLOCKS = 36,
    SLATE_FAT32_ROOT_CLUSTER = 44,
    SLATE_FAT32_INFO_BLOCK = 48,
    SLATE_FAT32_BACKUP_BLOCK = 50,
    SLATE_FAT32_DRIVE = 64,
    SLATE_FAT32_EXTENDED = 66,
    SLATE_FAT32_SERIAL = 67,
    SLATE_FAT32_LABEL = 71,
    SLATE_FAT32_KIND = 82,
    SLATE_FAT32_CODE = 90,
    SLATE_FAT_SIGNATURE = 510
};

/* Offsets in the information block. */
enum {
    SLATE_FAT_INFO_LEAD = 0,
    SLATE_FAT_INFO_MIDDLE = 484,
    SLATE_FAT_INFO_FREE = 488,
    SLATE_FAT_INFO_NEXT = 492,
    SLATE_FAT_INFO_TAIL = 508
};

#define SLATE_FAT_INFO_LEAD_VALUE 0x41615252u
#define SLATE_FAT_INFO_MIDDLE_VALUE 0x61417272u
#define SLATE_FAT_INFO_TAIL_VALUE 0xAA550000u

#define SLATE_FAT_LABEL_ATTRIBUTE 0x08
#define SLATE_FAT_NO_LABEL "NO NAME    "

/* Recognises FAT12, FAT16 and FAT32; leaves volume alone for anything else.
 * work comes with the start of the range in it. */
SLATE_MUST_CHECK enum slate_status
slate_fat_read(struct slate_media *media, const struct slate_range *range,
               uint8_t *work, struct slate_volume *volume);

/* Recognises an optical-disc image; leaves volume alone for anything else. */
SLATE_MUST_CHECK enum slate_status
slate_optical_read(struct slate_media *media, const struct slate_range *range,
                   uint8_t *work, struct slate_volume *volume);

/* Which other volume has a signature in this run of SLATE_WORK_MIN bytes, which
 * begins at byte "run" of it: 0, 4096 or 65536. False for none. */
bool slate_signature_judge(uint32_t run, const uint8_t *bytes,
                           struct slate_volume *volume);

#endif
