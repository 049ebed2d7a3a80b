/* SPDX-License-Identifier: MIT */
/* NTFS's fields (the layout that the Linux kernel's documentation and headers
 * publish), shared by the reader and the composer. */
#ifndef SLATE_NTFS_H
#define SLATE_NTFS_H

#include "volume/common/common.h"

/* Room for an NTFS label: 32 units of UTF-16 as UTF-8, and a zero. */
#define SLATE_NTFS_LABEL_ROOM 97

/* What an NTFS volume keeps in clusters of its own, in this order on it, but
 * for the mirror, which stands at its end. */
enum slate_ntfs_stream {
    SLATE_NTFS_BOOT,        /* boot block, and room for a boot program */
    SLATE_NTFS_LOG,         /* of changes under way */
    SLATE_NTFS_DEFINITIONS, /* of attributes */
    SLATE_NTFS_UPCASE,
    SLATE_NTFS_SECURITY,    /* descriptors: who may do what */
    SLATE_NTFS_RECORD_BITS, /* records in use */
    SLATE_NTFS_ROOT,        /* names in the root folder */
    SLATE_NTFS_BITMAP,      /* clusters in use */
    SLATE_NTFS_PARTS,       /* the record of bad clusters goes on elsewhere */
    SLATE_NTFS_RECORDS,     /* the file table */
    SLATE_NTFS_MIRROR       /* its first four records */
};
#define SLATE_NTFS_STREAMS 11

/* An NTFS volume to be composed; every block follows from these values. */
struct slate_ntfs {
    uint64_t first;       /* device block where the volume begins */
    uint64_t blocks;      /* its length; the last one has a copy of the first */
    uint32_t block_bytes; /* logical block of the device */
    uint32_t cluster_bytes; /* a power of two, up to 2 MiB */
    uint32_t clusters;
    uint32_t record_bytes; /* of the file table */
    uint32_t records;
    uint32_t log_bytes;
    uint32_t at[SLATE_NTFS_STREAMS]; /* first cluster of each */
    uint32_t reach; /* the first cluster behind all but the mirror */
    uint32_t bad_clusters;
    uint32_t bad_runs;              /* of clusters in a row */
    uint32_t bad_parts;             /* further records that tell of them */
    const struct slate_ranges *bad; /* as in the wish */
    uint16_t heads, track_sectors;  /* geometry for old firmware */
    bool shared;                    /* every user may write */
    uint64_t serial;
    uint64_t time;                     /* tenths of microseconds since 1601 */
    char label[SLATE_NTFS_LABEL_ROOM]; /* UTF-8; "" for none */
};

_Static_assert(sizeof(struct slate_ntfs) <= SLATE_PLAN_BYTES,
               "a plan has room");

/* The boot block. */
enum {
    SLATE_NTFS_BLOCK_BYTES = 11,
    SLATE_NTFS_CLUSTER_BLOCKS = 13, /* from 0xF4 on: the negative of a shift */
    SLATE_NTFS_MEDIUM = 21,
    SLATE_NTFS_TRACK_SECTORS = 24,
    SLATE_NTFS_HEADS = 26,
    SLATE_NTFS_HIDDEN = 28,
    SLATE_NTFS_DRIVE = 36,
    SLATE_NTFS_BLOCKS = 40, /* one less than the volume has */
    SLATE_NTFS_TABLE_AT = 48,
    SLATE_NTFS_MIRROR_AT = 56,
    SLATE_NTFS_RECORD_SIZE = 64, /* clusters; or the negative of a shift */
    SLATE_NTFS_INDEX_SIZE = 68,
    SLATE_NTFS_SERIAL = 72,
    SLATE_NTFS_CODE = 84,
    SLATE_NTFS_SIGNATURE = 510
};
#define SLATE_NTFS_BOOT_BYTES 8192u /* of the file that it begins */

/* Records and blocks of indexes: the last two bytes of each stride are kept
 * elsewhere, and a number stands there. */
#define SLATE_NTFS_STRIDE 512u
enum {
    SLATE_NTFS_FIXUPS_AT = 4,
    SLATE_NTFS_FIXUPS = 6
};

