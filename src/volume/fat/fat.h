/* SPDX-License-Identifier: MIT */
/* The FAT boot block's fields (FAT32 specification 1.03, 3), shared by the
 * reader and the composer. */
#ifndef SLATE_VOLUME_FAT_H
#define SLATE_VOLUME_FAT_H

#include "volume/common/common.h"
#include "volume/files/files.h"

/* Room for a FAT label: 11 characters and a zero. */
#define SLATE_FAT_LABEL_ROOM 12

/* Cluster counts that make a volume FAT12, FAT16 or FAT32 (specification 1.03,
 * 3.5). */
#define SLATE_FAT12_CLUSTERS_MAX 4084u
#define SLATE_FAT16_CLUSTERS_MAX 65524u
#define SLATE_FAT32_CLUSTERS_MAX 268435445u

/* A FAT volume to be composed; every block follows from these values. */
struct slate_fat {
    uint64_t first;           /* device block where the volume begins */
    uint32_t blocks;          /* its length */
    uint32_t block_bytes;     /* logical block of the device */
    uint32_t cluster_blocks;  /* blocks per cluster, a power of two */
    uint32_t reserved_blocks; /* blocks ahead of the first table */
    uint32_t fat_blocks;      /* blocks of each of the two tables */
    uint32_t root_blocks;     /* FAT12, FAT16: of the root directory */
    uint32_t clusters;
    uint32_t serial;
    uint16_t heads, track_sectors; /* geometry for old firmware */
    uint8_t bits;                  /* of an entry: 12, 16 or 32 */
    uint32_t root_cluster;         /* FAT32: counted from 2 */
    uint32_t root_clusters;        /* FAT32: of the root directory */
    uint32_t used_clusters;        /* by the root and what is placed */
    uint32_t reach; /* the first cluster behind all these, counted from 0 */
    uint32_t bad_clusters;
    const struct slate_files *files;  /* placed; NULL: none */
    const struct slate_bytes *start;  /* as in the wish */
    const struct slate_ranges *bad;   /* as in the wish */
    char label[SLATE_FAT_LABEL_ROOM]; /* "" for none */
    struct slate_stamp stamp;
};

_Static_assert(sizeof(struct slate_fat) <= SLATE_PLAN_BYTES, "a plan has room");

/* Reserved blocks that are written; more may be left as padding. */
#define SLATE_FAT32_RESERVED 32u
#define SLATE_FAT16_RESERVED 1u
#define SLATE_FAT_ENTRY_BYTES 32u /* of the root directory */

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
    SLATE_FAT16_DRIVE = 36,
    SLATE_FAT16_STATE = 37,
    SLATE_FAT16_EXTENDED = 38,
    SLATE_FAT16_SERIAL = 39,
    SLATE_FAT16_LABEL = 43,
    SLATE_FAT16_KIND = 54,
    SLATE_FAT16_CODE = 62,
    SLATE_FAT32_TABLE_BLOCKS = 36,
    SLATE_FAT32_ROOT_CLUSTER = 44,
    SLATE_FAT32_INFO_BLOCK = 48,
    SLATE_FAT32_BACKUP_BLOCK = 50,
    SLATE_FAT32_DRIVE = 64,
    SLATE_FAT32_STATE = 65,
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

/* Offsets in an entry of a folder (6). */
enum {
    SLATE_FAT_ENTRY_ATTRIBUTES = 11,
    SLATE_FAT_ENTRY_MADE_REST = 13,
    SLATE_FAT_ENTRY_MADE_TIME = 14,
    SLATE_FAT_ENTRY_MADE_DATE = 16,
    SLATE_FAT_ENTRY_READ_DATE = 18,
    SLATE_FAT_ENTRY_CLUSTER_HIGH = 20,
    SLATE_FAT_ENTRY_TIME = 22,
    SLATE_FAT_ENTRY_DATE = 24,
    SLATE_FAT_ENTRY_CLUSTER = 26,
    SLATE_FAT_ENTRY_BYTES_AT = 28
};

