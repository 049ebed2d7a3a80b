/* SPDX-License-Identifier: MIT */
/* Sources: where the content of files that are placed comes from, read again
 * whenever blocks are composed. */
#ifndef TRUESLATE_SOURCE_H
#define TRUESLATE_SOURCE_H

#include "trueslate/base.h"

#ifdef __cplusplus
extern "C" {
#endif

/**
 * The second input of composing. The caller sets read and context, and leaves
 * the rest all zero; a source serves one draft at a time.
 */
struct slate_source {
    /**
     * Reads bytes of a file.
     *
     * @param context of the caller
     * @param item    index of the file
     * @param at      byte of it
     * @param count   of bytes, all within the length that the file had when the
     *                draft was made; 0: is it still there, and as long?
     * @param data    receives them
     * @return SLATE_OK; SLATE_ERR_SOURCE when not all of them are there, or the
     *         file has another length by now
     */
    enum slate_status (*read)(void *context, uint32_t item, uint64_t at,
                              uint32_t count, void *data);
    void *context;

    uint32_t failed; /**< the item of which something was wrong last */

    /* The library's: how far the file has been read in its order. */
    bool follows;
    uint32_t item;
    uint64_t reached;
    struct slate_sha256 sha;
};

/** A file as it was when the draft was made. */
struct slate_sourced {
    uint32_t item;
    uint64_t bytes;
    const uint8_t *digest; /**< SHA-256 of its content */
};

/**
 * Reads bytes of a file, and vouches for it: its last byte is given only when
 * all of it, as it was read, has the digest. What is read in order is read
 * once; else the file is gone through again.
 *
 * @param source any
 * @param file   of it
 * @param at     byte
 * @param count  of bytes, within the file
 * @param data   receives them
 * @return SLATE_OK; SLATE_ERR_SOURCE when the file has changed or cannot be
 *         read
 */
SLATE_MUST_CHECK enum slate_status
slate_source_take(struct slate_source *source, const struct slate_sourced *file,
                  uint64_t at, uint32_t count, void *data);

#ifdef __cplusplus
}
#endif
#endif