/* A record of the file table. */
enum {
    SLATE_NTFS_RECORD_SEQUENCE = 16,
    SLATE_NTFS_RECORD_ATTRIBUTES = 20,
    SLATE_NTFS_RECORD_FLAGS = 22,
    SLATE_NTFS_RECORD_USED = 24,
    SLATE_NTFS_NEXT_ID = 40
};
#define SLATE_NTFS_IN_USE 0x0001u
#define SLATE_NTFS_FOLDER 0x0002u
#define SLATE_NTFS_EXTENDS 0x0004u /* is in the folder of system files */
#define SLATE_NTFS_INDEXED 0x0008u /* has an index that is not of names */

/* Its first records. */
enum slate_ntfs_record {
    SLATE_NTFS_TABLE_RECORD,
    SLATE_NTFS_MIRROR_RECORD,
    SLATE_NTFS_LOG_RECORD,
    SLATE_NTFS_VOLUME_RECORD,
    SLATE_NTFS_DEFINITIONS_RECORD,
    SLATE_NTFS_ROOT_RECORD,
    SLATE_NTFS_BITMAP_RECORD,
    SLATE_NTFS_BOOT_RECORD,
    SLATE_NTFS_BAD_RECORD,
    SLATE_NTFS_SECURITY_RECORD,
    SLATE_NTFS_UPCASE_RECORD,
    SLATE_NTFS_EXTEND_RECORD,
    SLATE_NTFS_KEPT_RECORD,       /* and three more: in use, of nothing */
    SLATE_NTFS_QUOTA_RECORD = 24, /* those between are free for hosts */
    SLATE_NTFS_OBJECTS_RECORD,
    SLATE_NTFS_REPARSE_RECORD,
    SLATE_NTFS_PARTS_RECORD /* of bad clusters */
};
#define SLATE_NTFS_MIRRORED 4u
#define SLATE_NTFS_RECORDS_LEAST 64u

/* Attributes. */
enum {
    SLATE_NTFS_STANDARD = 0x10,
    SLATE_NTFS_LIST = 0x20,
    SLATE_NTFS_NAME = 0x30,
    SLATE_NTFS_VOLUME_NAME = 0x60,
    SLATE_NTFS_INFORMATION = 0x70,
    SLATE_NTFS_DATA = 0x80,
    SLATE_NTFS_INDEX = 0x90,
    SLATE_NTFS_INDEX_BLOCKS = 0xA0,
    SLATE_NTFS_BITS = 0xB0
};
/* An attribute's head, and more of one whose value is in the record. */
enum {
    SLATE_NTFS_LENGTH = 4,
    SLATE_NTFS_OUTSIDE = 8, /* 1: its value is in clusters */
    SLATE_NTFS_NAME_UNITS = 9,
    SLATE_NTFS_NAME_AT = 10,
    SLATE_NTFS_ID = 14,
    SLATE_NTFS_VALUE_BYTES = 16,
    SLATE_NTFS_VALUE_AT = 20,
    SLATE_NTFS_HEAD_BYTES = 24
};
enum {
    SLATE_NTFS_FIRST = 16, /* cluster of the file */
    SLATE_NTFS_MAP_AT = 32,
    SLATE_NTFS_DATA_BYTES = 48,
    SLATE_NTFS_MAP_LEAST = 64
};

/* The first two pages of the log. */
enum {
    SLATE_NTFS_RESTART_AT = 24, /* what follows begins there */
    SLATE_NTFS_RESTART_USED = 12,
    SLATE_NTFS_RESTART_FLAGS = 14
};
#define SLATE_NTFS_RESTART_APART 4096u
#define SLATE_NTFS_RESTART_CLEAN 0x0002u

#define SLATE_NTFS_DIRTY 0x0001u /* in the flags of a volume's information */
#define SLATE_NTFS_INFORMATION_FLAGS 10u

#define SLATE_NTFS_INDEX_BYTES 4096u
#define SLATE_NTFS_UPCASE_BYTES 131072u
#define SLATE_NTFS_LABEL_UNITS 32u

