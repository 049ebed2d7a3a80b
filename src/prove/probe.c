/* SPDX-License-Identifier: MIT */
/* The bounded write probe: one transfer a step, and always back to what was
 * there. */
#include <string.h>

#include "prove/probe.h"

/* A device that refuses so many writes in a row is not asked further. */
#define REFUSALS 8u
#define RESTORE_TRIES 3

static uint32_t block_bytes(const struct slate_probe *probe)
{
    return probe->media->geometry.block_bytes;
}

/* A place; NULL for a block of the run. */
static enum slate_place *place_of(struct slate_probe *probe, uint32_t index)
{
    return index < probe->run ? NULL : &probe->place[index - probe->run];
}

/* Blocks from this spot on that one transfer takes. */
static uint32_t together(const struct slate_probe *probe, uint32_t index)
{
    uint32_t left = probe->run - index;

    if (index >= probe->run)
        return 1;
    return left < probe->chunk_blocks ? left : probe->chunk_blocks;
}

static uint8_t *kept_at(const struct slate_probe *probe, uint32_t index)
{
    return probe->kept + (size_t)index * block_bytes(probe);
}

static enum slate_status save(struct slate_probe *probe, uint32_t index,
                              uint32_t count)
{
    enum slate_status status =
        slate_media_read(probe->media, slate_probe_spot(probe, index), count,
                         kept_at(probe, index));
    enum slate_place *place = place_of(probe, index);

    if (status == SLATE_OK || status == SLATE_ERR_NO_DEVICE)
        return status;
    if (place != NULL) {
        *place = SLATE_PLACE_SKIPPED;
    } else {
        probe->run_held = UINT32_MAX; /* the run is given up */
    }
    return SLATE_OK;
}

static bool is_given_up(const struct slate_probe *probe)
{
    return probe->run_held == UINT32_MAX;
}

/* The places are written ahead of the run: an alias in it shows there. */
static uint32_t write_order(const struct slate_probe *probe, uint32_t at)
{
    return at < probe->places ? probe->run + at : at - probe->places;
}

static enum slate_status write_spot(struct slate_probe *probe, uint32_t index,
                                    uint32_t count)
{
    enum slate_place *place = place_of(probe, index);
    enum slate_status status;

    if (place == NULL ? is_given_up(probe) : *place == SLATE_PLACE_SKIPPED)
        return SLATE_OK;
    for (uint32_t i = 0; i < count; i++)
        slate_probe_compose(probe, slate_probe_spot(probe, index + i),
                            probe->chunk + (size_t)i * block_bytes(probe));
    status = slate_media_write(probe->media, slate_probe_spot(probe, index),
                               count, probe->chunk);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    probe->written = true; /* also a write that failed may have changed it */
    if (place != NULL)
        *place = status == SLATE_OK ? SLATE_PLACE_HELD : SLATE_PLACE_REFUSED;
    else if (status == SLATE_OK)
        probe->run_written = true;
    return SLATE_OK;
}

/* Two block numbers of one block; the distance is the true capacity, or a
 * multiple of it. */
static void note_alias(struct slate_probe *probe, uint64_t a, uint64_t b)
{
    uint64_t distance = a > b ? a - b : b - a;

    if (probe->alias != 0 && distance >= probe->distance)
        return;
    probe->alias = a > b ? a : b;
    probe->distance = distance;
}

/* What came back for a place that took the write. */
static enum slate_place judge_place(struct slate_probe *probe, uint32_t index)
{
    uint64_t lba = slate_probe_spot(probe, index), found;

    if (slate_probe_is(probe, lba, probe->chunk))
        return SLATE_PLACE_HELD;
    if (slate_probe_whose(probe, probe->chunk, &found) && found != lba) {
        note_alias(probe, lba, found);
        return SLATE_PLACE_ALIAS;
    }
    return memcmp(probe->chunk, kept_at(probe, index), block_bytes(probe)) == 0
               ? SLATE_PLACE_OLD
               : SLATE_PLACE_OTHER;
}