/* Attributes. */
#define SLATE_FAT_READ_ONLY 0x01
#define SLATE_FAT_HIDDEN 0x02
#define SLATE_FAT_SYSTEM 0x04
#define SLATE_FAT_LABEL_ATTRIBUTE 0x08
#define SLATE_FAT_FOLDER 0x10
#define SLATE_FAT_ARCHIVE 0x20

/* Entries of a folder (6.1), and bytes of a file. */
#define SLATE_FAT_FOLDER_MOST 65536u
#define SLATE_FAT_FILE_MOST UINT32_MAX

#define SLATE_FAT_NO_LABEL "NO NAME    "

/* What the boot block says, in blocks of the volume's own size. */
struct slate_fat_shape {
    uint32_t block_bytes;
    uint32_t reserved_blocks;
    uint32_t cluster_blocks;
    uint32_t tables;
    uint32_t table_blocks;
    uint32_t root_entries;
    uint32_t blocks;
    uint32_t root_at;     /* FAT12/16: first block of the root directory */
    uint32_t clusters_at; /* first block of cluster 2 */
    uint32_t clusters;
    uint32_t root_cluster; /* FAT32 */
    uint32_t info_block;   /* FAT32 */
    uint32_t copy_block;   /* FAT32: the second boot block; 0: none */
};

/* False for what is no FAT volume. block: its first 512 bytes. */
bool slate_fat_take_shape(const uint8_t *block, struct slate_fat_shape *shape);

/* The number of clusters alone tells the kind (specification 1.03, 3.5). */
enum slate_volume_kind slate_fat_kind(const struct slate_fat_shape *shape);

/* Where the root directory begins, in blocks of the volume; 0: nowhere. */
uint64_t slate_fat_root(const struct slate_fat_shape *shape);

/* The rows of format.c: planned in fat_plan.c, composed in fat_compose.c. */
enum slate_status slate_fat12_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan);
enum slate_status slate_fat16_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan);
enum slate_status slate_fat32_plan(const struct slate_wish *wish,
                                   union slate_volume_plan *plan);
void slate_fat12_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most);
void slate_fat16_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most);
void slate_fat32_limits(uint32_t block_bytes, uint64_t *least, uint64_t *most);
/* Recognises FAT12, FAT16 and FAT32. */
bool slate_fat_read(struct slate_reader *reader, const uint8_t *boot,
                    enum slate_depth depth, struct slate_volume *volume);

/* Adapts a label: upper case, 11 characters, forbidden ones and those outside
 * ASCII replaced by '_', spaces at either end dropped. SLATE_ERR_LABEL for bad
 * UTF-8. */
enum slate_status slate_fat_label(const char *wanted,
                                  char label[SLATE_FAT_LABEL_ROOM]);

/* What an extent is for. */
enum slate_fat_role {
    SLATE_FAT_ROLE_RESERVED,
    SLATE_FAT_ROLE_TABLE_COPY,
    SLATE_FAT_ROLE_TABLE,
    SLATE_FAT_ROLE_ROOT,
    SLATE_FAT_ROLE_FILES,
    SLATE_FAT_ROLE_BOOT
};

/* Where its files are; and what its folders are made of. */
void slate_fat_placed(const struct slate_fat *fat, struct slate_placed *placed);
void slate_fat_folders(const struct slate_fat *fat,
                       struct slate_folders *folders);

/* Can the start-up code go on it? And what it puts in boot block and third
 * block, where there is any. */
bool slate_fat_start_fits(const struct slate_fat *fat);
void slate_fat_put_start(const struct slate_fat *fat, uint8_t *boot);
void slate_fat_put_third(const struct slate_fat *fat, uint8_t *piece);

/* Gives each item its short name; and is that all its name? */
void slate_fat_shorten(struct slate_files *files);
bool slate_fat_is_short(const struct slate_files *files, uint32_t item);

/* The attributes of an item (6), which exFAT has as well (7.4.4). */
uint8_t slate_fat_attributes(const struct slate_item *item);

/* A field of 11 characters, filled with spaces; and the root directory's entry.
 * entry: zeroed */
void slate_fat_put_label(uint8_t *field, const char *label);
void slate_fat_put_label_entry(uint8_t *entry, const char *label,
                               const struct slate_stamp *stamp);

SLATE_FORMAT_PARTS(slate_fat);

#endif
