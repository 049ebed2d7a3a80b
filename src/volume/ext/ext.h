/* SPDX-License-Identifier: MIT */
/* ext4's fields (Linux kernel documentation, filesystems/ext4), shared by the
 * reader and the composer. A unit is a block of the file system. */
#ifndef SLATE_VOLUME_EXT_H
#define SLATE_VOLUME_EXT_H

#include "volume/common/common.h"

/* Room for an ext4 label: 16 bytes and a zero. */
#define SLATE_EXT_LABEL_ROOM 17

/* An ext4 volume to be composed; every block follows from these values. A
 * *unit* is a block of the file system. */
struct slate_ext {
    uint64_t first;       /* device block where the volume begins */
    uint32_t block_bytes; /* logical block of the device */
    uint32_t unit_bytes;  /* 1024, 2048 or 4096 */
    uint64_t units;       /* its length */
    uint32_t groups;
    uint32_t group_inodes;
    uint32_t table_units;      /* of a group's inodes */
    uint32_t descriptor_units; /* of each copy of the group descriptors */
    uint8_t flex_bits;         /* so many groups, as a power of two, keep their
                                    bitmaps and inodes together */
    uint32_t journal_units;    /* 0: without */
    uint64_t journal_at;
    uint64_t root_at;
    uint64_t lost_at; /* of the folder for what is found */
    uint32_t lost_units;
    const struct slate_ranges *bad; /* as in the wish; NULL: none is in it */
    uint64_t bad_units;
    uint32_t bad_runs;  /* of units in a row, within a group each */
    uint32_t map_units; /* of their list, where an inode has no room for it */
    uint64_t map_at;
    uint64_t reserved; /* units for the administrator */
    uint8_t id[16];
    uint8_t hash_seed[16];
    uint32_t seconds;                 /* since 1970 */
    bool shared;                      /* every user may write in the root */
    char label[SLATE_EXT_LABEL_ROOM]; /* UTF-8; "" for none */
};

_Static_assert(sizeof(struct slate_ext) <= SLATE_PLAN_BYTES, "a plan has room");

#define SLATE_EXT_SUPER_AT 1024u /* byte of the volume */
#define SLATE_EXT_SUPER_BYTES 1024u
#define SLATE_EXT_MAGIC 0xEF53u

/* The superblock. */
enum {
    SLATE_EXT_INODES = 0,
    SLATE_EXT_UNITS = 4,
    SLATE_EXT_RESERVED = 8,
    SLATE_EXT_FREE_UNITS = 12,
    SLATE_EXT_FREE_INODES = 16,
    SLATE_EXT_FIRST_UNIT = 20,
    SLATE_EXT_UNIT_SHIFT = 24, /* beyond 1024 bytes */
    SLATE_EXT_CLUSTER_SHIFT = 28,
    SLATE_EXT_GROUP_UNITS = 32,
    SLATE_EXT_GROUP_CLUSTERS = 36,
    SLATE_EXT_GROUP_INODES = 40,
    SLATE_EXT_WRITTEN = 48,
    SLATE_EXT_MOUNTS_MOST = 54,
    SLATE_EXT_MAGIC_AT = 56,
    SLATE_EXT_STATE = 58,
    SLATE_EXT_ON_ERRORS = 60,
    SLATE_EXT_CHECKED = 64,
    SLATE_EXT_REVISION = 76,
    SLATE_EXT_FIRST_INODE = 84,
    SLATE_EXT_INODE_BYTES = 88,
    SLATE_EXT_GROUP_NUMBER = 90,
    SLATE_EXT_COMPATIBLE = 92,
    SLATE_EXT_INCOMPATIBLE = 96,
    SLATE_EXT_READ_ONLY = 100, /* features that forbid writing */
    SLATE_EXT_ID = 104,
    SLATE_EXT_LABEL = 120,
    SLATE_EXT_JOURNAL_INODE = 224,
    SLATE_EXT_HASH_SEED = 236,
    SLATE_EXT_HASH_KIND = 252,
    SLATE_EXT_JOURNAL_KEPT = 253,
    SLATE_EXT_DESCRIPTOR_BYTES = 254,
    SLATE_EXT_MOUNT_OPTIONS = 256,
    SLATE_EXT_MADE = 264,
    SLATE_EXT_JOURNAL_COPY = 268, /* of its inode's map, and size */
    SLATE_EXT_UNITS_HIGH = 336,
    SLATE_EXT_RESERVED_HIGH = 340,
    SLATE_EXT_FREE_UNITS_HIGH = 344,
    SLATE_EXT_EXTRA_LEAST = 348,
    SLATE_EXT_EXTRA_WANTED = 350,
    SLATE_EXT_FLAGS = 352,
    SLATE_EXT_FLEX_BITS = 372,
    SLATE_EXT_CHECKSUM_KIND = 373,
    SLATE_EXT_CHECKSUM = 1020
};

