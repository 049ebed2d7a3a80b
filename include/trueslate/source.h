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

#ifdef __cplusplus
}
#endif
#endif
