/* SPDX-License-Identifier: MIT */
/* Partition tables: one layout model, read and checked; MBR and GPT composed.
 */
#ifndef TRUESLATE_TABLE_H
#define TRUESLATE_TABLE_H

#include "trueslate/extent.h"
#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_table_kind {
    SLATE_TABLE_NONE, /**< no table: a volume may start at block 0 */
    SLATE_TABLE_MBR,
    SLATE_TABLE_GPT
};

/** MBR types used here (the byte at offset 4 of an entry). */
#define SLATE_MBR_FAT32_LBA 0x0C
#define SLATE_MBR_PROTECTIVE 0xEE

/** Room for a GPT name: 36 UTF-16 units as UTF-8, and a zero. */
#define SLATE_PARTITION_NAME_ROOM 109

/** One partition. Fields of the other table kind are zero. */
struct slate_partition {
    uint64_t first; /**< first block */
    uint64_t count; /**< number of blocks */
    uint32_t slot;  /**< entry in its table, from 0 */
    uint8_t mbr_type;
    bool active; /**< MBR: boot indicator 80h */
    struct slate_guid type;
    struct slate_guid id;
    uint64_t attributes; /**< GPT: UEFI 2.10, table 5.8 */
    char name[SLATE_PARTITION_NAME_ROOM];
};

/** Oddities that slate_layout_check finds; bits. */
enum slate_layout_oddity {
    SLATE_LAYOUT_BEYOND_END = 1, /**< reaches over the end of the device */
    SLATE_LAYOUT_OVERLAP = 2,    /**< two partitions share blocks */
    SLATE_LAYOUT_TWO_ACTIVE = 4  /**< more than one active MBR entry */
};

/**
 * What a device's table says. The caller supplies @c partition and @c room
 * before reading; the partitions stand in the order of their entries.
 */
struct slate_layout {
    struct slate_partition *partition;
    uint32_t room;  /**< elements of @c partition */
    uint32_t count; /**< elements filled */
    uint32_t found; /**< partitions in the table; more than count if no room */
    enum slate_table_kind kind;
    bool boot_code;            /**< block 0 holds code ahead of the table */
    uint32_t disk_signature;   /**< MBR, offset 440 */
    struct slate_guid disk_id; /**< GPT */
    bool protective;           /**< the MBR has an entry of type EEh */
    bool gpt_primary;          /**< header and array at block 1 are sound */
    bool gpt_backup;           /**< those at the last block are sound */
};

/**
 * Reads the table. A GPT counts when the MBR has a protective entry and one of
 * its two copies is sound; otherwise gpt_primary and gpt_backup tell of
 * remains. A block 0 that is a volume's boot block is no table.
 *
 * MBR: UEFI 2.10, 5.2.1; GPT: 5.3.
 *
 * @param media  an open device
 * @param work   SLATE_WORK_MIN bytes; more is not used
 * @param layout partition and room set by the caller, the rest filled in
 * @return SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_layout_read(struct slate_media *media, void *work,
                  struct slate_layout *layout);

/**
 * Checks partitions against each other and the device.
 *
 * @param layout      as read
 * @param block_count of the device
 * @return bits of enum slate_layout_oddity; 0: nothing odd
 */
unsigned slate_layout_check(const struct slate_layout *layout,
                            uint64_t block_count);

/**
 * The first block behind every partition.
 *
 * @param layout      as read
 * @param block_count of the device: the result is at most this
 * @return block number; 0 when there are no partitions
 */
uint64_t slate_layout_end(const struct slate_layout *layout,
                          uint64_t block_count);

/** Partitions that a planned table can hold. */
#define SLATE_PLAN_PARTITIONS 4

/** A table to be composed; every block of it follows from these values. */
struct slate_table_plan {
    enum slate_table_kind kind;
    uint32_t block_bytes;
    uint64_t block_count; /**< of the device */
    uint32_t count;
    struct slate_partition partition[SLATE_PLAN_PARTITIONS];
    uint32_t disk_signature;
    struct slate_guid disk_id;
};

/**
 * The blocks that a table of this kind leaves to partitions.
 *
 * @param kind     table kind
 * @param geometry of the device
 * @param usable   receives first and count; count is 0 when none are left
 */
void slate_table_usable(enum slate_table_kind kind,
                        const struct slate_geometry *geometry,
                        struct slate_range *usable);

/**
 * Enumerates what a table writes: its backup, its primary copy, and block 0.
 *
 * @param plan   the table
 * @param index  from 0
 * @param extent receives the extent
 * @return false when there is no extent of this index
 */
bool slate_table_extent(const struct slate_table_plan *plan, uint32_t index,
                        struct slate_extent *extent);

/**
 * Composes one piece of a block of the table.
 *
 * @param plan   the table
 * @param lba    any block; zeros for one that is not part of the table
 * @param offset in the block, bytes, a multiple of SLATE_PIECE_BYTES
 * @param piece  receives SLATE_PIECE_BYTES bytes
 */
void slate_table_piece(const struct slate_table_plan *plan, uint64_t lba,
                       uint32_t offset, uint8_t *piece);

#ifdef __cplusplus
}
#endif
#endif