/* Features. */
enum {
    SLATE_EXT_HAS_JOURNAL = 0x0004,
    SLATE_EXT_HAS_ATTRIBUTES = 0x0008,
    SLATE_EXT_HAS_FOLDER_INDEX = 0x0020,
    SLATE_EXT_HAS_FILE_KINDS = 0x0002,
    SLATE_EXT_HAS_REPLAY = 0x0004,
    SLATE_EXT_HAS_EXTENTS = 0x0040,
    SLATE_EXT_HAS_64_BITS = 0x0080,
    SLATE_EXT_HAS_FLEX_GROUPS = 0x0200,
    SLATE_EXT_HAS_FEW_COPIES = 0x0001,
    SLATE_EXT_HAS_LARGE_FILES = 0x0002,
    SLATE_EXT_HAS_HUGE_FILES = 0x0008,
    SLATE_EXT_HAS_MANY_LINKS = 0x0020,
    SLATE_EXT_HAS_EXTRA_INODE = 0x0040,
    SLATE_EXT_HAS_CHECKSUMS = 0x0400
};

/* A group's descriptor of 64 bytes; what it has twice, in halves. */
enum {
    SLATE_EXT_GROUP_BITMAP = 0,
    SLATE_EXT_GROUP_INODE_BITMAP = 4,
    SLATE_EXT_GROUP_TABLE = 8,
    SLATE_EXT_GROUP_FREE = 12,
    SLATE_EXT_GROUP_FREE_INODES = 14,
    SLATE_EXT_GROUP_FOLDERS = 16,
    SLATE_EXT_GROUP_FLAGS = 18,
    SLATE_EXT_GROUP_BITMAP_SUM = 24,
    SLATE_EXT_GROUP_INODE_BITMAP_SUM = 26,
    SLATE_EXT_GROUP_UNUSED = 28,
    SLATE_EXT_GROUP_SUM = 30,
    SLATE_EXT_GROUP_HIGH = 32 /* from here on, the high halves */
};
#define SLATE_EXT_DESCRIPTOR 64u

/* Its flags: not written yet, and to be taken as empty. */
#define SLATE_EXT_INODES_BLANK 0x0001u
#define SLATE_EXT_BITMAP_BLANK 0x0002u

#define SLATE_EXT_INODE 256u /* bytes */
#define SLATE_EXT_FIRST_FREE_INODE 12u
#define SLATE_EXT_BAD_INODE 1u
#define SLATE_EXT_ROOT_INODE 2u
#define SLATE_EXT_JOURNAL_INODE_NUMBER 8u
#define SLATE_EXT_LOST_INODE 11u

/* A map in an inode: its head of 12 bytes, and entries of 12 bytes each. */
#define SLATE_EXT_MAP_BYTES 60u
#define SLATE_EXT_MAP_MAGIC 0xF30Au
#define SLATE_EXT_MAP_EXTENTS 4u

/* What is composed at a time; every unit has a whole number of them. */
#define SLATE_EXT_PIECE 512u

/* What stands in units. */
enum slate_ext_kind {
    SLATE_EXT_NOTHING, /* that is written */
    SLATE_EXT_SUPER,   /* the superblock, or a copy */
    SLATE_EXT_DESCRIPTORS,
    SLATE_EXT_BITMAP,
    SLATE_EXT_INODE_BITMAP,
    SLATE_EXT_TABLE,
    SLATE_EXT_ROOT,
    SLATE_EXT_LOST,
    SLATE_EXT_MAP, /* of bad units */
    SLATE_EXT_JOURNAL
};

/* A run of units of one kind; index: of its first unit, or of its group. */
struct slate_ext_area {
    uint64_t first, count;
    enum slate_ext_kind kind;
    uint32_t index;
};

/* Geometry. */
uint32_t slate_ext_group_units(const struct slate_ext *ext);
uint32_t slate_ext_first_unit(const struct slate_ext *ext);
uint64_t slate_ext_group_first(const struct slate_ext *ext, uint32_t group);
uint64_t slate_ext_group_end(const struct slate_ext *ext, uint32_t group);
uint32_t slate_ext_group_of(const struct slate_ext *ext, uint64_t unit);

/* Bad units. The first one in a range that is bad, or is not: its end when
 * there is none; both reach over less than 2^32 units. */
uint64_t slate_ext_bad_from(const struct slate_ext *ext, uint64_t from,
                            uint64_t end);
uint64_t slate_ext_good_from(const struct slate_ext *ext, uint64_t from,
                             uint64_t end);
/* The first ones from a unit on, as far as their group. False: none. */
struct slate_ext_run {
    uint64_t first, count;
};
bool slate_ext_next_bad(const struct slate_ext *ext, uint64_t from,
                        struct slate_ext_run *run);
