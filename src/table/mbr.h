/* SPDX-License-Identifier: MIT */
/* The MBR's fields (UEFI 2.10, 5.2.1), shared by its reader and its composer.
 */
#ifndef SLATE_TABLE_MBR_H
#define SLATE_TABLE_MBR_H

#include "trueslate/table.h"

/* Offsets in block 0, and in each link of a chain of logical partitions. */
enum {
    SLATE_MBR_DISK_SIGNATURE = 440,
    SLATE_MBR_ENTRIES = 446,
    SLATE_MBR_SIGNATURE = 510
};

#define SLATE_MBR_SIGNATURE_VALUE 0xAA55u
#define SLATE_MBR_ENTRY_BYTES 16u
#define SLATE_MBR_PRIMARIES 4u

/* Offsets in an entry. */
enum {
    SLATE_MBR_ENTRY_BOOT = 0,
    SLATE_MBR_ENTRY_CHS_FIRST = 1,
    SLATE_MBR_ENTRY_TYPE = 4,
    SLATE_MBR_ENTRY_CHS_LAST = 5,
    SLATE_MBR_ENTRY_FIRST = 8,
    SLATE_MBR_ENTRY_COUNT = 12
};

/* A type that stands for a container of logical partitions. */
static inline bool slate_mbr_is_container(uint8_t type)
{
    return type == SLATE_MBR_EXTENDED || type == SLATE_MBR_EXTENDED_LBA ||
           type == 0x85;
}

#define SLATE_MBR_ACTIVE 0x80

/* Geometry that firmware assumes where nothing else is known. */
#define SLATE_CHS_HEADS 255u
#define SLATE_CHS_SECTORS 63u
#define SLATE_CHS_CYLINDERS 1024u

struct slate_chs {
    uint32_t cylinder, head, sector;
};

/* The three bytes of an entry; the packing is that of the firmware's disk
 * call. */
void slate_chs_put(uint8_t *field, struct slate_chs chs);

/* Of a block; the last one that there is where it lies beyond. */
struct slate_chs slate_chs_of(uint64_t lba, uint32_t heads, uint32_t sectors);

#endif
