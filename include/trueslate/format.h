/* SPDX-License-Identifier: MIT */
/* Volumes that can be composed: one row for each format. */
#ifndef TRUESLATE_FORMAT_H
#define TRUESLATE_FORMAT_H

#include "trueslate/compose.h"
#include "trueslate/files.h"
#include "trueslate/volume.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What a volume is asked to be. */
struct slate_wish {
    struct slate_range range; /**< its blocks on the device */
    uint32_t block_bytes;     /**< of the device: 512, 1024, 2048 or 4096 */
    uint32_t cluster_bytes;   /**< 0: chosen to fit */
    uint32_t align_bytes;     /**< wanted alignment of the clusters on the
                                   device; 0: as old systems have it, none */
    uint32_t table_bytes;     /**< exFAT: how far behind its start a volume's
                                   table begins; 0: as early as it can */
    uint16_t heads;           /**< geometry for old firmware; 0: 255 and 63 */
    uint16_t track_sectors;
    uint8_t id[16]; /**< serial numbers and identifiers come from here */
    struct slate_stamp stamp;
    const char *label; /**< UTF-8 as it is wanted; adapted to the format;
                              NULL: none */
    bool shared;       /**< ext4: every user may write in the root folder;
                            NTFS: everywhere */
    bool no_journal;   /**< ext4: without a journal */
    const struct slate_ranges *bad; /**< blocks of the device that are not to be
                                         used; ascending, apart from one
                                         another; NULL: none; the plan refers
                                         to it */
    const struct slate_bytes *start; /**< FAT: a boot block of 512 bytes whose
                                          code is taken, its parameters being
                                          the volume's own; FAT32 of 512-byte
                                          blocks: or three of them; NULL: none;
                                          the plan refers to it */
    struct slate_files *files; /**< to be placed, as they were checked; NULL:
                                    none; their spots and what was in the way
                                    are filled in, and the plan refers to them
                                    */
};

/** Room for a FAT label: 11 characters and a zero. */
#define SLATE_FAT_LABEL_ROOM 12

/** Cluster counts that make a volume FAT12, FAT16 or FAT32 (specification 1.03,
 * 3.5). */
#define SLATE_FAT12_CLUSTERS_MAX 4084u
#define SLATE_FAT16_CLUSTERS_MAX 65524u
#define SLATE_FAT32_CLUSTERS_MAX 268435445u

/** A FAT volume to be composed; every block follows from these values. */
struct slate_fat {
    uint64_t first;           /**< device block where the volume begins */
    uint32_t blocks;          /**< its length */
    uint32_t block_bytes;     /**< logical block of the device */
    uint32_t cluster_blocks;  /**< blocks per cluster, a power of two */
    uint32_t reserved_blocks; /**< blocks ahead of the first table */
    uint32_t fat_blocks;      /**< blocks of each of the two tables */
    uint32_t root_blocks;     /**< FAT12, FAT16: of the root directory */
    uint32_t clusters;
    uint32_t serial;
    uint16_t heads, track_sectors; /**< geometry for old firmware */
    uint8_t bits;                  /**< of an entry: 12, 16 or 32 */
    uint32_t root_cluster;         /**< FAT32: counted from 2 */
    uint32_t root_clusters;        /**< FAT32: of the root directory */
    uint32_t used_clusters;        /**< by the root and what is placed */
    uint32_t reach; /**< the first cluster behind all these, counted from 0 */
    uint32_t bad_clusters;
    const struct slate_files *files;  /**< placed; NULL: none */
    const struct slate_bytes *start;  /**< as in the wish */
    const struct slate_ranges *bad;   /**< as in the wish */
    char label[SLATE_FAT_LABEL_ROOM]; /**< "" for none */
    struct slate_stamp stamp;
};

/** Room for an exFAT label: 11 units of UTF-16 as UTF-8, and a zero. */
#define SLATE_EXFAT_LABEL_ROOM 34

/** An exFAT volume to be composed; every block follows from these values. */
struct slate_exfat {
    uint64_t first;          /**< device block where the volume begins */
    uint64_t blocks;         /**< its length */
    uint32_t block_bytes;    /**< logical block of the device */
    uint32_t cluster_blocks; /**< blocks per cluster, a power of two */
    uint32_t table_at;       /**< block of the volume where the table begins */
    uint32_t table_blocks;   /**< its length */
    uint32_t clusters_at;    /**< block of the volume where clusters begin */
    uint32_t clusters;
    uint32_t own_cluster; /**< from here on, counted from 0, stand the volume's
                               own clusters: */
    uint32_t bitmap_clusters; /**< of the allocation bitmap */
    uint32_t upcase_clusters; /**< of the up-case table, which follows it */
    uint32_t root_clusters;   /**< of the root directory, which follows that */
    uint32_t placed_clusters; /**< of what is placed */
    uint32_t reach; /**< the first cluster behind all these, counted from 0 */
    uint32_t serial;
    char label[SLATE_EXFAT_LABEL_ROOM]; /**< UTF-8; "" for none */
    uint32_t bad_clusters;
    const struct slate_ranges *bad;  /**< as in the wish */
    const struct slate_files *files; /**< placed; NULL: none */
};

