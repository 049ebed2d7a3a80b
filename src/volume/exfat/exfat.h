/* SPDX-License-Identifier: MIT */
/* exFAT's fields (file system specification 1.00), shared by the reader and the
 * composer. */
#ifndef SLATE_EXFAT_H
#define SLATE_EXFAT_H

#include <stdint.h>

#include "volume/common/common.h"
#include "volume/files/files.h"

/* Room for an exFAT label: 11 units of UTF-16 as UTF-8, and a zero. */
#define SLATE_EXFAT_LABEL_ROOM 34

/* What names must not have (file system specification 1.00, 7.7.3). */
#define SLATE_EXFAT_FORBIDDEN "\"*/:<>?\\|"

/* An exFAT volume to be composed; every block follows from these values. */
struct slate_exfat {
    uint64_t first;          /* device block where the volume begins */
    uint64_t blocks;         /* its length */
    uint32_t block_bytes;    /* logical block of the device */
    uint32_t cluster_blocks; /* blocks per cluster, a power of two */
    uint32_t table_at;       /* block of the volume where the table begins */
    uint32_t table_blocks;   /* its length */
    uint32_t clusters_at;    /* block of the volume where clusters begin */
    uint32_t clusters;
    uint32_t own_cluster; /* from here on, counted from 0, stand the volume's
                               own clusters: */
    uint32_t bitmap_clusters; /* of the allocation bitmap */
    uint32_t upcase_clusters; /* of the up-case table, which follows it */
    uint32_t root_clusters;   /* of the root directory, which follows that */
    uint32_t placed_clusters; /* of what is placed */
    uint32_t reach; /* the first cluster behind all these, counted from 0 */
    uint32_t serial;
    char label[SLATE_EXFAT_LABEL_ROOM]; /* UTF-8; "" for none */
    uint32_t bad_clusters;
    const struct slate_ranges *bad;  /* as in the wish */
    const struct slate_files *files; /* placed; NULL: none */
};

_Static_assert(sizeof(struct slate_exfat) <= SLATE_PLAN_BYTES,
               "a plan has room");

/* The boot block (3.1). */
enum {
    SLATE_EXFAT_NAME = 3,
    SLATE_EXFAT_PARTITION_AT = 64,
    SLATE_EXFAT_BLOCKS = 72,
    SLATE_EXFAT_TABLE_AT = 80,
    SLATE_EXFAT_TABLE_BLOCKS = 84,
    SLATE_EXFAT_CLUSTERS_AT = 88,
    SLATE_EXFAT_CLUSTERS = 92,
    SLATE_EXFAT_ROOT_CLUSTER = 96,
    SLATE_EXFAT_SERIAL = 100,
    SLATE_EXFAT_REVISION = 104,
    SLATE_EXFAT_FLAGS = 106,
    SLATE_EXFAT_BLOCK_SHIFT = 108,
    SLATE_EXFAT_CLUSTER_SHIFT = 109, /* blocks of a cluster */
    SLATE_EXFAT_TABLES = 110,
    SLATE_EXFAT_DRIVE = 111,
    SLATE_EXFAT_IN_USE = 112, /* percent; 255: not known */
    SLATE_EXFAT_CODE = 120,
    SLATE_EXFAT_SIGNATURE = 510
};

#define SLATE_EXFAT_DIRTY 0x0002u /* of the flags */

/* Blocks of a boot region: the boot block, eight more of it, parameters, a
 * reserved one, and their checksum. The second region follows the first. */
enum {
    SLATE_EXFAT_MORE_BOOT = 1,
    SLATE_EXFAT_PARAMETERS = 9,
    SLATE_EXFAT_CHECKSUM = 11,
    SLATE_EXFAT_REGION_BLOCKS = 12
};

#define SLATE_EXFAT_FIRST_CLUSTER 2u
#define SLATE_EXFAT_ENTRY_BYTES 32u
#define SLATE_EXFAT_LABEL_UNITS 11u