/* Descriptors stand twice in their file, so far apart. */
#define SLATE_NTFS_SECURITY_APART 262144u
/* Their numbers: of system files, of those in the folder of more, of the root
 * folder and all below it. */
enum {
    SLATE_NTFS_SYSTEM_RIGHTS = 0x100,
    SLATE_NTFS_EXTEND_RIGHTS,
    SLATE_NTFS_ROOT_RIGHTS
};
#define SLATE_NTFS_RIGHTS 3u

/* Streams. Blocks: of the device, those that hold something. */
uint64_t slate_ntfs_bytes(const struct slate_ntfs *ntfs,
                          enum slate_ntfs_stream stream);
uint32_t slate_ntfs_clusters(const struct slate_ntfs *ntfs,
                             enum slate_ntfs_stream stream);
void slate_ntfs_range(const struct slate_ntfs *ntfs,
                      enum slate_ntfs_stream stream, struct slate_range *range);
void slate_ntfs_grid(const struct slate_ntfs *ntfs,
                     struct slate_clusters *clusters);
/* The first bytes of a label, whole characters of 32 units of UTF-16. */
enum slate_status slate_ntfs_label(const char *wanted, char *label);
/* As it stands on the volume; returns how many units it has. */
uint32_t slate_ntfs_label_units(const char *label,
                                uint8_t text[2 * SLATE_NTFS_LABEL_UNITS]);

/* A number for a reference to a record: with its sequence. */
uint64_t slate_ntfs_reference(uint32_t record);

/* Writes a structure that has fix-ups: a stride of it. write writes all of it,
 * into a pen of any window. out: a stride, zeroed */
struct slate_ntfs_page {
    const struct slate_ntfs *ntfs;
    uint32_t number; /* of the record */
    uint32_t bytes;
    uint32_t fixups_at;
    void (*write)(const struct slate_ntfs_page *page, struct slate_pen *pen);
};
void slate_ntfs_put_stride(const struct slate_ntfs_page *page, uint32_t stride,
                           uint8_t *out);

/* Strides of records, and of the root folder's index. */
void slate_ntfs_put_record(const struct slate_ntfs *ntfs, uint32_t record,
                           uint32_t stride, uint8_t *out);
void slate_ntfs_put_root(const struct slate_ntfs *ntfs, uint32_t stride,
                         uint8_t *out);

/* Names of system files. */
const char *slate_ntfs_name_of(uint32_t record);
/* The value of a name's attribute; indexes of names repeat it. */
void slate_ntfs_write_name(const struct slate_ntfs *ntfs, uint32_t record,
                           struct slate_pen *pen);
#define SLATE_NTFS_NAME_BYTES 66u /* and its text */

/* The values of attributes that are indexes. */
void slate_ntfs_write_extend(const struct slate_ntfs *ntfs,
                             struct slate_pen *pen);
void slate_ntfs_write_root_head(const struct slate_ntfs *ntfs,
                                struct slate_pen *pen);
enum slate_ntfs_view {
    SLATE_NTFS_BY_HASH, /* of descriptors */
    SLATE_NTFS_BY_NUMBER,
    SLATE_NTFS_BY_OWNER, /* of quotas: empty */
    SLATE_NTFS_QUOTAS,
    SLATE_NTFS_OBJECTS, /* empty */
    SLATE_NTFS_REPARSED /* empty */
};
void slate_ntfs_write_view(const struct slate_ntfs *ntfs,
                           enum slate_ntfs_view view, struct slate_pen *pen);

/* Descriptors: the head of each, as the file and two indexes have it; and the
 * start of the file, which stands in it twice. */
struct slate_ntfs_right {
    uint32_t number, hash, bytes;
    uint64_t at;
};
void slate_ntfs_right(const struct slate_ntfs *ntfs, uint32_t index,
                      struct slate_ntfs_right *right);
void slate_ntfs_write_right_head(const struct slate_ntfs *ntfs, uint32_t index,
                                 struct slate_pen *pen);
uint32_t slate_ntfs_rights_bytes(const struct slate_ntfs *ntfs);
void slate_ntfs_write_rights(const struct slate_ntfs *ntfs,
                             struct slate_pen *pen);

