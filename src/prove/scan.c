/* SPDX-License-Identifier: MIT */
/* A surface scan, step by step. */
#include "base/base.h"
#include "enact/enact.h"
#include "trueslate/scan.h"
#include "pass/pass.h"

#define TRIES 3u
/* Two transfers that are longer are no faster, on disks that are. */
#define AHEAD_MOST_BYTES 1048576u
#define NOTED_MS 16u
/* Disks that leave their bad sectors to others were smaller than that. */
#define SMALL_BYTES 536870912u

/* While reading, half of the buffer is for what comes next. */
static void divide(struct slate_scan *scan)
{
    const struct slate_media *media = scan->media;
    uint32_t block_bytes = media->geometry.block_bytes;
    uint32_t half = scan->chunk_blocks / 2;

    scan->read_blocks = scan->chunk_blocks;
    if (media->ops.submit == NULL || half == 0)
        return;
    if (half > AHEAD_MOST_BYTES / block_bytes)
        half = AHEAD_MOST_BYTES / block_bytes;
    scan->read_blocks =
        half < media->largest_transfer ? half : media->largest_transfer;
    scan->reading.work = scan->work + (size_t)half * block_bytes;
}

enum slate_status slate_scan_start(struct slate_scan *scan,
                                   struct slate_media *media,
                                   const struct slate_range *range,
                                   const struct slate_ranges *bad, void *work,
                                   size_t work_bytes)
{
    uint64_t blocks;

    if (scan == NULL || media == NULL || range == NULL || bad == NULL ||
        range->first >= media->geometry.block_count || range->count == 0)
        return SLATE_ERR_ARGUMENT;
    if (work == NULL || work_bytes < SLATE_WORK_MIN)
        return SLATE_ERR_BUFFER;
    memset(scan, 0, sizeof *scan);
    blocks = media->geometry.block_count - range->first;
    scan->media = media;
    scan->range = *range;
    if (scan->range.count > blocks)
        scan->range.count = blocks;
    scan->bad = *bad;
    scan->work = work;
    scan->chunk_blocks =
        (uint32_t)((work_bytes < UINT32_MAX ? work_bytes : UINT32_MAX) /
                   media->geometry.block_bytes);
    divide(scan);
    scan->phase = SLATE_SCAN_READ;
    scan->at = scan->range.first;
    scan->total = scan->range.count;
    return SLATE_OK;
}

enum slate_status slate_scan_write(struct slate_scan *scan,
                                   const struct slate_agreement *agreed)
{
    SLATE_TRY(
        slate_door_enter(scan->media, agreed, scan->work, SLATE_WORK_MIN));
    scan->claimed = true;
    scan->random.range = scan->range;
    scan->random.block_bytes = scan->media->geometry.block_bytes;
    scan->phase = SLATE_SCAN_WRITE;
    scan->writes = true;
    scan->total = 2 * scan->range.count;
    return slate_media_random(scan->media, scan->random.key,
                              sizeof scan->random.key);
}

/* Does a failure tell of the block, and not of the device? */
static bool is_of_block(enum slate_status status)
{
    return status == SLATE_ERR_READ || status == SLATE_ERR_WRITE;
}

static enum slate_status write_blocks(struct slate_scan *scan, uint64_t first,
                                      uint32_t count)
{
    return slate_enact_write(scan->media, &slate_random_composer, &scan->random,
                             first, count, scan->work);
}

static void digest_of(const struct slate_scan *scan,
                      uint8_t digest[SLATE_DIGEST_BYTES])
{
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, scan->work, scan->media->geometry.block_bytes);
    slate_sha256_end(&sha, digest);
}

/* The first block is in the work buffer. It is as it was, where the device
 * drops what it is given; as it was written; or, where addresses wrap around,
 * as one of the blocks was that were written last. */
static bool is_ours(struct slate_scan *scan)
{
    uint8_t digest[SLATE_DIGEST_BYTES];

    digest_of(scan, digest);
    if (memcmp(digest, scan->former, sizeof digest) == 0 ||
        slate_random_is(&scan->random, scan->in_first, scan->work))
        return true;
    for (uint32_t i = 0; i < scan->last; i++) {
        if (slate_random_is(&scan->random, scan->at - 1 - i, scan->work)) {
            scan->in_first = scan->at - 1 - i;
            return true;
        }
    }
    return false;
}

/* Where media can be changed, and not every reader tells of it. */
static enum slate_status check_medium(struct slate_scan *scan)
{
    struct slate_media *media = scan->media;
    struct slate_fault before = media->fault;
    bool begins = scan->at == scan->range.first;
    enum slate_status status;

