/* SPDX-License-Identifier: MIT */
/* Volumes that no partition holds: searched for place by place, and told with
 * what speaks for each. Nothing is put back without being asked for
 * (slate_draft_put_back). */
#ifndef TRUESLATE_SEARCH_H
#define TRUESLATE_SEARCH_H

#include "trueslate/assess.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What speaks for a volume that was found, and against it. */
enum slate_lost_evidence {
    SLATE_LOST_PLACE = 1,   /**< its first block names the block where it was
                                 found: FAT, exFAT, NTFS, Btrfs */
    SLATE_LOST_COPY = 2,    /**< its own copy of its first block agrees */
    SLATE_LOST_CONTENT = 4, /**< what its first block leads to is there: the
                                 first entry of its table, the first record of
                                 its files, its root */
    SLATE_LOST_OVERLAP = 8, /**< another one that was found shares blocks with
                                 it: one of the two is stale */
    SLATE_LOST_TAKEN = 16,  /**< it says to reach into a partition that is
                                 there, or beyond the device */
    SLATE_LOST_HOLLOW = 32  /**< what its first block leads to is not there:
                                 it is written over, or damaged */
};

/** A volume that begins where no partition is. */
struct slate_lost {
    uint64_t first, count; /**< blocks of the device, as it says */
    struct slate_volume volume;
    uint32_t evidence; /**< a sum of enum slate_lost_evidence */
};

/**
 * Looks at one place for the beginning of a volume.
 *
 * A volume counts whose kind says how long it is: FAT, exFAT, NTFS, ext, XFS,
 * Btrfs, F2FS, HFS, HFS+, APFS. Copies of first blocks do not count, nor do
 * FAT, exFAT, NTFS, XFS and ext of which neither the copy nor what it leads to
 * is there. Writes nothing.
 *
 * @param media an open device
 * @param facts of it, as slate_assess_look found them
 * @param lba   of a block; in no partition
 * @param work  SLATE_WORK_MIN bytes
 * @param lost  receives it
 * @return SLATE_OK; SLATE_ERR_FORMAT: none begins there; SLATE_ERR_ARGUMENT:
 *         beyond the device, or in a partition; SLATE_ERR_READ,
 *         SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status
slate_lost_read(struct slate_media *media, const struct slate_facts *facts,
                uint64_t lba, void *work, struct slate_lost *lost);

/** State of a search; placed by the caller, who may read it and change none. */
struct slate_search {
    struct slate_media *media;
    const struct slate_facts *facts;
    uint8_t *work;
    struct slate_lost *lost; /**< the first ones, by their blocks; the
                                  caller's room */
    uint32_t room, count;    /**< of lost */
    uint32_t found;          /**< all of them */
    uint64_t every;          /**< blocks from one place to the next */
    uint64_t at;             /**< the next place; behind the last one, the
                                  blocks of the device */
    uint64_t places;         /**< that were looked at */
    uint64_t total;          /**< about as many will be, in all */
    uint64_t unread;         /**< of them, those that could not be read */
    bool finished;
    enum slate_status status; /**< the first failure */
};

/**
 * Prepares a search over what no partition holds. Places are: each block of the
 * first MiB; whole multiples of a distance; and with 512-byte blocks, where old
 * systems put partitions: at the cylinders and tracks of 255 heads and 63
 * sectors, up to 528 MB also of 16 heads.
 *
 * @param search filled in
 * @param media  an open device, kept by reference
 * @param facts  of it, looked at closely; kept by reference
 * @param every  bytes from one place to the next, at least a block; 0: 1 MiB
 * @param from   block to begin at, a place as well; 0: the first one
 * @param lost   room for what is found, kept by reference
 * @param room   of it
 * @param work   SLATE_WORK_MIN bytes, kept by reference
 * @return SLATE_OK; SLATE_ERR_ARGUMENT; SLATE_ERR_BUFFER
 */
SLATE_MUST_CHECK enum slate_status
slate_search_start(struct slate_search *search, struct slate_media *media,
                   const struct slate_facts *facts, uint64_t every,
                   uint64_t from, struct slate_lost *lost, uint32_t room,
                   void *work);

/**
 * Looks at no more than 16 places. Until it is finished, call it again, or
 * leave off: at tells where to go on.
 *
 * @param search a started one
 * @return SLATE_OK; SLATE_ERR_NO_DEVICE, SLATE_ERR_NO_MEDIUM,
 * SLATE_ERR_SWAPPED, SLATE_ERR_TAKEN_OUT
 */
SLATE_MUST_CHECK enum slate_status
slate_search_step(struct slate_search *search);

/** What speaks for one that was found, and against it, in words without a stop.
 * @param lost as found @param text started by the caller; appended to */
void slate_lost_words(const struct slate_lost *lost, struct slate_text *text);

/** Name of one bit of the evidence for programs: "copy". Never NULL. */
const char *slate_lost_name(uint32_t bit);

#ifdef __cplusplus
}
#endif
#endif