static enum slate_status read_spot(struct slate_probe *probe, uint32_t index,
                                   uint32_t count)
{
    enum slate_place *place = place_of(probe, index);
    enum slate_status status;

    if (place == NULL ? is_given_up(probe) || !probe->run_written
                      : *place != SLATE_PLACE_HELD)
        return SLATE_OK;
    status = slate_media_read(probe->media, slate_probe_spot(probe, index),
                              count, probe->chunk);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (place != NULL) {
        *place =
            status == SLATE_OK ? judge_place(probe, index) : SLATE_PLACE_UNREAD;
        return SLATE_OK;
    }
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (slate_probe_is(probe, slate_probe_spot(probe, index + i),
                           probe->chunk + (size_t)i * block_bytes(probe)))
            probe->run_held++;
    }
    return SLATE_OK;
}

/* Any block of the run that shows elsewhere tells how far apart two block
 * numbers of one block are. */
static enum slate_status search(struct slate_probe *probe)
{
    enum slate_status status =
        slate_media_read(probe->media, probe->search_at, 1, probe->chunk);
    uint64_t whose;

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (status == SLATE_OK && slate_probe_whose(probe, probe->chunk, &whose) &&
        whose < probe->search_at)
        note_alias(probe, probe->search_at, whose);
    probe->search_at += probe->search_step;
    return SLATE_OK;
}

/* Backwards: what was written last is restored first. */
static uint32_t restore_order(const struct slate_probe *probe, uint32_t at)
{
    return at < probe->places ? probe->run + probe->places - 1 - at
                              : at - probe->places;
}

static bool is_touched(const struct slate_probe *probe, uint32_t index)
{
    enum slate_place place;

    if (index < probe->run)
        return probe->run_written && !is_given_up(probe);
    place = probe->place[index - probe->run];
    return place != SLATE_PLACE_UNTRIED && place != SLATE_PLACE_SKIPPED;
}

static enum slate_status write_back(struct slate_probe *probe, uint32_t index,
                                    uint32_t count)
{
    enum slate_status status = SLATE_OK;

    for (int i = 0; i < RESTORE_TRIES; i++) {
        status = slate_media_write(probe->media, slate_probe_spot(probe, index),
                                   count, kept_at(probe, index));
        if (status == SLATE_OK || status == SLATE_ERR_NO_DEVICE)
            break;
    }
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

/* Which of the blocks in the buffer still hold what the probe wrote? */
static bool is_left(const struct slate_probe *probe, uint32_t i)
{
    uint64_t whose;

    return slate_probe_whose(
        probe, probe->chunk + (size_t)i * block_bytes(probe), &whose);
}

static enum slate_status put_back(struct slate_probe *probe, uint32_t index,
                                  uint32_t count)
{
    enum slate_status status = slate_media_read(
        probe->media, slate_probe_spot(probe, index), count, probe->chunk);

    if (status != SLATE_OK)
        return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (is_left(probe, i))
            status = write_back(probe, index + i, 1);
    }
    return status;
}

static enum slate_status restore(struct slate_probe *probe, uint32_t index,
                                 uint32_t count)
{
    if (!is_touched(probe, index))
        return SLATE_OK;
    return probe->putting_back ? put_back(probe, index, count)
                               : write_back(probe, index, count);
}

static bool is_restored(const struct slate_probe *probe, uint32_t index,
                        uint32_t i)
{
    if (probe->putting_back)
        return !is_left(probe, i);
    return memcmp(probe->chunk + (size_t)i * block_bytes(probe),
                  kept_at(probe, index + i), block_bytes(probe)) == 0;
}

