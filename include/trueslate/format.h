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

/** Bytes of the largest plan. */
#define SLATE_PLAN_BYTES 256u

/** The plan of any volume: what it is made of is its format's own. Plans may be
 * copied. */
union slate_volume_plan {
    uint64_t alignment;
    unsigned char bytes[SLATE_PLAN_BYTES];
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
    bool no_journal;      /**< it has none, though the format can have one */
    uint32_t clusters_at; /**< blocks of the volume ahead of its clusters;
                               0: all of it is clusters */
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
    uint32_t revision; /**< counts up when it writes something else for the same
                            wish: earlier drafts are refused then */

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

#ifdef __cplusplus
}
#endif
#endif
