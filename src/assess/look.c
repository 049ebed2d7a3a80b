/* SPDX-License-Identifier: MIT */
/* Collecting the facts: every block read here goes into the digest that later
 * tells whether the device has changed. */
#include <string.h>

#include "volume/fat.h"
#include "trueslate/assess.h"

#define START_BYTES 32768u

static void copy_identity(const struct slate_media *media,
                          struct slate_facts *facts)
{
    memset(facts, 0, sizeof *facts);
    facts->identity = media->identity;
    facts->geometry = media->geometry;
    facts->read_only = media->read_only;
    facts->removable = media->removable;
    memcpy(facts->tag, media->tag, SLATE_TAG_ROOM);
    memcpy(facts->identity_digest, media->digest, SLATE_DIGEST_BYTES);
    facts->layout.partition = facts->partition;
    facts->layout.room = SLATE_FACTS_PARTITIONS;
}

static enum slate_status look_at_volumes(struct slate_media *media, void *work,
                                         struct slate_facts *facts)
{
    struct slate_range whole = {0, media->geometry.block_count};
    enum slate_status status;

    if (facts->layout.kind == SLATE_TABLE_NONE)
        return slate_volume_read(media, &whole, work, &facts->whole);
    status = slate_optical_read(media, &whole, work, &facts->optical);
    for (uint32_t i = 0; i < facts->layout.count && status == SLATE_OK; i++) {
        struct slate_range range = {facts->partition[i].first,
                                    facts->partition[i].count};

        status = slate_volume_read(media, &range, work, &facts->volume[i]);
    }
    return status;
}

/* All bytes equal, and either 00h or FFh? */
static bool is_uniform(const uint8_t *bytes, size_t length, uint8_t *value)
{
    *value = bytes[0];
    return (bytes[0] == 0x00 || bytes[0] == 0xFF) &&
           memcmp(bytes, bytes + 1, length - 1) == 0;
}

/* Reads one run at lba; edges_blank stays true while all runs are alike. */
static enum slate_status look_at_run(struct slate_media *media, uint64_t lba,
                                     uint8_t *work, struct slate_facts *facts,
                                     uint8_t *first)
{
    uint32_t run = SLATE_WORK_MIN / media->geometry.block_bytes;
    uint64_t left = media->geometry.block_count - lba;
    uint32_t here = left < run ? (uint32_t)left : run;
    enum slate_status status = slate_media_read(media, lba, here, work);
    uint8_t value;

    if (status != SLATE_OK)
        return status;
    if (lba == 0) {
        facts->marked = slate_mark_read(work, &facts->mark);
        *first = work[0];
    }
    if (!is_uniform(work, (size_t)here * media->geometry.block_bytes, &value) ||
        value != *first)
        facts->edges_blank = false;
    return SLATE_OK;
}

/* Only where no table and no volume was found: is it blank, or marked? */
static enum slate_status look_at_edges(struct slate_media *media, uint8_t *work,
                                       struct slate_facts *facts)
{
    uint32_t run = SLATE_WORK_MIN / media->geometry.block_bytes;
    uint64_t blocks = media->geometry.block_count;
    uint64_t start = START_BYTES / media->geometry.block_bytes;
    enum slate_status status = SLATE_OK;
    uint8_t first = 0;

    if (facts->layout.found > 0 || facts->whole.kind > SLATE_VOLUME_OTHER)
        return SLATE_OK;
    facts->edges_blank = true;
    for (uint64_t lba = 0; lba < start && lba < blocks && status == SLATE_OK;
         lba += run)
        status = look_at_run(media, lba, work, facts, &first);
    if (blocks > run && status == SLATE_OK)
        status = look_at_run(media, blocks - run, work, facts, &first);
    return status;
}

enum slate_status slate_assess_look(struct slate_media *media, void *work,
                                    size_t work_bytes,
                                    struct slate_facts *facts)
{
    struct slate_sha256 sha;
    enum slate_status status;

    if (work == NULL || work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    copy_identity(media, facts);
    slate_sha256_start(&sha);
    media->witness = &sha;
    status = slate_layout_read(media, work, &facts->layout);
    if (status == SLATE_OK)
        status = look_at_volumes(media, work, facts);
    if (status == SLATE_OK)
        status = look_at_edges(media, work, facts);
    media->witness = NULL;
    slate_sha256_end(&sha, facts->digest);
    return status;
}