    if (!media->removable || (!begins && !scan->looked))
        return SLATE_OK;
    status = slate_media_read(media, scan->range.first, 1, scan->work);
    if (status == SLATE_ERR_READ) {
        media->fault = before;
        return SLATE_OK;
    }
    SLATE_TRY(status);
    if (begins) {
        scan->looked = true;
        scan->in_first = scan->range.first;
        digest_of(scan, scan->former);
    }
    return is_ours(scan) ? SLATE_OK : SLATE_ERR_SWAPPED;
}

static enum slate_status write_chunk(struct slate_scan *scan, uint32_t count)
{
    enum slate_status status = check_medium(scan);

    SLATE_THEN(status, write_blocks(scan, scan->at, count));
    scan->last = count;
    if (!is_of_block(status))
        return status;
    for (uint32_t i = 0; i < count; i++) {
        status = write_blocks(scan, scan->at + i, 1);
        if (is_of_block(status))
            status =
                slate_round_note(&scan->bad, scan->at + i, &scan->unwritable);
        SLATE_TRY(status);
    }
    return SLATE_OK;
}

/* Is a block that could be read what was written to it? */
static enum slate_status compare(struct slate_scan *scan, uint64_t block,
                                 const uint8_t *data)
{
    return !scan->writes || slate_random_is(&scan->random, block, data)
               ? SLATE_OK
               : slate_round_note(&scan->bad, block, &scan->altered);
}

static enum slate_status read_tries(struct slate_scan *scan, uint64_t block,
                                    uint32_t tries)
{
    const struct slate_policy policy = {.tries = tries};
    const struct slate_policy before =
        slate_media_read_by(scan->media, &policy);
    enum slate_status status =
        slate_media_read(scan->media, block, 1, scan->work);

    (void)slate_media_read_by(scan->media, &before);
    return status;
}

static enum slate_status read_block(struct slate_scan *scan, uint64_t block)
{
    enum slate_status status = read_tries(scan, block, 1);

    if (status == SLATE_ERR_READ) {
        status = read_tries(scan, block, TRIES);
        scan->weak += status == SLATE_OK ? 1 : 0;
    }
    if (status == SLATE_ERR_READ)
        return slate_round_note(&scan->bad, block, &scan->unreadable);
    return status == SLATE_OK ? compare(scan, block, scan->work) : status;
}

/* Blocks of the step that is due at a block. */
static uint32_t chunk_at(const struct slate_scan *scan, uint64_t at)
{
    uint64_t left = scan->range.first + scan->range.count - at;
    uint32_t most =
        scan->phase == SLATE_SCAN_READ ? scan->read_blocks : scan->chunk_blocks;

    /* what goes out between two looks at a medium that can be changed */
    if (scan->phase == SLATE_SCAN_WRITE && scan->media->removable &&
        most > AHEAD_MOST_BYTES / scan->media->geometry.block_bytes)
        most = AHEAD_MOST_BYTES / scan->media->geometry.block_bytes;
    return left < most ? (uint32_t)left : most;
}

static enum slate_status fetch(struct slate_scan *scan, uint32_t count)
{
    const struct slate_policy one_try = {.tries = 1};
    const struct slate_policy before =
        slate_media_read_by(scan->media, &one_try);
    const struct slate_range present = {scan->at, count};
    const struct slate_range next = {scan->at + count,
                                     chunk_at(scan, scan->at + count)};
    enum slate_status status = slate_ahead_read(&scan->reading, scan->media,
                                                &present, &next, &scan->work);

    (void)slate_media_read_by(scan->media, &before);
    return status;
}

static enum slate_status read_chunk(struct slate_scan *scan, uint32_t count)
{
    enum slate_status status = fetch(scan, count);
    uint32_t block = scan->media->geometry.block_bytes;

    if (status == SLATE_ERR_READ) {
        status = SLATE_OK;
        for (uint32_t i = 0; status == SLATE_OK && i < count; i++)
            status = read_block(scan, scan->at + i);
        return status;
    }
    for (uint32_t i = 0; status == SLATE_OK && scan->writes && i < count; i++)
        status = compare(scan, scan->at + i, scan->work + (size_t)i * block);
    return status;
}

/* From writing to reading: what was written is on the medium by then. */
static enum slate_status next_phase(struct slate_scan *scan)
{
    scan->at = scan->range.first;
    scan->phase++;
    return scan->phase == SLATE_SCAN_READ ? slate_media_flush(scan->media)
                                          : SLATE_OK;
}

/* Clocks count milliseconds: a shorter run would seem to take none. */
static void note(struct slate_scan *scan)
{
    bool last = scan->at == scan->range.first + scan->range.count;

    if (scan->unnoted_ms < NOTED_MS && scan->unnoted < scan->chunk_blocks &&
        !last)
        return;
    if (scan->surface != NULL)
        slate_surface_note(scan->surface, scan->at - scan->unnoted,
                           scan->unnoted, scan->unnoted_ms * 1000);
    scan->unnoted = scan->unnoted_ms = 0;
}

