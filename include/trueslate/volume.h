/* SPDX-License-Identifier: MIT */
/* Volumes: which file system stands in a range of blocks. */
#ifndef TRUESLATE_VOLUME_H
#define TRUESLATE_VOLUME_H

#include "trueslate/media.h"
#include "trueslate/volume_kinds.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Room for a volume's label in UTF-8, with its final zero. */
#define SLATE_LABEL_ROOM 100

/** Does the second copy of the boot block say the same as the first? */
enum slate_copy {
    SLATE_COPY_UNKNOWN, /**< not looked at, or the kind keeps none */
    SLATE_COPY_EQUAL,
    SLATE_COPY_DIFFERENT,
    SLATE_COPY_OUTSIDE /**< it would lie outside the partition */
};

/** What a volume says of itself. */
struct slate_volume {
    uint64_t bytes;       /**< size that the volume claims; 0: unknown */
    uint64_t clusters_at; /**< first byte of the clusters in the volume */
    uint64_t clusters;
    uint64_t free_clusters; /**< valid when free_known: of NTFS with more than
                               2^20 clusters only once slate_volume_count_step
                               has told; of exFAT with more: at least, to a
                               percent */
    uint64_t own_clusters;  /**< valid when own_known: of those that are not
                               free, the format's own: its root, its lists. What
                               is left holds files and folders */
    uint64_t copy_lba;      /**< of the device, unless copy is unknown */
    enum slate_volume_kind kind;
    uint32_t serial;        /**< FAT, exFAT, NTFS; else 0 */
    uint32_t block_bytes;   /**< logical block it was made for; 0: unknown */
    uint32_t cluster_bytes; /**< allocation unit; 0: unknown */
    enum slate_copy copy;
    enum slate_volume_kind lost; /**< NONE or OTHER: what stood here, as a sound
                                      copy of its first block at copy_lba says;
                                      NONE when there is no copy either */
    bool kept; /**< lost: and what that copy leads to is there, so that
                    slate_draft_mend brings it back */
    bool free_known;
    bool own_known;
    bool bootable;  /**< optical: has a boot record */
    bool dirty;     /**< not unmounted properly, or marked as damaged */
    bool replay;    /**< so because its log has changes to replay: ext, NTFS */
    bool read_only; /**< ext: a flag tells hosts never to write */
    bool has_members; /**< Btrfs, ZFS: one of several devices */
    bool mirror; /**< a member of a RAID whose file system hosts may show */
    struct slate_guid uuid;       /**< in the volume's byte order; else 0 */
    char label[SLATE_LABEL_ROOM]; /**< "" for none */
};

/** How much is read of a device or a volume. */
enum slate_depth {
    SLATE_DEPTH_GLANCE, /**< what a list shows: kind, label, size */
    SLATE_DEPTH_FULL    /**< all that is known here */
};

/** Is it a volume that is known here? @param kind any */
bool slate_volume_is_known(enum slate_volume_kind kind);

/**
 * Recognises the volume in a range. A glance reads at most 20 KiB, a full look
 * at most 200 KiB.
 *
 * docs/volumes.md names the specification of each kind and what is read of it.
 *
 * @param media  an open device
 * @param range  of the device; it may reach beyond the end
 * @param depth  how much to read
 * @param work   SLATE_WORK_MIN bytes
 * @param volume filled in
 * @return SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_volume_read(struct slate_media *media, const struct slate_range *range,
                  enum slate_depth depth, void *work,
                  struct slate_volume *volume);

#define SLATE_VOLUME_MAP_BYTES 256u

/** Counting the free clusters of a volume whose bitmap is longer than a look
 * may read; placed by the caller, who may read @c done and @c total. */
struct slate_volume_count {
    struct slate_media *media;
    struct slate_range range;
    struct slate_volume *volume; /**< filled in at the end */
    uint8_t *work;
    uint32_t work_bytes;
    uint32_t cluster_bytes;
    uint64_t clusters;
    uint64_t stretch; /**< cluster where the current run of the bitmap begins */
    uint64_t at;      /**< byte of the volume, the next one to count */
    uint64_t left;    /**< bytes of that run */
    uint64_t used;    /**< clusters */
    uint64_t done;    /**< bytes of the bitmap */
    uint64_t total;   /**< the same: an eighth of the clusters */
    uint32_t next;    /**< byte of map */
    enum slate_status status;            /**< the first failure */
    uint8_t map[SLATE_VOLUME_MAP_BYTES]; /**< where the bitmap's runs are */
};

/**
 * Prepares to count the free clusters of an NTFS volume whose number a full
 * look has left open.
 *
 * @param count      filled in
 * @param media      an open device, kept by reference
 * @param range      where the volume is
 * @param volume     as slate_volume_read left it; kept by reference
 * @param work       kept by reference
 * @param work_bytes at least SLATE_WORK_MIN; more makes fewer commands
 * @return SLATE_OK; SLATE_ERR_ARGUMENT: no NTFS, or known; SLATE_ERR_BUFFER;
 *         SLATE_ERR_READ: where its bitmap is cannot be told;
 *         SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_volume_count_start(
    struct slate_volume_count *count, struct slate_media *media,
    const struct slate_range *range, struct slate_volume *volume, void *work,
    size_t work_bytes);

/**
 * Counts at most one work buffer of the bitmap. Until done is total, call it
 * again, or leave off; then the volume has its free clusters.
 *
 * @param count a started one
 * @return SLATE_OK; SLATE_ERR_READ: it stays unknown; SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_volume_count_step(struct slate_volume_count *count);

/** What a flag of a volume stands for. */
enum slate_flag_kind {
    SLATE_FLAG_DIRTY,    /**< FAT16, FAT32, exFAT, NTFS: not unmounted */
    SLATE_FLAG_READ_ONLY /**< ext: not to be written */
};

/** Bits of one byte that hold such a flag, raised. */
struct slate_flag {
    uint64_t byte; /**< of the device */
    enum slate_flag_kind kind;
    uint8_t mask; /**< the bits that are wrong */
    bool set;     /**< true: setting them lowers the flag; else clearing */
};

#define SLATE_FLAGS_MAX 8

/**
 * Finds the raised flags of a volume, every copy of each: copies that hosts do
 * not read come first.
 *
 * @param media an open device
 * @param range as with slate_volume_read
 * @param work  SLATE_WORK_MIN bytes
 * @param flag  receives the flags
 * @param count receives their number
 * @return SLATE_OK, SLATE_ERR_READ, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_volume_flags(struct slate_media *media, const struct slate_range *range,
                   void *work, struct slate_flag flag[SLATE_FLAGS_MAX],
                   uint32_t *count);

/** The name of a kind in the words of the trade: "FAT32". Never NULL. */
const char *slate_volume_words(enum slate_volume_kind kind);

/** Name of the state of a copy for programs: "different". Never NULL. */
const char *slate_copy_name(enum slate_copy copy);

#ifdef __cplusplus
}
#endif
#endif
