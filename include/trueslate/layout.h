/* SPDX-License-Identifier: MIT */
/* What a device's partition table says: one layout model for every kind. */
#ifndef TRUESLATE_LAYOUT_H
#define TRUESLATE_LAYOUT_H

#include "trueslate/base.h"
#include "trueslate/media.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_table_kind {
    SLATE_TABLE_NONE, /**< no table: a volume may start at block 0 */
    SLATE_TABLE_MBR,
    SLATE_TABLE_GPT,
    /* the rest is read, never composed */
    SLATE_TABLE_APPLE, /**< Apple partition map */
    SLATE_TABLE_BSD,   /**< BSD disk label */
    SLATE_TABLE_SUN,   /**< Sun disk label */
    SLATE_TABLE_SGI    /**< SGI volume header */
};

/** A table kind in the words of the trade: "Apple partition map". */
const char *slate_table_words(enum slate_table_kind kind);

/** The same for programs: "apple". Never NULL. */
const char *slate_table_name(enum slate_table_kind kind);

/** MBR types used here (the byte at offset 4 of an entry). */
#define SLATE_MBR_FAT12 0x01
#define SLATE_MBR_FAT16_SMALL 0x04
#define SLATE_MBR_FAT16 0x06
#define SLATE_MBR_EXFAT 0x07 /**< NTFS as well */
#define SLATE_MBR_FAT32 0x0B
#define SLATE_MBR_FAT32_LBA 0x0C
#define SLATE_MBR_FAT16_LBA 0x0E
#define SLATE_MBR_EXTENDED 0x05
#define SLATE_MBR_EXTENDED_LBA 0x0F
#define SLATE_MBR_LINUX 0x83
#define SLATE_MBR_SWAP 0x82
#define SLATE_MBR_LVM 0x8E
#define SLATE_MBR_MAC 0xAF
#define SLATE_MBR_RAID 0xFD
#define SLATE_MBR_DYNAMIC 0x42
#define SLATE_MBR_PROTECTIVE 0xEE
#define SLATE_MBR_EFI_SYSTEM 0xEF

/** Room for a partition's name: 36 UTF-16 units as UTF-8, and a zero. */
#define SLATE_PARTITION_NAME_ROOM 109

/** What a partition is in its table. */
enum slate_role {
    SLATE_ROLE_PRIMARY,  /**< an entry of the table itself */
    SLATE_ROLE_EXTENDED, /**< MBR: the container of the logical ones */
    SLATE_ROLE_LOGICAL   /**< MBR: out of the chain in that container */
};

/** One partition. Fields of the other table kinds are zero. */
struct slate_partition {
    uint64_t first;      /**< first block */
    uint64_t count;      /**< number of blocks */
    uint64_t link;       /**< logical: the block of the chain that holds it */
    uint64_t attributes; /**< GPT: UEFI 2.10, table 5.8 */
    uint32_t number; /**< as hosts count: entries from 1; logical ones from 5 */
    enum slate_role role;
    struct slate_guid type;
    struct slate_guid id;
    uint8_t mbr_type; /**< MBR, and BSD's file system number */
    bool active;      /**< MBR: boot indicator 80h */
    bool kept;        /**< of a draft: its entry stays as it is */
    char name[SLATE_PARTITION_NAME_ROOM];
};

/** GPT: the type of basic data, which every FAT, exFAT and NTFS volume has. */
extern const struct slate_guid slate_basic_data;

/** GPT attributes (UEFI 2.10, table 5.8; 60 to 63 as basic data uses them). */
#define SLATE_GPT_REQUIRED ((uint64_t)1 << 0)
#define SLATE_GPT_NO_BLOCK_IO ((uint64_t)1 << 1)
#define SLATE_GPT_READ_ONLY ((uint64_t)1 << 60)
#define SLATE_GPT_HIDDEN ((uint64_t)1 << 62)
#define SLATE_GPT_NO_LETTER ((uint64_t)1 << 63)

/** An MBR entry as it stands in block 0 (UEFI 2.10, 5.2.1). */
struct slate_mbr_entry {
    uint8_t boot;
    uint8_t type;
    uint8_t chs_first[3], chs_last[3];
    uint32_t first, count;
};

/** One of the two copies of a GPT. */
enum slate_gpt_state {
    SLATE_GPT_ABSENT,
    SLATE_GPT_UNREADABLE,     /**< its block cannot be read */
    SLATE_GPT_HEADER_DAMAGED, /**< the signature is there, the rest is wrong */
    SLATE_GPT_ARRAY_DAMAGED,  /**< the header is sound, the entries are not */
    SLATE_GPT_SOUND
};

struct slate_gpt_copy {
    enum slate_gpt_state state;
    uint64_t lba;       /**< where it stands, or should */
    uint64_t other_lba; /**< where it says that the other copy stands */
    uint64_t array_lba;
    uint64_t first_usable, last_usable;
    uint32_t revision;     /**< 00010000h is usual */
    uint32_t header_bytes; /**< 92 is usual */
    uint32_t entry_count;  /**< 128 is usual */
    uint32_t entry_bytes;  /**< 128 is usual */
    uint32_t array_crc;
    struct slate_guid disk_id;
};