enum slate_status slate_scan_step(struct slate_scan *scan)
{
    struct slate_fault before = scan->media->fault;
    uint32_t count = chunk_at(scan, scan->at);
    uint64_t began;

    if (scan->status != SLATE_OK || scan->phase == SLATE_SCAN_DONE)
        return scan->status;
    began = slate_media_milliseconds(scan->media);
    scan->status = scan->phase == SLATE_SCAN_WRITE ? write_chunk(scan, count)
                                                   : read_chunk(scan, count);
    if (scan->status != SLATE_OK)
        return scan->status;
    scan->media->fault = before; /* what failed is in the list */
    scan->at += count;
    scan->unnoted += count;
    scan->unnoted_ms += slate_media_milliseconds(scan->media) - began;
    note(scan);
    scan->done += count;
    if (scan->at == scan->range.first + scan->range.count)
        scan->status = next_phase(scan);
    return scan->status;
}

enum slate_status slate_scan_end(struct slate_scan *scan)
{
    bool claimed = scan->claimed;
    struct slate_fault first = scan->media->fault;
    enum slate_status dropped = slate_ahead_end(&scan->reading, scan->media);

    (void)dropped; /* nobody asks for it any more */
    scan->media->fault = first;
    scan->claimed = false;
    return claimed ? slate_door_leave(scan->media) : SLATE_OK;
}

uint64_t slate_scan_bad(const struct slate_scan *scan)
{
    return scan->unwritable + scan->unreadable + scan->altered;
}

static bool is_small(const struct slate_media *media)
{
    return media != NULL &&
           slate_geometry_bytes(&media->geometry) < SMALL_BYTES;
}

const char *slate_scan_words(const struct slate_scan *scan,
                             enum slate_device_kind kind)
{
    uint64_t bad = slate_scan_bad(scan);

    if (bad == 0 && scan->weak > 0)
        return "No block is bad, but some were read at a second try only: copy "
               "what matters to another device as well.";
    if (bad == 0)
        return scan->writes ? "Every block kept what was written to it."
                            : "Every block could be read; whether it keeps "
                              "what is written, only a scan that writes tells.";
    if (scan->altered > 0)
        return "The device gives back other content than it was given, without "
               "saying so: do not trust it with anything.";
    if (kind == SLATE_DEVICE_STICK || kind == SLATE_DEVICE_CARD)
        return "Flash replaces worn blocks by itself; once it shows bad ones, "
               "it has no more to replace them with: it will go on failing. "
               "Replace it.";
    if (kind == SLATE_DEVICE_OTHER)
        return "Blocks that go bad are seldom the last ones: copy off what is "
               "needed, and use it for nothing that matters.";
    if (is_small(scan->media))
        return "A disk as small as this one may be too old to replace blocks "
               "by itself: what its sticker lists was bad from the start; "
               "anything else tells that it is on its way out.";
    if (!scan->writes)
        return "A disk replaces blocks that it could not read once they are "
               "written: a scan that writes tells what is left of them. If "
               "their number grows, replace the disk.";
    return "The disk has no more blocks to replace these with, or does not "
           "find them: it will go on failing. Use it for nothing that matters, "
           "or replace it.";
}

/* What every block that was written and read back tells of the capacity. */

/* Two blocks might be bad ones. */
#define LOST_LEAST 3u

/* Everything was written, and what did not come back is one run of blocks. */
static bool has_one_run(const struct slate_scan *scan)
{
    return scan->writes && scan->phase == SLATE_SCAN_DONE &&
           scan->range.first == 0 &&
           scan->range.count == scan->media->geometry.block_count &&
           scan->bad.count == 1 && scan->unwritable == 0 &&
           scan->altered >= LOST_LEAST &&
           scan->altered + scan->unreadable == scan->bad.range[0].count;
}

enum slate_status slate_scan_capacity(const struct slate_scan *scan,
                                      uint64_t *blocks, bool *wraps)
{
    const struct slate_range *lost = scan->bad.range;
    uint64_t all = scan->media->geometry.block_count, there;
    enum slate_status status;

    *blocks = all;
    *wraps = false;
    if (!has_one_run(scan))
        return SLATE_OK;
    if (lost->first > 0) {
        if (lost->first + lost->count == all)
            *blocks = lost->first;
        return SLATE_OK;
    }
    /* what came last stands in the first block then */
    there = all - lost->count;
    if (there == 0)
        return SLATE_OK;
    status = slate_media_read(scan->media, 0, 1, scan->work);
    if (status == SLATE_OK &&
        slate_random_is(&scan->random, (all - 1) / there * there, scan->work)) {
        *blocks = there;
        *wraps = true;
    }
    return status;
}