/* Bad clusters: runs of them in a row. A record tells of so many: the first one
 * where it is the only one, and each of the further ones. */
uint32_t slate_ntfs_count_runs(const struct slate_ntfs *ntfs);
uint32_t slate_ntfs_runs_alone(const struct slate_ntfs *ntfs);
uint32_t slate_ntfs_runs_each(const struct slate_ntfs *ntfs);

/* What a part of the file of bad clusters maps: clusters, and how many of the
 * runs in them. */
struct slate_ntfs_span {
    uint32_t first, end, runs;
};
void slate_ntfs_find_span(const struct slate_ntfs *ntfs, uint32_t part,
                          struct slate_ntfs_span *span);
void slate_ntfs_write_map(const struct slate_ntfs *ntfs,
                          const struct slate_ntfs_span *span,
                          struct slate_pen *pen);
/* One run of a mapping. previous: where the one before it begins, 0 at first */
void slate_ntfs_write_run(uint32_t clusters, uint32_t at, uint32_t previous,
                          struct slate_pen *pen);
/* The list of the attributes of a file that takes several records. */
#define SLATE_NTFS_LIST_HEAD 96u
#define SLATE_NTFS_LIST_EACH 40u
void slate_ntfs_write_list(const struct slate_ntfs *ntfs,
                           struct slate_pen *pen);

/* The row of format.c. */

SLATE_FORMAT_WHOLE(slate_ntfs);

/* Records of NTFS's file table, read and made whole again. */

/* What is needed to read a volume's records. */
struct slate_ntfs_reading {
    struct slate_reader *reader;
    uint64_t table, mirror; /* the clusters where they begin */
    uint64_t clusters;
    uint32_t cluster_bytes;
    uint32_t length; /* of a record, in bytes */
};

/* boot: the first 512 bytes; volume: its sizes are known. False: they make no
 * sense. */
bool slate_ntfs_begin(struct slate_reader *reader, const uint8_t *boot,
                      const struct slate_volume *volume,
                      struct slate_ntfs_reading *reading);

/* A record of the table, or of the mirror, in the reader's buffer; NULL when it
 * is none, is torn, or cannot be read. byte: receives where it stands. Only the
 * first run of the table is known here: the first records are in it. */
const uint8_t *slate_ntfs_read_record(const struct slate_ntfs_reading *reading,
                                      uint64_t table, uint32_t number,
                                      uint64_t *byte);

/* Where the attribute behind the one at a byte begins, 0 being ahead of the
 * first one; bytes: receives its length, 24 at least. 0: there is none. */
uint32_t slate_ntfs_next_attribute(const uint8_t *record, uint32_t length,
                                   uint32_t at, uint32_t *bytes);

/* The value of an attribute that has it in the record. NULL: it has not. */
const uint8_t *slate_ntfs_value(const uint8_t *attribute, uint32_t length,
                                uint32_t *bytes);

/* Where the nameless data of a record stand: their mapping, which ends with a
 * zero; bytes: receives how many there are. False: they are in the record, or
 * the mapping is longer, or goes on in another record. */
#define SLATE_NTFS_MAP_MOST SLATE_VOLUME_MAP_BYTES
bool slate_ntfs_find_map(const uint8_t *record, uint32_t length,
                         uint8_t map[SLATE_NTFS_MAP_MOST], uint64_t *bytes);

/* Clusters in a row. A hole ends the mapping for all that is read here. */
struct slate_ntfs_stretch {
    uint64_t first, clusters;
    uint32_t next; /* byte of the mapping */
};
bool slate_ntfs_next_stretch(const uint8_t map[SLATE_NTFS_MAP_MOST],
                             struct slate_ntfs_stretch *stretch);

/* Are changes in the log that a host has to repeat or take back first? */
bool slate_ntfs_has_replay(const struct slate_ntfs_reading *reading);

/* Counts the free clusters, unless the bitmap is too long for a look. */
void slate_ntfs_count(const struct slate_ntfs_reading *reading,
                      struct slate_volume *volume);

#endif