/** Oddities that slate_layout_check finds; bits. */
enum slate_layout_oddity {
    SLATE_LAYOUT_BEYOND_END = 1, /**< made for a larger device */
    SLATE_LAYOUT_OVERLAP = 2,    /**< two partitions share blocks */
    SLATE_LAYOUT_TWO_ACTIVE = 4, /**< more than one active MBR entry */
    SLATE_LAYOUT_UNORDERED = 8, /**< entries not in the order of their blocks */
    SLATE_LAYOUT_OUTSIDE = 16,  /**< GPT: outside the usable blocks; logical:
                                     outside its container */
    SLATE_LAYOUT_DUPLICATE = 32,     /**< GPT: two entries of one identifier */
    SLATE_LAYOUT_CHAIN_LOOP = 64,    /**< the logical chain runs in a circle */
    SLATE_LAYOUT_CHAIN_BROKEN = 128, /**< it leads to no table, or outside */
    SLATE_LAYOUT_CHS = 256,          /**< CHS and LBA addresses disagree */
    SLATE_LAYOUT_UNUSUAL_GPT = 512   /**< sizes or revision other than usual */
};

/** Why the walk along the chain of logical partitions ended. */
enum slate_chain {
    SLATE_CHAIN_WHOLE,
    SLATE_CHAIN_LOOP,
    SLATE_CHAIN_BROKEN,
    SLATE_CHAIN_LONG /**< more links than are followed */
};

/** What hosts count logical partitions from. */
#define SLATE_FIRST_LOGICAL 5u

/** Links of a chain that are followed. */
#define SLATE_CHAIN_LINKS 128u

/**
 * What a device's table says. The caller supplies @c partition, @c room and
 * @c glance before reading; the partitions stand in the order of their numbers.
 */
struct slate_layout {
    struct slate_partition *partition;
    uint32_t room;  /**< elements of @c partition */
    bool glance;    /**< the caller's: of a GPT, no more than 128 entries are
                         read, and their checksum only where that is all; of
                         its second copy, the header */
    bool second;    /**< the caller's: of two sound copies of a GPT that differ,
                         the second one counts */
    uint32_t count; /**< elements filled */
    uint32_t found; /**< partitions in the table; more than count if no room */
    uint64_t end;   /**< first block behind all that were found */
    enum slate_table_kind kind;
    bool boot_code;                /**< block 0 holds code ahead of the table */
    uint32_t disk_signature;       /**< MBR, offset 440 */
    struct slate_guid disk_id;     /**< GPT */
    struct slate_mbr_entry mbr[4]; /**< block 0's entries, when it has such */
    bool mbr_signed;               /**< block 0 is an MBR */
    bool protective;               /**< it has an entry of type EEh */
    uint32_t hybrid; /**< its other entries, beside a protective one */
    struct slate_gpt_copy primary, backup;
    enum slate_chain chain;
    uint64_t chain_lba; /**< the link at which the chain is wrong */
};

/**
 * Reads the table.
 *
 * - A GPT counts when one of its copies is sound and block 0 has a protective
 *   entry, or no entry at all where a table would stand; else @c primary and
 *   @c backup tell of remains. The backup is looked for in the last block and,
 *   when it is not there, where the primary copy says.
 * - Logical partitions are followed for SLATE_CHAIN_LINKS links.
 * - A block 0 that is a volume's boot block is no table.
 *
 * MBR: UEFI 2.10, 5.2.1; GPT: 5.3. The other kinds: docs/tables.md.
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
 * Are both copies of the GPT sound, and name different partitions?
 *
 * @param layout as read
 */
bool slate_layout_copies_differ(const struct slate_layout *layout);

/** Name of an oddity for programs, by the number of its bit: "overlap"; ""
 * behind the last one. */
const char *slate_layout_oddity_name(uint32_t bit);

/** Name of a role for programs: "logical". Never NULL. */
const char *slate_role_name(enum slate_role role);

/** Name of a state for programs: "header-damaged". Never NULL. */
const char *slate_gpt_state_name(enum slate_gpt_state state);

/**
 * Can single logical partitions stay while others go or come? Only where each
 * stands behind a link of its own, these in the order of the blocks of one
 * container; else they stay together, with the container.
 *
 * @param layout as read
 * @return true when they can; false also where there are none
 */
bool slate_layout_chain_is_plain(const struct slate_layout *layout);

/**
 * The first block behind every partition.
 *
 * @param layout      as read
 * @param block_count of the device: the result is at most this
 * @return block number; 0 when there are no partitions
 */
uint64_t slate_layout_end(const struct slate_layout *layout,
                          uint64_t block_count);

/** A stretch of a device: a partition, or what lies between partitions. */
struct slate_stretch {
    uint64_t first, count;
    const struct slate_partition *partition; /**< NULL: unallocated */
};

/** Where a walk over the stretches stands. All zero: at the start. */
struct slate_tour {
    uint64_t reached;                   /**< first block not told of yet */
    const struct slate_partition *last; /**< partition told of last */
};

/**
 * The next stretch, in the order of their blocks: every partition (but the
 * container of logical ones), cut to the device, and what is unallocated
 * ahead of, between and behind them. Overlapping ones come by their first
 * block.
 *
 * @param layout      as read
 * @param block_count of the device
 * @param tour        moves on
 * @param stretch     receives the stretch; its count is at least 1
 * @return false at the end
 */
bool slate_layout_next(const struct slate_layout *layout, uint64_t block_count,
                       struct slate_tour *tour, struct slate_stretch *stretch);

#ifdef __cplusplus
}
#endif
#endif