/* Fills in their number, and how long a list of them is. */
enum slate_status slate_ext_count_bad(struct slate_ext *ext);
/* Is all that cannot go elsewhere whole, and is there room for all else? */
bool slate_ext_goes_around(const struct slate_ext *ext);
/* Their list: 60 bytes in their inode, zeroed; and a piece of a unit of it. */
void slate_ext_put_bad_map(const struct slate_ext *ext, uint8_t *map);
void slate_ext_put_map_unit(const struct slate_ext *ext, uint32_t unit,
                            uint32_t at, uint8_t *piece);

/* Does a group begin with a copy of superblock and descriptors? And units of
 * these, 0 where there is none. */
bool slate_ext_has_copy(uint32_t group);
uint32_t slate_ext_head_units(const struct slate_ext *ext, uint32_t group);

/* The first group with a copy behind one; UINT32_MAX beyond the last one. */
uint32_t slate_ext_next_copy(const struct slate_ext *ext, uint32_t group);
/* The areas that a flexible group keeps at its start, one after the other: its
 * bitmaps, its inodes' bitmaps, its tables. Tables stay in one piece. */
struct slate_ext_tour {
    uint32_t flex, stage, done;
    uint64_t at, end; /* the run of units that is being filled */
};
void slate_ext_begin(const struct slate_ext *ext, uint32_t flex,
                     struct slate_ext_tour *tour);
bool slate_ext_next_area(const struct slate_ext *ext,
                         struct slate_ext_tour *tour,
                         struct slate_ext_area *area);
/* The next run of such an area that is written: bitmaps of the groups that need
 * them, and the first group's inodes. at: 0 at first; end: of what the group
 * keeps */
bool slate_ext_next_written(const struct slate_ext *ext, uint64_t end,
                            const struct slate_ext_area *area, uint64_t *at,
                            struct slate_ext_area *run);

/* Where a group's bitmap, inode bitmap and table stand; and the first unit
 * behind all that its flexible group keeps. Units that are passed over on the
 * way are free. */
struct slate_ext_places {
    uint64_t bitmap, inode_bitmap, table, end;
};
void slate_ext_find(const struct slate_ext *ext, uint32_t group,
                    struct slate_ext_places *places);

/* Is a group's bitmap written? Those of the others follow from their own copies
 * alone. end: of what its flexible group keeps */
bool slate_ext_is_written(const struct slate_ext *ext, uint32_t group,
                          uint64_t end);

/* Ranges of units of a group that are in use, in any order: calls take for
 * each, relative to the group. */
void slate_ext_used(const struct slate_ext *ext, uint32_t group,
                    void (*take)(void *context, uint64_t first, uint64_t count),
                    void *context);
uint64_t slate_ext_free_in(const struct slate_ext *ext, uint32_t group);
uint64_t slate_ext_free(const struct slate_ext *ext);

/* What a unit is, of those that are written, and up to where that stays so. */
void slate_ext_what(const struct slate_ext *ext, uint64_t unit,
                    struct slate_ext_area *area);

/* Pieces of units; at: byte within the unit; piece: SLATE_EXT_PIECE bytes,
 * zeroed. */
uint32_t slate_ext_seed(const struct slate_ext *ext);
uint32_t slate_ext_inode_seed(const struct slate_ext *ext, uint32_t inode);
void slate_ext_put_super(const struct slate_ext *ext, uint32_t group,
                         uint32_t at, uint8_t *piece);
void slate_ext_put_descriptors(const struct slate_ext *ext, uint32_t first,
                               uint8_t *piece);
void slate_ext_put_bitmap(const struct slate_ext *ext, uint32_t group,
                          uint32_t at, uint8_t *piece);
void slate_ext_put_inode_bitmap(const struct slate_ext *ext, uint32_t group,
                                uint32_t at, uint8_t *piece);
void slate_ext_put_table(const struct slate_ext *ext, uint32_t first_inode,
                         uint8_t *piece);
void slate_ext_put_folder(const struct slate_ext *ext, uint32_t inode,
                          uint32_t unit, uint32_t at, uint8_t *piece);
void slate_ext_put_journal(const struct slate_ext *ext, uint32_t at,
                           uint8_t *piece);
/* The map of the journal's inode: 60 bytes, zeroed. */
void slate_ext_put_journal_map(const struct slate_ext *ext, uint8_t *map);

/* The row of format.c. */

/* Renews the checksum of a superblock that has one, after a change; makes a
 * copy the first one: its group's number is 0. */
void slate_ext_seal(uint8_t *super);
void slate_ext_make_first(uint8_t *super);

/* Blocks of the device in a unit. */
static inline uint32_t slate_ext_unit_blocks(const struct slate_ext *ext)
{
    return ext->unit_bytes / ext->block_bytes;
}

SLATE_FORMAT_WHOLE(slate_ext);

#endif
