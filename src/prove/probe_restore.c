/* SPDX-License-Identifier: MIT */
/* Putting back what was on the probed blocks: only where the probe's own
 * writing still stands, so that another medium in the same reader, or what came
 * later, is never written over. */
#include <string.h>

#include "base/base.h"
#include "enact/enact.h"
#include "prove/probe.h"
#include "compose/compose.h"
#include "media/wire/wire.h"

#define RESTORE_TRIES 3

uint32_t slate_probe_block_bytes(const struct slate_probe *probe)
{
    return probe->media->geometry.block_bytes;
}

uint8_t *slate_probe_kept_at(const struct slate_probe *probe, uint32_t index)
{
    return probe->kept + (size_t)index * slate_probe_block_bytes(probe);
}

bool slate_probe_is_gone(enum slate_status status)
{
    return slate_media_is_gone(status) || status == SLATE_ERR_SWAPPED;
}

/* Was this spot written, or may it have been? */
static bool is_touched(const struct slate_probe *probe, uint32_t index)
{
    if (index < probe->run)
        return probe->run_written;
    return (probe->touched >> (index - probe->run) & 1) != 0;
}

static uint8_t *chunk_at(const struct slate_probe *probe, uint32_t i)
{
    return probe->chunk + (size_t)i * slate_probe_block_bytes(probe);
}

/* Block i of the buffer, which was read from the spots from index on. */
static bool is_kept(const struct slate_probe *probe, uint32_t index, uint32_t i)
{
    return memcmp(chunk_at(probe, i), slate_probe_kept_at(probe, index + i),
                  slate_probe_block_bytes(probe)) == 0;
}

static bool bears(const struct slate_probe *probe, uint32_t index, uint32_t i)
{
    return !is_kept(probe, index, i) &&
           slate_pattern_bears(
               &probe->pattern, slate_probe_spot(probe, index + i),
               chunk_at(probe, i), slate_probe_kept_at(probe, index + i));
}

/* Reads a run, or block by block what can be had of it: bit i of the answer
 * tells that block i cannot be read. A run is at most 256 blocks here. */
struct unread {
    uint8_t bits[32];
};

static bool is_unread(const struct unread *unread, uint32_t i)
{
    return (unread->bits[i / 8] >> i % 8 & 1) != 0;
}

static enum slate_status read_run(struct slate_probe *probe, uint32_t index,
                                  uint32_t count, struct unread *unread)
{
    uint64_t lba = slate_probe_spot(probe, index);
    enum slate_status status =
        slate_media_read(probe->media, lba, count, probe->chunk);

    memset(unread, 0, sizeof *unread);
    if (status == SLATE_OK || slate_probe_is_gone(status))
        return status;
    for (uint32_t i = 0; i < count; i++) {
        status = slate_media_read(probe->media, lba + i, 1, chunk_at(probe, i));
        if (slate_probe_is_gone(status))
            return status;
        if (status != SLATE_OK)
            unread->bits[i / 8] |= (uint8_t)(1u << i % 8);
    }
    return SLATE_OK;
}

enum slate_status slate_probe_recognise(struct slate_probe *probe,
                                        uint32_t index, uint32_t count)
{
    struct unread unread;
    enum slate_status status = read_run(probe, index, count, &unread);

    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (is_unread(&unread, i))
            probe->unreadable++;
        else if (bears(probe, index, i))
            probe->traces++;
        else if (!is_kept(probe, index, i))
            probe->others++;
    }
    return status;
}

/* Blocks i and on of the buffer. */
static enum slate_status write_tries(struct slate_probe *probe, uint32_t index,
                                     uint32_t i, uint32_t count)
{
    const struct slate_kept kept = {{slate_probe_spot(probe, index + i), count},
                                    slate_probe_block_bytes(probe),
                                    slate_probe_kept_at(probe, index + i)};
    enum slate_status status = SLATE_ERR_WRITE;

    for (int n = 0; n < RESTORE_TRIES && status != SLATE_OK; n++) {
        status = slate_enact_write(probe->media, &slate_kept_composer, &kept,
                                   kept.range.first, count, chunk_at(probe, i));
        if (slate_probe_is_gone(status))
            return status;
    }
    return status;
}

/* One bad block must not keep the others from being restored. Whether they are
 * is found out by reading. */
static enum slate_status write_back(struct slate_probe *probe, uint32_t index,
                                    uint32_t i, uint32_t count)
{
    enum slate_status status = write_tries(probe, index, i, count);

    for (uint32_t n = 0; n < count && count > 1 && status != SLATE_OK &&
                         !slate_probe_is_gone(status);
         n++) {
        enum slate_status one = write_tries(probe, index, i + n, 1);

        if (slate_probe_is_gone(one))
            return one;
    }
    return slate_probe_is_gone(status) ? status : SLATE_OK;
}

static bool is_due(const struct slate_probe *probe, uint32_t index, uint32_t i,
                   const struct unread *unread)
{
    return is_unread(unread, i) || bears(probe, index, i);
}

enum slate_status slate_probe_restore(struct slate_probe *probe, uint32_t index,
                                      uint32_t count)
{
    struct unread unread;
    enum slate_status status;
    uint32_t i = 0;

    if (!is_touched(probe, index))
        return SLATE_OK;
    status = read_run(probe, index, count, &unread);
    while (i < count && status == SLATE_OK) {
        uint32_t n = 1;
        bool due = is_due(probe, index, i, &unread);

        while (i + n < count && is_due(probe, index, i + n, &unread) == due)
            n++;
        if (due)
            status = write_back(probe, index, i, n);
        i += n;
    }
    return status;
}

static void note_lost(struct slate_probe *probe, uint32_t index)
{
    if (probe->lost < SLATE_PROBE_LOST)
        probe->lost_lba[probe->lost] = slate_probe_spot(probe, index);
    probe->lost++;
}

/* A block that is not as it was, once more by itself. */
static enum slate_status mend(struct slate_probe *probe, uint32_t index,
                              uint32_t i)
{
    uint64_t lba = slate_probe_spot(probe, index + i);
    enum slate_status status = write_back(probe, index, i, 1);

    SLATE_THEN(status, slate_media_flush(probe->media));
    if (!slate_probe_is_gone(status))
        status = slate_media_read(probe->media, lba, 1, chunk_at(probe, i));
    if (slate_probe_is_gone(status))
        return status;
    if (status != SLATE_OK || !is_kept(probe, index, i))
        note_lost(probe, index + i);
    return SLATE_OK;
}

enum slate_status slate_probe_check(struct slate_probe *probe, uint32_t index,
                                    uint32_t count)
{
    struct unread unread;
    enum slate_status status;

    if (!is_touched(probe, index))
        return SLATE_OK;
    status = read_run(probe, index, count, &unread);
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (!is_unread(&unread, i) && is_kept(probe, index, i))
            continue;
        if (is_due(probe, index, i, &unread))
            status = mend(probe, index, i);
        else if (probe->putting_back)
            probe->changed++;
        else
            note_lost(probe, index + i);
    }
    return status;
}
