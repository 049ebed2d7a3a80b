/* SPDX-License-Identifier: MIT */
/* Did the device do what it says? Places are compared with what was there
 * before, and every block with the first one where that is asked for. */
#include <string.h>

#include "base/base.h"
#include "erase/erase.h"

/* Half of the places follow each other by doubling, as most of what is there
 * stands near the beginning; the others lie evenly over the whole. */
static uint64_t place_at(const struct slate_erase *erase, uint32_t i)
{
    uint64_t blocks = erase->media->geometry.block_count, last = blocks - 1;
    uint32_t near = erase->places / 2, even = erase->places - near;
    uint64_t at;

    if (i < near) {
        at = i < 8 ? i
                   : (uint64_t)(8 + i % 8)
                         << ((i - 8) / 8 < 56 ? (i - 8) / 8 : 56);
        return at < blocks ? at : last - i % blocks;
    }
    i -= near;
    if (even < 2)
        return last;
    return last / (even - 1) * i + last % (even - 1) * i / (even - 1);
}

static bool is_plain(const uint8_t *block, uint32_t bytes)
{
    return memcmp(block, block + 1, bytes - 1) == 0;
}

/* Zeros and ones are what nothing looks like, and may stay. */
static bool is_blank(const uint8_t *block, uint32_t bytes)
{
    return (block[0] == 0x00 || block[0] == 0xFF) && is_plain(block, bytes);
}

static void digest_of(const uint8_t *block, uint32_t bytes, uint8_t digest[8])
{
    uint8_t whole[SLATE_DIGEST_BYTES];
    struct slate_sha256 sha;

    slate_sha256_start(&sha);
    slate_sha256_add(&sha, block, bytes);
    slate_sha256_end(&sha, whole);
    memcpy(digest, whole, 8);
}

/* Patience has no sense where blocks are only looked at. */
static enum slate_status read_run(struct slate_erase *erase, uint64_t lba,
                                  uint32_t count)
{
    const struct slate_policy once = {.tries = 1};
    struct slate_policy before = slate_media_read_by(erase->media, &once);
    struct slate_fault fault = erase->media->fault;
    enum slate_status status =
        slate_media_read(erase->media, lba, count, erase->work);

    (void)slate_media_read_by(erase->media, &before);
    if (status == SLATE_ERR_READ)
        erase->media->fault = fault;
    return status;
}

static uint32_t run_at(const struct slate_erase *erase, uint64_t lba)
{
    uint64_t left = erase->media->geometry.block_count - lba;
    uint32_t run = erase->work_bytes / erase->media->geometry.block_bytes;

    return left < run ? (uint32_t)left : run;
}

/* The first block from there on that tells itself apart, as far as one read
 * reaches. */
static void take_held(struct slate_erase *erase,
                      struct slate_erase_place *place, uint32_t run)
{
    uint32_t bytes = erase->media->geometry.block_bytes;

    for (uint32_t i = 0; i < run && !place->held; i++) {
        const uint8_t *block = erase->work + (size_t)i * bytes;

        if (is_blank(block, bytes))
            continue;
        place->held = true;
        place->lba += i;
        digest_of(block, bytes, place->digest);
        erase->held++;
    }
}

enum slate_status slate_erase_look(struct slate_erase *erase)
{
    struct slate_erase_place *place = &erase->place[erase->at];
    enum slate_status status;
    uint32_t run;

    *place = (struct slate_erase_place){.lba = place_at(erase, erase->at)};
    erase->at++;
    run = run_at(erase, place->lba);
    status = read_run(erase, place->lba, run);
    if (status == SLATE_ERR_READ) /* a locked disk gives nothing */
        return SLATE_OK;
    if (status == SLATE_OK)
        take_held(erase, place, run);
    return status;
}

enum slate_status slate_erase_compare(struct slate_erase *erase)
{
    struct slate_erase_place *place = &erase->place[erase->at];
    uint32_t bytes = erase->media->geometry.block_bytes;
    uint8_t digest[8];
    enum slate_status status;

    if (erase->joined)
        place->lba = place_at(erase, erase->at);
    erase->at++;
    status = read_run(erase, place->lba, 1);
    if (status == SLATE_ERR_READ) {
        erase->unread++;
        return SLATE_OK;
    }
    SLATE_TRY(status);
    if (is_plain(erase->work, bytes))
        erase->plain++;
    digest_of(erase->work, bytes, digest);
    if (!place->held || memcmp(digest, place->digest, sizeof digest) != 0)
        return SLATE_OK;
    if (erase->kept == 0 || place->lba < erase->first_kept)
        erase->first_kept = place->lba;
    erase->kept++;
    return SLATE_OK;
}

static void judge_block(struct slate_erase *erase, uint64_t lba,
                        const uint8_t *block)
{
    bool plain = is_plain(block, erase->media->geometry.block_bytes);

    if (plain && !erase->has_fill) {
        erase->has_fill = true;
        erase->fill = block[0];
    }
    if (plain && block[0] == erase->fill)
        return;
    if (erase->other == 0)
        erase->first_other = lba;
    erase->other++;
}

/* A run that fails is read block by block. */
enum slate_status slate_erase_read_on(struct slate_erase *erase)
{
    uint32_t run = run_at(erase, erase->next);
    uint32_t bytes = erase->media->geometry.block_bytes;
    uint64_t lba = erase->next;
    enum slate_status status = read_run(erase, lba, run);

    erase->next += run;
    erase->read += run;
    for (uint32_t i = 0; i < run && status == SLATE_OK; i++)
        judge_block(erase, lba + i, erase->work + (size_t)i * bytes);
    if (status != SLATE_ERR_READ)
        return status;
    for (uint32_t i = 0; i < run; i++) {
        status = read_run(erase, lba + i, 1);
        if (status == SLATE_OK)
            judge_block(erase, lba + i, erase->work);
        else if (status == SLATE_ERR_READ)
            erase->unread_blocks++;
        else
            return status;
    }
    return SLATE_OK;
}

enum slate_erased slate_erase_verdict(const struct slate_erase *erase)
{
    if (erase->phase != SLATE_ERASE_OVER)
        return SLATE_ERASED_UNKNOWN;
    if (erase->kept > 0)
        return SLATE_ERASED_KEPT;
    if (erase->unread > 0 || erase->unread_blocks > 0)
        return SLATE_ERASED_UNREAD;
    if (erase->read_all && erase->other == 0)
        return SLATE_ERASED_ALL;
    if (erase->held > 0)
        return erase->plain == erase->places && erase->other == 0
                   ? SLATE_ERASED_PLACES
                   : SLATE_ERASED_OTHER;
    return erase->plain == erase->places && erase->other == 0
               ? SLATE_ERASED_BLANK
               : SLATE_ERASED_UNKNOWN;
}