/** Room for an ext4 label: 16 bytes and a zero. */
#define SLATE_EXT_LABEL_ROOM 17

/** An ext4 volume to be composed; every block follows from these values. A
 * *unit* is a block of the file system. */
struct slate_ext {
    uint64_t first;       /**< device block where the volume begins */
    uint32_t block_bytes; /**< logical block of the device */
    uint32_t unit_bytes;  /**< 1024, 2048 or 4096 */
    uint64_t units;       /**< its length */
    uint32_t groups;
    uint32_t group_inodes;
    uint32_t table_units;      /**< of a group's inodes */
    uint32_t descriptor_units; /**< of each copy of the group descriptors */
    uint8_t flex_bits;      /**< so many groups, as a power of two, keep their
                                 bitmaps and inodes together */
    uint32_t journal_units; /**< 0: without */
    uint64_t journal_at;
    uint64_t root_at;
    uint64_t lost_at; /**< of the folder for what is found */
    uint32_t lost_units;
    const struct slate_ranges *bad; /**< as in the wish; NULL: none is in it */
    uint64_t bad_units;
    uint32_t bad_runs;  /**< of units in a row, within a group each */
    uint32_t map_units; /**< of their list, where an inode has no room for it */
    uint64_t map_at;
    uint64_t reserved; /**< units for the administrator */
    uint8_t id[16];
    uint8_t hash_seed[16];
    uint32_t seconds;                 /**< since 1970 */
    bool shared;                      /**< every user may write in the root */
    char label[SLATE_EXT_LABEL_ROOM]; /**< UTF-8; "" for none */
};

/** Room for an NTFS label: 32 units of UTF-16 as UTF-8, and a zero. */
#define SLATE_NTFS_LABEL_ROOM 97

/** What an NTFS volume keeps in clusters of its own, in this order on it, but
 * for the mirror, which stands at its end. */
enum slate_ntfs_stream {
    SLATE_NTFS_BOOT,        /**< boot block, and room for a boot program */
    SLATE_NTFS_LOG,         /**< of changes under way */
    SLATE_NTFS_DEFINITIONS, /**< of attributes */
    SLATE_NTFS_UPCASE,
    SLATE_NTFS_SECURITY,    /**< descriptors: who may do what */
    SLATE_NTFS_RECORD_BITS, /**< records in use */
    SLATE_NTFS_ROOT,        /**< names in the root folder */
    SLATE_NTFS_BITMAP,      /**< clusters in use */
    SLATE_NTFS_PARTS,       /**< the record of bad clusters goes on elsewhere */
    SLATE_NTFS_RECORDS,     /**< the file table */
    SLATE_NTFS_MIRROR       /**< its first four records */
};
#define SLATE_NTFS_STREAMS 11

/** An NTFS volume to be composed; every block follows from these values. */
struct slate_ntfs {
    uint64_t first;  /**< device block where the volume begins */
    uint64_t blocks; /**< its length; the last one has a copy of the first */
    uint32_t block_bytes;   /**< logical block of the device */
    uint32_t cluster_bytes; /**< a power of two, up to 2 MiB */
    uint32_t clusters;
    uint32_t record_bytes; /**< of the file table */
    uint32_t records;
    uint32_t log_bytes;
    uint32_t at[SLATE_NTFS_STREAMS]; /**< first cluster of each */
    uint32_t reach; /**< the first cluster behind all but the mirror */
    uint32_t bad_clusters;
    uint32_t bad_runs;              /**< of clusters in a row */
    uint32_t bad_parts;             /**< further records that tell of them */
    const struct slate_ranges *bad; /**< as in the wish */
    uint16_t heads, track_sectors;  /**< geometry for old firmware */
    bool shared;                    /**< every user may write */
    uint64_t serial;
    uint64_t time;                     /**< tenths of microseconds since 1601 */
    char label[SLATE_NTFS_LABEL_ROOM]; /**< UTF-8; "" for none */
};

/** The plan of any volume. */
union slate_volume_plan {
    struct slate_fat fat;
    struct slate_exfat exfat;
    struct slate_ext ext;
    struct slate_ntfs ntfs;
};

/** Key figures of a planned volume. */
struct slate_figures {
    char label[SLATE_LABEL_ROOM]; /**< as it will be stored; "" for none */
    uint64_t serial;              /**< 0: the format has a longer identifier */
    uint32_t cluster_bytes;
    uint64_t clusters;
    uint64_t bad_clusters;    /**< of them, not to be used */
    uint64_t placed_clusters; /**< in use by files and folders placed */
    uint64_t room_bytes;      /**< for further files and folders */
    uint64_t file_most;       /**< bytes that the largest of them can have */
    bool no_journal; /**< it has none, though the format can have one */
    struct slate_range whole; /**< blocks of the device */
};

