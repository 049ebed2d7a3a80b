/* SPDX-License-Identifier: MIT */
/* A run of blocks that a draft writes, and what for. */
#ifndef TRUESLATE_EXTENT_H
#define TRUESLATE_EXTENT_H

#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/** Composition works in pieces of this many bytes, so that a large block never
 * needs a second buffer. Every block is a whole number of pieces. */
#define SLATE_PIECE_BYTES 512u

/** What an extent is written for, in no order of time. */
enum slate_purpose {
    SLATE_PURPOSE_MARK,         /**< the unfinished mark, in block 0 */
    SLATE_PURPOSE_ERASE,        /**< zeros over old structures */
    SLATE_PURPOSE_RESERVED,     /**< a volume's reserved blocks and copies */
    SLATE_PURPOSE_FAT_COPY,     /**< the second file allocation table */
    SLATE_PURPOSE_FAT,          /**< the first file allocation table */
    SLATE_PURPOSE_ROOT,         /**< the root directory */
    SLATE_PURPOSE_BOOT,         /**< the block that makes it a volume */
    SLATE_PURPOSE_TABLE_BACKUP, /**< the partition table at the end */
    SLATE_PURPOSE_TABLE,        /**< the partition table at the start */
    SLATE_PURPOSE_FIRST         /**< the true block 0: the commit */
};

/** A run of logical blocks of the device. */
struct slate_extent {
    uint64_t first;
    uint64_t count; /**< at least 1 */
    enum slate_purpose purpose;
};

#ifdef __cplusplus
}
#endif
#endif