static enum slate_status check(struct slate_probe *probe, uint32_t index,
                               uint32_t count)
{
    enum slate_status status;

    if (!is_touched(probe, index))
        return SLATE_OK;
    status = slate_media_read(probe->media, slate_probe_spot(probe, index),
                              count, probe->chunk);
    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    for (uint32_t i = 0; i < count; i++) {
        if (status != SLATE_OK || !is_restored(probe, index, i))
            probe->lost++;
    }
    return SLATE_OK;
}

static bool refuses_all(const struct slate_probe *probe)
{
    for (uint32_t i = 0; i < REFUSALS; i++) {
        if (i < probe->places && probe->place[i] != SLATE_PLACE_REFUSED)
            return false;
    }
    return probe->phase == SLATE_PROBE_WRITE && probe->at >= REFUSALS &&
           probe->at <= probe->places;
}

static enum slate_status next_phase(struct slate_probe *probe)
{
    bool wrote = probe->phase == SLATE_PROBE_WRITE ||
                 probe->phase == SLATE_PROBE_RESTORE;
    enum slate_status status = SLATE_OK;

    if (wrote)
        status = slate_media_flush(probe->media);
    if (probe->phase == SLATE_PROBE_SEARCH)
        probe->searched = true;
    if (probe->phase == SLATE_PROBE_READ)
        probe->judged = true;
    probe->phase = (enum slate_probe_phase)((int)probe->phase + 1);
    probe->at = 0;
    /* a run that is not there cannot be searched for */
    if (probe->phase == SLATE_PROBE_SEARCH && probe->run_held != probe->run)
        probe->phase = SLATE_PROBE_RESTORE;
    return status == SLATE_ERR_NO_DEVICE ? status : SLATE_OK;
}

static enum slate_status work_on(struct slate_probe *probe)
{
    uint32_t index = probe->at, count;
    enum slate_status status;

    if (probe->phase == SLATE_PROBE_WRITE)
        index = write_order(probe, probe->at);
    else if (probe->phase == SLATE_PROBE_RESTORE)
        index = restore_order(probe, probe->at);
    count = together(probe, index);
    switch (probe->phase) {
    case SLATE_PROBE_SAVE:
        status = save(probe, index, count);
        break;
    case SLATE_PROBE_WRITE:
        status = write_spot(probe, index, count);
        break;
    case SLATE_PROBE_READ:
        status = read_spot(probe, index, count);
        break;
    case SLATE_PROBE_RESTORE:
        status = restore(probe, index, count);
        break;
    default:
        status = check(probe, index, count);
        break;
    }
    probe->at += count;
    return status;
}

enum slate_status slate_probe_step(struct slate_probe *probe)
{
    bool over;

    if (probe->status != SLATE_OK || probe->phase == SLATE_PROBE_DONE)
        return probe->status;
    probe->done += probe->done < probe->total ? 1 : 0;
    if (probe->phase == SLATE_PROBE_SEARCH) {
        probe->status = search(probe);
        over = probe->search_at >= probe->media->geometry.block_count;
    } else {
        probe->status = work_on(probe);
        over = probe->at >= probe->run + probe->places || refuses_all(probe);
    }
    if (over && probe->status == SLATE_OK)
        probe->status = next_phase(probe);
    return probe->status;
}

void slate_probe_stop(struct slate_probe *probe)
{
    if (probe->phase >= SLATE_PROBE_RESTORE)
        return;
    probe->phase = probe->written ? SLATE_PROBE_RESTORE : SLATE_PROBE_DONE;
    probe->at = 0;
}

/* Everything was read once, or it would not have been saved. */
void slate_probe_put_back(struct slate_probe *probe)
{
    for (uint32_t i = 0; i < probe->places; i++)
        probe->place[i] = SLATE_PLACE_HELD;
    probe->run_written = true;
    probe->written = true;
    probe->putting_back = true;
    probe->phase = SLATE_PROBE_RESTORE;
    probe->at = 0;
}

enum slate_status slate_probe_end(struct slate_probe *probe)
{
    return slate_media_release(probe->media);
}