/** A volume that is to get another label. */
struct slate_relabel {
    struct slate_range range; /**< its blocks on the device */
    const char *label;        /**< UTF-8 as it is wanted; "": none */
    struct slate_stamp stamp; /**< of a label that was not there */
    uint32_t round; /**< 0 at first; one more as long as there is more */
};

/** Bytes that a label is made of, in one block of the device. */
struct slate_label_edit {
    uint64_t byte; /**< of the device */
    uint32_t length;
    bool copy; /**< hosts do not read it first */
    uint8_t bytes[32];
};

#define SLATE_LABEL_EDITS 8

/** What changes with the label, every copy of it. */
struct slate_label_plan {
    char label[SLATE_LABEL_ROOM]; /**< as it will be stored; "" for none */
    bool more;                    /**< copies, in the next round */
    uint32_t edits;
    struct slate_label_edit edit[SLATE_LABEL_EDITS];
};

/** One format. */
struct slate_format {
    struct slate_composer composer; /**< its plans: union slate_volume_plan */
    enum slate_volume_kind kind;

    /**
     * Chooses the geometry of a volume.
     *
     * @param wish what is wanted
     * @param plan receives it; undefined on failure
     * @return SLATE_OK, SLATE_ERR_CLUSTER, SLATE_ERR_BLOCK_SIZE,
     *         SLATE_ERR_LABEL, SLATE_ERR_TOO_SMALL, SLATE_ERR_TOO_LARGE,
     *         SLATE_ERR_BAD_BLOCK, SLATE_ERR_BAD_LIST; SLATE_ERR_FILES,
     * SLATE_ERR_FILE_SIZE, SLATE_ERR_ROOT_FULL for files that do not go on it;
     *         SLATE_ERR_START for code that does not; SLATE_ERR_FORMAT for
     *         files where a format places none
     */
    enum slate_status (*plan)(const struct slate_wish *wish,
                              union slate_volume_plan *plan);

    /** The smallest and the largest volume, in bytes, with chosen clusters.
     * @param block_bytes of the device */
    void (*limits)(uint32_t block_bytes, uint64_t *least, uint64_t *most);

    void (*figures)(const union slate_volume_plan *plan,
                    struct slate_figures *figures);
    const char *label_rule; /**< "keeps 11 upper-case characters of ASCII" */
    bool files;             /**< it places files */

    /**
     * Finds where the label of a volume stands, and what shall stand there.
     * Reads; writes nothing. NULL: not for this format.
     *
     * @param media an open device
     * @param wish  the volume, and its label
     * @param work  SLATE_WORK_MIN bytes
     * @param plan  receives it; undefined on failure
     * @return SLATE_OK, SLATE_ERR_LABEL; SLATE_ERR_CHANGED when no such volume
     *         is there, SLATE_ERR_UNCLEAN when its log has to be replayed
     * first, SLATE_ERR_ROOT_FULL when its root directory has no room for a
     * label, SLATE_ERR_LABEL_ROOM when there is none for this one;
     * SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
     */
    enum slate_status (*relabel)(struct slate_media *media,
                                 const struct slate_relabel *wish, void *work,
                                 struct slate_label_plan *plan);
};

/** Formats that can be composed, from 0. @return NULL when there is none of
 * this index */
const struct slate_format *slate_format_at(uint32_t index);

/** The format of a kind of volume. @return NULL: it cannot be composed */
const struct slate_format *slate_format_of(enum slate_volume_kind kind);

/** Of those that are chosen where none was asked for, the one with the smallest
 * and the one with the largest volumes. @param kind SLATE_VOLUME_NONE; another
 * one's own format is returned, NULL when it has none */
const struct slate_format *slate_format_smallest(enum slate_volume_kind kind);
const struct slate_format *slate_format_largest(enum slate_volume_kind kind);

/**
 * Plans a volume of a kind, or of the first kind that fits: FAT32; FAT16, else
 * FAT12, where that needs more room; exFAT where that ends ahead of the room.
 *
 * @param kind   SLATE_VOLUME_NONE: chosen
 * @param wish   what is wanted
 * @param format receives the format; of a choice that fails, the first one
 * @param plan   receives the plan
 * @return as slate_format.plan; SLATE_ERR_ARGUMENT for a kind that cannot be
 *         composed
 */
SLATE_MUST_CHECK enum slate_status
slate_format_plan(enum slate_volume_kind kind, const struct slate_wish *wish,
                  const struct slate_format **format,
                  union slate_volume_plan *plan);

#ifdef __cplusplus
}
#endif
#endif
