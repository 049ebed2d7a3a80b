/* SPDX-License-Identifier: MIT */
/* The order of a low-level format: looking, measuring, formatting, reading. */
#include "trueslate/reformat.h"

#define PLACES 64u

/* Phases that there is nothing to do in are left out. */
static void go_to(struct slate_reformat *own, enum slate_reformat_phase phase)
{
    own->begun = false;
    own->phase = phase;
    if (own->phase == SLATE_REFORMAT_LOOK && own->former == NULL)
        own->phase = SLATE_REFORMAT_MEASURE;
    if (own->phase == SLATE_REFORMAT_MEASURE && own->interleaves == 0)
        own->phase = SLATE_REFORMAT_FORMAT;
}

void slate_reformat_start(struct slate_reformat *reformat,
                          struct slate_media *media, void *work,
                          uint32_t work_bytes)
{
    reformat->media = media;
    reformat->work = work;
    reformat->work_bytes = work_bytes;
    go_to(reformat, SLATE_REFORMAT_LOOK);
}

/* A cylinder at a time, so that progress can be told as one. */
static uint32_t bytes_of_cylinder(const struct slate_reformat *own,
                                  const struct slate_drive *drive)
{
    uint64_t bytes =
        (uint64_t)drive->heads * drive->sectors * drive->block_bytes;

    if (bytes < SLATE_WORK_MIN)
        return SLATE_WORK_MIN;
    return bytes < own->work_bytes ? (uint32_t)bytes : own->work_bytes;
}

/* Steps over all blocks; done is set with the last one. */
static enum slate_status read_all(struct slate_reformat *own,
                                  const struct slate_drive *drive,
                                  struct slate_reading *reading)
{
    const struct slate_range all = {0, UINT64_MAX};
    enum slate_status status;

    if (!own->begun) {
        status = slate_scan_start(&own->scan, own->media, &all, &reading->bad,
                                  own->work, bytes_of_cylinder(own, drive));
        own->begun = status == SLATE_OK;
        return status;
    }
    status = slate_scan_step(&own->scan);
    reading->bad = own->scan.bad;
    reading->weak = own->scan.weak;
    if (status != SLATE_OK || own->scan.phase != SLATE_SCAN_DONE)
        return status;
    own->begun = false;
    status = slate_scan_end(&own->scan);
    reading->done = status == SLATE_OK;
    return status;
}

static enum slate_status look(struct slate_reformat *own)
{
    enum slate_status status = read_all(own, own->former, &own->before);

    if (own->before.done)
        go_to(own, SLATE_REFORMAT_MEASURE);
    return status;
}

static enum slate_status measure(struct slate_reformat *own)
{
    enum slate_status status;

    if (!own->begun) {
        status = slate_interleave_start(&own->measure, own->media, &own->drive,
                                        own->interleaves, own->work,
                                        own->work_bytes);
        own->begun = status == SLATE_OK;
        return status;
    }
    status = slate_interleave_step(&own->measure);
    if (status != SLATE_OK || !own->measure.finished)
        return status;
    own->drive.interleave = slate_interleave_best(&own->measure);
    if (own->drive.interleave == 0)
        return SLATE_ERR_READ;
    go_to(own, SLATE_REFORMAT_FORMAT);
    return SLATE_OK;
}

static enum slate_status format(struct slate_reformat *own)
{
    enum slate_status status;

    if (!own->begun) {
        own->wish.drive = own->has_drive ? &own->drive : NULL;
        status = slate_lowlevel_start(&own->format, own->media, &own->wish,
                                      own->work, own->work_bytes);
        own->begun = status == SLATE_OK;
        return status;
    }
    status = slate_lowlevel_step(&own->format);
    if (status == SLATE_OK && own->format.phase == SLATE_LOWLEVEL_OVER)
        go_to(own, SLATE_REFORMAT_READ);
    return status;
}

/* Without tracks: some places, from the first to the last one. */
static enum slate_status read_some(struct slate_reformat *own)
{
    uint64_t last = own->media->geometry.block_count - 1, i = own->place;
    enum slate_status status = slate_media_read(
        own->media,
        last / (PLACES - 1) * i + last % (PLACES - 1) * i / (PLACES - 1), 1,
        own->work);

    if (++own->place == PLACES)
        go_to(own, SLATE_REFORMAT_OVER);
    return status;
}

static enum slate_status read_again(struct slate_reformat *own)
{
    enum slate_status status;

    if (!own->has_drive)
        return read_some(own);
    status = read_all(own, &own->drive, &own->after);
    if (!own->after.done)
        return status;
    slate_defects_judge(&own->drive, own->wish.defect, own->wish.defects,
                        &own->after.bad,
                        own->before.done ? &own->before.bad : NULL, &own->seen);
    go_to(own, SLATE_REFORMAT_OVER);
    return status;
}

enum slate_status slate_reformat_step(struct slate_reformat *reformat)
{
    switch (reformat->phase) {
    case SLATE_REFORMAT_LOOK:
        return look(reformat);
    case SLATE_REFORMAT_MEASURE:
        return measure(reformat);
    case SLATE_REFORMAT_FORMAT:
        return format(reformat);
    case SLATE_REFORMAT_READ:
        return read_again(reformat);
    case SLATE_REFORMAT_OVER:
    default:
        return SLATE_OK;
    }
}

enum slate_status slate_reformat_end(struct slate_reformat *reformat)
{
    bool reads = reformat->begun && (reformat->phase == SLATE_REFORMAT_LOOK ||
                                     reformat->phase == SLATE_REFORMAT_READ);

    reformat->begun = false;
    return reads ? slate_scan_end(&reformat->scan) : SLATE_OK;
}

/* Measuring formats a track; a second value is tried on what the first has
 * left. */
bool slate_reformat_has_changed(const struct slate_reformat *reformat)
{
    return reformat->format.begun || reformat->measure.format.begun ||
           reformat->measure.finished || reformat->measure.value > 1;
}
