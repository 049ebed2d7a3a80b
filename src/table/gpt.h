/* SPDX-License-Identifier: MIT */
/* The GPT's fields (UEFI 2.10, 5.3), shared by its reader and its composer. */
#ifndef SLATE_TABLE_GPT_H
#define SLATE_TABLE_GPT_H

#include "trueslate/table.h"

#define SLATE_GPT_SIGNATURE "EFI PART"
#define SLATE_GPT_HEADER_BYTES 92u
#define SLATE_GPT_ENTRY_BYTES 128u
#define SLATE_GPT_ENTRIES 128u
#define SLATE_GPT_ARRAY_BYTES (SLATE_GPT_ENTRY_BYTES * SLATE_GPT_ENTRIES)

/* Blocks of the array of a new table: 16 KiB are its least room (UEFI 2.10,
 * 5.3.1), also where it has fewer entries. entries 0: 128. */
static inline uint64_t slate_gpt_array_blocks(uint32_t entries,
                                              uint32_t block_bytes)
{
    uint32_t bytes =
        (entries < SLATE_GPT_ENTRIES ? SLATE_GPT_ENTRIES : entries) *
        SLATE_GPT_ENTRY_BYTES;

    return (bytes + block_bytes - 1) / block_bytes;
}

/* Offsets in the header. */
enum {
    SLATE_GPT_REVISION = 8,
    SLATE_GPT_HEADER_SIZE = 12,
    SLATE_GPT_HEADER_CRC = 16,
    SLATE_GPT_MY_LBA = 24,
    SLATE_GPT_OTHER_LBA = 32,
    SLATE_GPT_FIRST_USABLE = 40,
    SLATE_GPT_LAST_USABLE = 48,
    SLATE_GPT_DISK_ID = 56,
    SLATE_GPT_ARRAY_LBA = 72,
    SLATE_GPT_ARRAY_COUNT = 80,
    SLATE_GPT_ENTRY_SIZE = 84,
    SLATE_GPT_ARRAY_CRC = 88
};

/* Offsets in an entry. */
enum {
    SLATE_GPT_ENTRY_TYPE = 0,
    SLATE_GPT_ENTRY_ID = 16,
    SLATE_GPT_ENTRY_FIRST = 32,
    SLATE_GPT_ENTRY_LAST = 40,
    SLATE_GPT_ENTRY_ATTRIBUTES = 48,
    SLATE_GPT_ENTRY_NAME = 56
};

#define SLATE_GPT_NAME_UNITS 36u

#endif
