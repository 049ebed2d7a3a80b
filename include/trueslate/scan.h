/* SPDX-License-Identifier: MIT */
/* A surface scan: which blocks are bad? By reading them all, or by writing
 * random data to all of them and reading that back. */
#ifndef TRUESLATE_SCAN_H
#define TRUESLATE_SCAN_H

#include "trueslate/door.h"
#include "trueslate/pass.h"

#ifdef __cplusplus
extern "C" {
#endif

enum slate_scan_phase {
    SLATE_SCAN_WRITE,
    SLATE_SCAN_READ,
    SLATE_SCAN_DONE
};

/** State of a scan; placed by the caller, who may read it and change none. */
struct slate_scan {
    struct slate_media *media;
    struct slate_range range;   /**< what is scanned */
    struct slate_random random; /**< what is written, by a key of its own */
    struct slate_ranges bad;    /**< found so far: ascending, apart from one
                                     another; the caller's room */
    uint8_t *work;
    uint32_t chunk_blocks;      /**< blocks of one step */
    uint32_t read_blocks;       /**< the same while reading */
    struct slate_ahead reading; /**< what is being read meanwhile */
    enum slate_scan_phase phase;
    bool writes;         /**< random data was written first */
    bool claimed;        /**< the host keeps away */
    uint64_t at;         /**< the next block */
    uint64_t done;       /**< blocks behind us, written and read */
    uint64_t total;      /**< blocks altogether: of two rounds when it writes */
    uint64_t unwritable; /**< blocks that could not be written */
    uint64_t unreadable; /**< that could not be read, with three tries */
    uint64_t altered;    /**< that hold something else than was written */
    uint64_t weak;       /**< that were read, but not at the first try; they are
                              not among the bad ones */
    struct slate_surface *surface; /**< set by the caller once it is started:
                                        how long each region takes, and what
                                        fails there; else NULL */
    uint64_t unnoted;              /**< blocks behind us that it has not been
                                        told of yet */
    uint64_t unnoted_ms;           /**< and what they took */
    uint8_t former[SLATE_DIGEST_BYTES]; /**< while it writes: of the first
                                             block before it did */
    bool looked;                        /**< and that could be read */
    uint64_t in_first;        /**< the block whose pattern stands in it */
    uint32_t last;            /**< blocks that were written last */
    enum slate_status status; /**< the first failure that ended it */
};

/**
 * Prepares a scan by reading. Writes nothing.
 *
 * @param scan       filled in
 * @param media      an open device, kept by reference
 * @param range      what to scan; cut to the device
 * @param bad        room for what is found, copied; what its array holds is
 *                   added to
 * @param work       work buffer, kept by reference
 * @param work_bytes at least SLATE_WORK_MIN
 * @return SLATE_OK, SLATE_ERR_ARGUMENT, SLATE_ERR_BUFFER
 */
SLATE_MUST_CHECK enum slate_status
slate_scan_start(struct slate_scan *scan, struct slate_media *media,
                 const struct slate_range *range,
                 const struct slate_ranges *bad, void *work, size_t work_bytes);

/**
 * Makes a scan that was started, and has made no step yet, write first: all
 * that is in its range is lost. Enters the device.
 *
 * @param scan   a started scan
 * @param agreed what was agreed to
 * @return as slate_door_enter and slate_media_random
 */
SLATE_MUST_CHECK enum slate_status
slate_scan_write(struct slate_scan *scan, const struct slate_agreement *agreed);

/**
 * Works on at most one work buffer. A transfer that fails is made again block
 * by block, to tell which one it is. Until scan->phase is SLATE_SCAN_DONE, call
 * it again, or leave off by slate_scan_end.
 *
 * @param scan a started scan
 * @return SLATE_OK; SLATE_ERR_BAD_LIST when there is no room for more bad
 *         blocks: such a device is at its end; SLATE_ERR_NO_DEVICE,
 *         SLATE_ERR_SWAPPED, SLATE_ERR_TAKEN_OUT, SLATE_ERR_PROTECTED
 */
SLATE_MUST_CHECK enum slate_status slate_scan_step(struct slate_scan *scan);

/**
 * Ends a scan, also one that has not come to its end: nothing is read into the
 * work buffer any more, and the device is released where it was claimed. Due
 * after every successful start.
 *
 * @param scan a started scan
 * @return as the port says
 */
SLATE_MUST_CHECK enum slate_status slate_scan_end(struct slate_scan *scan);

/**
 * What a scan that has written to all of a device and read it back tells of its
 * capacity. Reads one block.
 *
 * @param scan   a scan that is done, before slate_scan_end
 * @param blocks receives the blocks that are there: what the device claims,
 *               where nothing else is certain
 * @param wraps  receives whether writing starts over at the beginning behind
 *               them
 * @return as slate_media_read
 */
SLATE_MUST_CHECK enum slate_status
slate_scan_capacity(const struct slate_scan *scan, uint64_t *blocks,
                    bool *wraps);

/** Bad blocks so far. @param scan a started scan */
uint64_t slate_scan_bad(const struct slate_scan *scan);

/**
 * What has been found means for the device, in one or two sentences.
 *
 * @param scan a scan that is done
 * @param kind what the device is
 * @return never NULL
 */
const char *slate_scan_words(const struct slate_scan *scan,
                             enum slate_device_kind kind);

#ifdef __cplusplus
}
#endif
#endif