/* Entries of the root directory (7), and their fields. */
enum {
    SLATE_EXFAT_ENTRY_NO_LABEL = 0x03,
    SLATE_EXFAT_ENTRY_BITMAP = 0x81,
    SLATE_EXFAT_ENTRY_UPCASE = 0x82,
    SLATE_EXFAT_ENTRY_LABEL = 0x83,
    SLATE_EXFAT_ENTRY_FILE = 0x85,
    SLATE_EXFAT_ENTRY_STREAM = 0xC0,
    SLATE_EXFAT_ENTRY_NAME = 0xC1
};
enum {
    SLATE_EXFAT_FILE_MORE = 1, /* entries that follow */
    SLATE_EXFAT_FILE_SUM = 2,
    SLATE_EXFAT_FILE_ATTRIBUTES = 4,
    SLATE_EXFAT_FILE_MADE = 8,
    SLATE_EXFAT_FILE_CHANGED = 12,
    SLATE_EXFAT_FILE_READ = 16,
    SLATE_EXFAT_FILE_MADE_REST = 20,
    SLATE_EXFAT_FILE_CHANGED_REST = 21,
    SLATE_EXFAT_STREAM_FLAGS = 1,
    SLATE_EXFAT_STREAM_NAME_LENGTH = 3,
    SLATE_EXFAT_STREAM_NAME_HASH = 4,
    SLATE_EXFAT_STREAM_VALID = 8
};
enum {
    SLATE_EXFAT_LABEL_LENGTH = 1, /* units */
    SLATE_EXFAT_LABEL_TEXT = 2,
    SLATE_EXFAT_UPCASE_CHECKSUM = 4,
    SLATE_EXFAT_ENTRY_CLUSTER = 20,
    SLATE_EXFAT_ENTRY_LENGTH = 24 /* bytes */
};

/* Goes on with the checksum of the boot region (3.4) or the up-case table
 * (7.2.3) by bytes; zeros only turn it. */
uint32_t slate_exfat_sum(uint32_t sum, const uint8_t *bytes, uint32_t count);
uint32_t slate_exfat_sum_zeros(uint32_t sum, uint64_t count);

/* Is a byte of the boot block one that hosts change? The checksum leaves it
 * out.
 */
bool slate_exfat_is_changing(uint32_t at);

/* The row of format.c: planned in exfat_plan.c, composed in exfat_compose.c. */

/* Entries that the root directory has of its own: label, bitmap, up-case
 * table. k: which of them; entry: zeroed */
#define SLATE_EXFAT_ROOT_HEAD 3u
void slate_exfat_put_head(const struct slate_exfat *exfat, uint32_t k,
                          uint8_t *entry);

/* What an extent is for. */
enum slate_exfat_role {
    SLATE_EXFAT_ROLE_SECOND_REGION,
    SLATE_EXFAT_ROLE_REGION,
    SLATE_EXFAT_ROLE_TABLE,
    SLATE_EXFAT_ROLE_BITMAP,
    SLATE_EXFAT_ROLE_UPCASE,
    SLATE_EXFAT_ROLE_ROOT,
    SLATE_EXFAT_ROLE_FILES,
    SLATE_EXFAT_ROLE_BOOT
};

/* Where its files are; and what its folders are made of. */
void slate_exfat_placed(const struct slate_exfat *exfat,
                        struct slate_placed *placed);
void slate_exfat_folders(const struct slate_exfat *exfat,
                         struct slate_folders *folders);

/* Clusters that the volume itself takes: bitmap, up-case table, root. */
uint32_t slate_exfat_used(const struct slate_exfat *exfat);

/* Adapts a label: 11 units of UTF-16, what names of files must not have
 * replaced by '_', spaces at either end dropped. SLATE_ERR_LABEL for bad
 * UTF-8. */
enum slate_status slate_exfat_label(const char *wanted,
                                    char label[SLATE_EXFAT_LABEL_ROOM]);

/* The root directory's entry for it. entry: zeroed */
void slate_exfat_put_label(uint8_t *entry, const char *label);

SLATE_FORMAT_WHOLE(slate_exfat);

/* The up-case table that exFAT and NTFS keep on the volume. */

/* Bytes of the table in its compressed form. */
extern const uint32_t slate_upcase_bytes, slate_upcase_checksum;

/* Writes bytes of the compressed table, units with the low byte first; zeros
 * behind its end. */
void slate_upcase_put(uint32_t at, uint8_t *data, uint32_t count);

/* The upper case of units of UTF-16: of one, and of a row of them, with the low
 * byte first. */
void slate_upcase_units(uint16_t first, uint32_t count, uint8_t *units);
uint16_t slate_upcase(uint16_t unit);

#endif
