/* SPDX-License-Identifier: MIT */
/* The bounded write probe: one transfer a step, and always back to what was
 * there. */
#include <string.h>

#include "enact/enact.h"
#include "prove/probe.h"
#include "compose/compose.h"

/* A device that refuses so many writes in a row is not asked further. */
#define REFUSALS 8u

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

/* What an earlier probe wrote is nobody's content. */
static void look_for_leftovers(struct slate_probe *probe, uint32_t index,
                               uint32_t count)
{
    for (uint32_t i = 0; i < count; i++) {
        uint8_t *block = slate_probe_kept_at(probe, index + i);

        if (!slate_pattern_is_any(block, slate_probe_block_bytes(probe)))
            continue;
        if (probe->leftovers++ == 0)
            probe->leftover = slate_probe_spot(probe, index + i);
        if (probe->give_up)
            memset(block, 0, slate_probe_block_bytes(probe));
    }
}

static enum slate_status save(struct slate_probe *probe, uint32_t index,
                              uint32_t count)
{
    enum slate_status status =
        slate_media_read(probe->media, slate_probe_spot(probe, index), count,
                         slate_probe_kept_at(probe, index));
    enum slate_place *place = place_of(probe, index);

    if (slate_probe_is_gone(status))
        return status;
    if (status == SLATE_OK)
        look_for_leftovers(probe, index, count);
    else if (place != NULL)
        *place = SLATE_PLACE_SKIPPED;
    else
        probe->run_held = SLATE_PROBE_GIVEN_UP;
    return SLATE_OK;
}

static bool is_given_up(const struct slate_probe *probe)
{
    return probe->run_held == SLATE_PROBE_GIVEN_UP;
}

/* The places are written ahead of the run: an alias in it shows there. */
static uint32_t write_order(const struct slate_probe *probe, uint32_t at)
{
    return at < probe->places ? probe->run + at : at - probe->places;
}

/* What a block that is about to be written holds now. */
enum held {
    HELD_KEPT,  /* what was saved, or an alias of another block's writing */
    HELD_OTHER, /* something else, and each time the same */
    HELD_NOISE, /* something else each time */
    HELD_UNREAD
};

static bool may_be_written(const struct slate_probe *probe, uint32_t index,
                           const uint8_t *block)
{
    uint64_t whose;

    return memcmp(block, slate_probe_kept_at(probe, index),
                  slate_probe_block_bytes(probe)) == 0 ||
           slate_pattern_whose(&probe->pattern, block, &whose) ||
           (probe->give_up &&
            slate_pattern_is_any(block, slate_probe_block_bytes(probe)));
}

/* Reads once more what is not as it was saved: noise differs from itself. */
static enum slate_status weigh(struct slate_probe *probe, uint32_t index,
                               const uint8_t *block, enum held *held)
{
    uint8_t first[32];
    uint64_t lba = slate_probe_spot(probe, index);
    enum slate_status status;

    memcpy(first, block, sizeof first);
    status = slate_media_read(probe->media, lba, 1, probe->chunk);
    *held = status != SLATE_OK                               ? HELD_UNREAD
            : memcmp(first, probe->chunk, sizeof first) == 0 ? HELD_OTHER
                                                             : HELD_NOISE;
    return slate_probe_is_gone(status) ? status : SLATE_OK;
}

/* Another medium may have come into the reader since the blocks were saved. */
static enum slate_status look_before(struct slate_probe *probe, uint32_t index,
                                     uint32_t count, enum held *held)
{
    enum slate_status status = slate_media_read(
        probe->media, slate_probe_spot(probe, index), count, probe->chunk);

    *held = status == SLATE_OK ? HELD_KEPT : HELD_UNREAD;
    if (status != SLATE_OK)
        return slate_probe_is_gone(status) ? status : SLATE_OK;
    for (uint32_t i = 0; i < count; i++) {
        const uint8_t *block =
            probe->chunk + (size_t)i * slate_probe_block_bytes(probe);

        if (!may_be_written(probe, index + i, block))
            return weigh(probe, index + i, block, held);
    }
    return SLATE_OK;
}

static bool is_left_out(struct slate_probe *probe, uint32_t index)
{
    const enum slate_place *place = place_of(probe, index);

    return place == NULL ? is_given_up(probe) : *place != SLATE_PLACE_UNTRIED;
}

/* Looks whether a spot holds what was saved; one that holds noise, or cannot be
 * read, is left out. */
static enum slate_status confirm(struct slate_probe *probe, uint32_t index,
                                 uint32_t count)
{
    enum slate_place *place = place_of(probe, index);
    enum held held = HELD_KEPT;
    enum slate_status status = SLATE_OK;

    if (!is_left_out(probe, index))
        status = look_before(probe, index, count, &held);
    if (status != SLATE_OK || held == HELD_KEPT)
        return status;
    if (held == HELD_OTHER)
        return SLATE_ERR_SWAPPED;
    if (place != NULL)
        *place = held == HELD_NOISE ? SLATE_PLACE_OTHER : SLATE_PLACE_SKIPPED;
    else
        probe->run_held = SLATE_PROBE_GIVEN_UP;
    return SLATE_OK;
}

/* Also a write that fails may change something. */
static void note_touched(struct slate_probe *probe, uint32_t index)
{
    probe->written = true;
    if (index < probe->run)
        probe->run_written = true;
    else
        probe->touched |= (uint64_t)1 << (index - probe->run);
}

