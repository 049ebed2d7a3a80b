/* SPDX-License-Identifier: MIT */
/* Reading a source, and holding each file to its digest. */
#include "base/base.h"
#include "compose/compose.h"

#include <string.h>

/* Of a file that is gone through again. */
#define PIECE_BYTES 512u

static bool has_digest(struct slate_sha256 *sha,
                       const struct slate_sourced *file)
{
    uint8_t digest[SLATE_DIGEST_BYTES];

    slate_sha256_end(sha, digest);
    return memcmp(digest, file->digest, sizeof digest) == 0;
}

/* The whole file, but for its end, which was read already. */
static enum slate_status go_through(const struct slate_source *source,
                                    const struct slate_sourced *file,
                                    uint32_t count, const void *data)
{
    uint64_t end = file->bytes - count;
    uint8_t piece[PIECE_BYTES];
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    for (uint64_t at = 0; at < end; at += PIECE_BYTES) {
        uint32_t length =
            end - at < PIECE_BYTES ? (uint32_t)(end - at) : PIECE_BYTES;
        SLATE_TRY(source->read(source->context, file->item, at, length, piece));
        slate_sha256_add(&sha, piece, length);
    }
    slate_sha256_add(&sha, data, count);
    return has_digest(&sha, file) ? SLATE_OK : SLATE_ERR_SOURCE;
}

/* Is this what comes next, with all ahead of it in the digest? */
static bool follow(struct slate_source *source, uint32_t item, uint64_t at,
                   uint32_t count, const void *data)
{
    if (at == 0) {
        slate_sha256_start(&source->sha);
        source->item = item;
        source->reached = 0;
        source->follows = true;
    }
    if (!source->follows || source->item != item || source->reached != at)
        return false;
    slate_sha256_add(&source->sha, data, count);
    source->reached += count;
    return true;
}

static enum slate_status take(struct slate_source *source,
                              const struct slate_sourced *file, uint64_t at,
                              uint32_t count, void *data)
{
    enum slate_status status =
        source->read(source->context, file->item, at, count, data);
    bool followed;

    SLATE_TRY(status);
    followed = follow(source, file->item, at, count, data);
    if (at + count < file->bytes)
        return SLATE_OK;
    if (!followed)
        return go_through(source, file, count, data);
    source->follows = false;
    return has_digest(&source->sha, file) ? SLATE_OK : SLATE_ERR_SOURCE;
}

enum slate_status slate_source_take(struct slate_source *source,
                                    const struct slate_sourced *file,
                                    uint64_t at, uint32_t count, void *data)
{
    enum slate_status status;

    if (source == NULL)
        return SLATE_ERR_SOURCE;
    status = take(source, file, at, count, data);
    if (status != SLATE_OK)
        source->failed = file->item;
    return status;
}
