/* SPDX-License-Identifier: MIT */
/* Gathering evidence while a device is looked at, and holding it against the
 * device later. */
#include "base/base.h"
#include "media/wire/wire.h"

#include <string.h>

void slate_witness_start(struct slate_witness *witness,
                         struct slate_evidence *evidence)
{
    slate_sha256_start(&witness->sha);
    witness->evidence = evidence;
    evidence->count = 0;
}

static struct slate_seen *last_of(const struct slate_evidence *evidence)
{
    return evidence->count == 0 ? NULL : &evidence->seen[evidence->count - 1];
}

/* Was all of it seen before? */
static bool is_known(const struct slate_evidence *evidence, uint64_t lba,
                     uint32_t count)
{
    for (uint32_t i = 0; i < evidence->count; i++) {
        const struct slate_seen *seen = &evidence->seen[i];

        if (lba >= seen->first && lba - seen->first < seen->count &&
            count <= seen->count - (lba - seen->first))
            return true;
    }
    return false;
}

static void end_check(struct slate_sha256 *sha,
                      uint8_t check[SLATE_CHECK_BYTES])
{
    uint8_t digest[SLATE_DIGEST_BYTES];

    slate_sha256_end(sha, digest);
    memcpy(check, digest, SLATE_CHECK_BYTES);
}

/* The next range; false when there is no room: then it is no evidence. */
static bool begin_range(struct slate_witness *witness, uint64_t lba,
                        uint32_t count)
{
    struct slate_evidence *evidence = witness->evidence;

    slate_witness_end(witness);
    if (evidence->count == evidence->room) {
        evidence->cut = true;
        return false;
    }
    evidence->count++;
    *last_of(evidence) = (struct slate_seen){.first = lba, .count = count};
    return true;
}

static void add(struct slate_witness *witness, uint64_t lba, uint32_t count,
                const uint8_t *data, uint32_t block_bytes, bool joined)
{
    struct slate_seen *last = last_of(witness->evidence);

    if (count == 0 || is_known(witness->evidence, lba, count))
        return;
    if (joined && last != NULL && lba > 1 && last->first + last->count == lba)
        last->count += count;
    else if (!begin_range(witness, lba, count))
        return;
    slate_sha256_add(&witness->sha, data, (size_t)count * block_bytes);
}

void slate_witness_see(struct slate_witness *witness, uint64_t lba,
                       uint32_t count, const uint8_t *data,
                       uint32_t block_bytes, bool joined)
{
    uint32_t first = lba == 0 && count > 0 ? 1 : 0;

    add(witness, lba, first, data, block_bytes, false);
    add(witness, lba + first, count - first, data + (size_t)first * block_bytes,
        block_bytes, joined);
}

/* The check of the last range; a next one begins anew. */
void slate_witness_end(struct slate_witness *witness)
{
    struct slate_seen *last = last_of(witness->evidence);

    if (last != NULL)
        end_check(&witness->sha, last->check);
    slate_sha256_start(&witness->sha);
}

bool slate_evidence_equal(const struct slate_evidence *a,
                          const struct slate_evidence *b)
{
    for (uint32_t i = 0; i < a->count && i < b->count; i++) {
        const struct slate_seen *one = &a->seen[i], *other = &b->seen[i];

        if (one->first != other->first || one->count != other->count ||
            memcmp(one->check, other->check, sizeof one->check) != 0)
            return false;
    }
    return a->count == b->count;
}

enum slate_status slate_seen_again(struct slate_media *media,
                                   const struct slate_seen *seen, uint8_t *work,
                                   bool *same)
{
    uint32_t room = SLATE_WORK_MIN / media->geometry.block_bytes;
    uint8_t check[SLATE_CHECK_BYTES];
    struct slate_sha256 sha;
    uint64_t done = 0;

    *same = false;
    slate_sha256_start(&sha);
    while (done < seen->count) {
        uint64_t left = seen->count - done;
        uint32_t count = left < room ? (uint32_t)left : room;
        SLATE_TRY(slate_media_read(media, seen->first + done, count, work));
        slate_sha256_add(&sha, work,
                         (size_t)count * media->geometry.block_bytes);
        done += count;
    }
    end_check(&sha, check);
    *same = memcmp(check, seen->check, sizeof check) == 0;
    return SLATE_OK;
}

enum slate_status slate_evidence_again(struct slate_media *media,
                                       const struct slate_evidence *evidence,
                                       uint64_t block, uint8_t *work,
                                       struct slate_again *again)
{
    struct slate_unread unread = {0};
    const struct slate_policy noting = {.unread = &unread};
    struct slate_policy before = slate_media_read_by(media, &noting);
    enum slate_status status = SLATE_OK;

    again->first = again->rest = true;
    for (uint32_t i = 0; i < evidence->count && status == SLATE_OK; i++) {
        const struct slate_seen *seen = &evidence->seen[i];
        bool same;

        status = slate_seen_again(media, seen, work, &same);
        if (block >= seen->first && block - seen->first < seen->count)
            again->first = same;
        else
            again->rest = again->rest && same;
    }
    (void)slate_media_read_by(media, &before);
    return status;
}
