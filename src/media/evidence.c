/* SPDX-License-Identifier: MIT */
/* Gathering evidence while a device is looked at, and holding it against the
 * device later. */
#include "media/evidence.h"

#include <string.h>

void slate_witness_start(struct slate_witness *witness,
                         struct slate_evidence *evidence)
{
    slate_sha256_start(&witness->first);
    slate_sha256_start(&witness->rest);
    witness->evidence = evidence;
    witness->has_first = false;
    evidence->read.count = 0;
}

/* Was all of it seen before? */
static bool is_known(const struct slate_ranges *read, uint64_t lba,
                     uint32_t count)
{
    for (uint32_t i = 0; i < read->count; i++) {
        const struct slate_range *range = &read->range[i];

        if (lba >= range->first && lba - range->first < range->count &&
            count <= range->count - (lba - range->first))
            return true;
    }
    return false;
}

/* False when there is no room: then it is no evidence. */
static bool note_range(struct slate_ranges *read, uint64_t lba, uint32_t count,
                       bool joined)
{
    struct slate_range *last =
        read->count == 0 ? NULL : &read->range[read->count - 1];

    if (joined && last != NULL && last->first + last->count == lba) {
        last->count += count;
        return true;
    }
    if (read->count == read->room)
        return false;
    read->range[read->count].first = lba;
    read->range[read->count].count = count;
    read->count++;
    return true;
}

void slate_witness_see(struct slate_witness *witness, uint64_t lba,
                       uint32_t count, const uint8_t *data,
                       uint32_t block_bytes, bool joined)
{
    if (lba == 0 && count > 0) {
        if (!witness->has_first)
            slate_sha256_add(&witness->first, data, block_bytes);
        witness->has_first = true;
        data += block_bytes;
        lba++;
        count--;
    }
    if (count > 0 && !is_known(&witness->evidence->read, lba, count) &&
        note_range(&witness->evidence->read, lba, count, joined))
        slate_sha256_add(&witness->rest, data, (size_t)count * block_bytes);
}

void slate_witness_end(struct slate_witness *witness)
{
    slate_sha256_end(&witness->first, witness->evidence->first);
    slate_sha256_end(&witness->rest, witness->evidence->rest);
}

/* One range, in pieces that fit. */
static enum slate_status add_again(struct slate_media *media,
                                   struct slate_range range, uint8_t *work,
                                   struct slate_sha256 *sha)
{
    uint32_t room = SLATE_WORK_MIN / media->geometry.block_bytes;

    while (range.count > 0) {
        uint32_t count = range.count < room ? (uint32_t)range.count : room;
        enum slate_status status =
            slate_media_read(media, range.first, count, work);

        if (status != SLATE_OK)
            return status;
        slate_sha256_add(sha, work,
                         (size_t)count * media->geometry.block_bytes);
        range.first += count;
        range.count -= count;
    }
    return SLATE_OK;
}

enum slate_status slate_evidence_holds(struct slate_media *media,
                                       const struct slate_evidence *evidence,
                                       uint8_t *work, bool *same)
{
    struct slate_unread unread = {0}, *before = media->unread;
    enum slate_status status = SLATE_OK;
    uint8_t rest[SLATE_DIGEST_BYTES];
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    media->unread = &unread;
    for (uint32_t i = 0; i < evidence->read.count && status == SLATE_OK; i++)
        status = add_again(media, evidence->read.range[i], work, &sha);
    media->unread = before;
    slate_sha256_end(&sha, rest);
    *same =
        status == SLATE_OK && memcmp(rest, evidence->rest, sizeof rest) == 0;
    return status;
}