static enum slate_status write_spot(struct slate_probe *probe, uint32_t index,
                                    uint32_t count)
{
    enum slate_place *place = place_of(probe, index);
    enum slate_status status = confirm(probe, index, count);

    if (status != SLATE_OK || is_left_out(probe, index))
        return status;
    note_touched(probe, index);
    status = slate_enact_write(probe->media, &slate_pattern_composer,
                               &probe->pattern, slate_probe_spot(probe, index),
                               count, probe->chunk);
    if (slate_probe_is_gone(status))
        return status;
    if (place != NULL)
        *place = status == SLATE_OK ? SLATE_PLACE_HELD : SLATE_PLACE_REFUSED;
    else if (status != SLATE_OK)
        probe->run_refused += count;
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

    if (slate_pattern_is(&probe->pattern, lba, probe->chunk))
        return SLATE_PLACE_HELD;
    if (slate_pattern_whose(&probe->pattern, probe->chunk, &found) &&
        found != lba) {
        note_alias(probe, lba, found);
        return SLATE_PLACE_ALIAS;
    }
    return memcmp(probe->chunk, slate_probe_kept_at(probe, index),
                  slate_probe_block_bytes(probe)) == 0
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
    if (slate_probe_is_gone(status))
        return status;
    if (place != NULL) {
        *place =
            status == SLATE_OK ? judge_place(probe, index) : SLATE_PLACE_UNREAD;
        return SLATE_OK;
    }
    if (status != SLATE_OK)
        probe->run_unread += count;
    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (slate_pattern_is(
                &probe->pattern, slate_probe_spot(probe, index + i),
                probe->chunk + (size_t)i * slate_probe_block_bytes(probe)))
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

    if (slate_probe_is_gone(status))
        return status;
    if (status == SLATE_OK &&
        slate_pattern_whose(&probe->pattern, probe->chunk, &whose) &&
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

static bool refuses_all(const struct slate_probe *probe)
{
    for (uint32_t i = 0; i < REFUSALS; i++) {
        if (i < probe->places && probe->place[i] != SLATE_PLACE_REFUSED)
            return false;
    }
    return probe->phase == SLATE_PROBE_WRITE && probe->at >= REFUSALS &&
           probe->at <= probe->places;
}

/* The medium that was written is the one on which at least one block tells so;
 * where the only trace is a block that a torn write has made unreadable, the
 * one on which all others are as they were. */
static bool is_recognised(const struct slate_probe *probe)
{
    return probe->traces > 0 || (probe->unreadable > 0 && probe->others == 0);
}

static void end_recognising(struct slate_probe *probe)
{
    probe->recognised = is_recognised(probe);
    probe->written = probe->recognised;
    probe->phase = probe->recognised ? SLATE_PROBE_RESTORE : SLATE_PROBE_DONE;
}

static enum slate_status next_phase(struct slate_probe *probe)
{
    bool wrote = probe->phase == SLATE_PROBE_WRITE ||
                 probe->phase == SLATE_PROBE_RESTORE;
    enum slate_status status = SLATE_OK;

    probe->at = 0;
    if (probe->phase == SLATE_PROBE_RECOGNISE) {
        end_recognising(probe);
        return SLATE_OK;
    }
    if (probe->phase == SLATE_PROBE_SAVE && probe->leftovers > 0 &&
        !probe->give_up)
        return SLATE_ERR_LEFTOVER;
    if (wrote)
        status = slate_media_flush(probe->media);
    if (probe->phase == SLATE_PROBE_SEARCH)
        probe->searched = true;
    if (probe->phase == SLATE_PROBE_READ)
        probe->judged = true;
    probe->phase = (enum slate_probe_phase)((int)probe->phase + 1);
    /* a run that is not there cannot be searched for; where blocks lose what
     * is written, none is another one's alias */
    if (probe->phase == SLATE_PROBE_SEARCH &&
        (probe->run_held != probe->run || probe->bounded || probe->sweeps ||
         (probe->alias == 0 &&
          slate_probe_verdict(probe) == SLATE_VERDICT_FALSE_CAPACITY)))
        probe->phase = SLATE_PROBE_RESTORE;
    return slate_probe_is_gone(status) ? status : SLATE_OK;
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
    case SLATE_PROBE_CONFIRM:
        status = confirm(probe, index, count);
        break;
    case SLATE_PROBE_WRITE:
        status = write_spot(probe, index, count);
        break;
    case SLATE_PROBE_READ:
        status = read_spot(probe, index, count);
        break;
    case SLATE_PROBE_RESTORE:
        status = slate_probe_restore(probe, index, count);
        break;
    case SLATE_PROBE_RECOGNISE:
        status = slate_probe_recognise(probe, index, count);
        break;
    default:
        status = slate_probe_check(probe, index, count);
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
    if (probe->phase == SLATE_PROBE_RECOGNISE)
        probe->phase = SLATE_PROBE_DONE;
    if (probe->phase >= SLATE_PROBE_RESTORE)
        return;
    probe->phase = probe->written ? SLATE_PROBE_RESTORE : SLATE_PROBE_DONE;
    probe->at = 0;
}

/* Everything was read once, or it would not have been saved; any of it may have
 * been written. */
void slate_probe_put_back(struct slate_probe *probe)
{
    probe->touched = UINT64_MAX;
    probe->run_written = true;
    probe->putting_back = true;
    probe->phase = SLATE_PROBE_RECOGNISE;
    probe->at = 0;
}

enum slate_status slate_probe_end(struct slate_probe *probe)
{
    (void)slate_media_read_by(probe->media, &probe->before);
    return slate_door_leave(probe->media);
}
