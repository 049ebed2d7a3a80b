/* SPDX-License-Identifier: MIT */
/* The interleave, found by measuring: a drive of one track is formatted with
 * each value, and that track is read for some time. Standard commands are
 * enough for that. */
#include <string.h>

#include "media/scsi/scsi.h"
#include "trueslate/lowlevel.h"

/* A track is read so often, or for so long: the clock counts milliseconds. */
#define TURNS_LEAST 3u
#define MEASURED_MS 500u
#define TURNS_MOST 1000u
#define NEAR_PART 20u

static enum slate_status format_next(struct slate_interleave *measure)
{
    struct slate_lowlevel *format = &measure->format;
    const struct slate_lowlevel_wish wish = {.drive = &measure->drive};

    measure->value++;
    measure->turns = 0;
    measure->drive.interleave = measure->value;
    return slate_lowlevel_start(format, format->media, &wish, format->work,
                                format->work_bytes);
}

enum slate_status slate_interleave_start(struct slate_interleave *measure,
                                         struct slate_media *media,
                                         const struct slate_drive *drive,
                                         uint32_t most, void *work,
                                         uint32_t work_bytes)
{
    if (slate_drive_check(drive) != SLATE_DRIVE_GOOD || most < 1 ||
        most > SLATE_INTERLEAVES_MAX || most >= drive->sectors ||
        media->ops.milliseconds == NULL)
        return SLATE_ERR_ARGUMENT;
    if ((uint64_t)drive->sectors * drive->block_bytes > work_bytes)
        return SLATE_ERR_BUFFER;
    memset(measure, 0, sizeof *measure);
    measure->most = most;
    measure->drive = *drive;
    measure->drive.cylinders = measure->drive.heads = 1;
    if (measure->drive.precompensation > 1)
        measure->drive.precompensation = 1;
    if (measure->drive.reduced_current > 1)
        measure->drive.reduced_current = 1;
    measure->format.media = media;
    measure->format.work = work;
    measure->format.work_bytes = work_bytes;
    return format_next(measure);
}

static enum slate_status read_track(const struct slate_interleave *measure)
{
    const struct slate_lowlevel *format = &measure->format;
    uint32_t sectors = measure->drive.sectors - measure->drive.spares;
    struct slate_exchange x;

    slate_scsi_transfer(&x, SLATE_DIRECTION_IN, 0, sectors, format->work,
                        sectors * measure->drive.block_bytes);
    return slate_scsi_ask(format->media, &x);
}

static enum slate_status go_on(struct slate_interleave *measure, uint32_t us)
{
    measure->us[measure->value] = us;
    if (measure->value < measure->most)
        return format_next(measure);
    measure->finished = true;
    return SLATE_OK;
}

/* The first turn is not counted: the head may have to find the track. */
static enum slate_status turn(struct slate_interleave *measure)
{
    const struct slate_media *media = measure->format.media;
    enum slate_status status = read_track(measure);
    uint64_t now = slate_media_milliseconds(media), took;

    if (status == SLATE_ERR_NO_DEVICE)
        return status;
    if (status != SLATE_OK)
        return go_on(measure, 0);
    if (measure->turns++ == 0)
        measure->began = now;
    took = now - measure->began;
    if (measure->turns <= TURNS_LEAST ||
        (took < MEASURED_MS && measure->turns < TURNS_MOST))
        return SLATE_OK;
    took = took * 1000 / (measure->turns - 1);
    return go_on(measure, took == 0 ? 1 : (uint32_t)took);
}

enum slate_status slate_interleave_step(struct slate_interleave *measure)
{
    if (measure->finished)
        return SLATE_ERR_ARGUMENT;
    return measure->format.phase == SLATE_LOWLEVEL_OVER
               ? turn(measure)
               : slate_lowlevel_step(&measure->format);
}

uint32_t slate_interleave_best(const struct slate_interleave *measure)
{
    uint32_t fastest = 0;

    for (uint32_t i = 1; i <= measure->most; i++) {
        if (measure->us[i] != 0 &&
            (fastest == 0 || measure->us[i] < measure->us[fastest]))
            fastest = i;
    }
    for (uint32_t i = 1; i < fastest; i++) {
        if (measure->us[i] != 0 && measure->us[i] - measure->us[fastest] <=
                                       measure->us[fastest] / NEAR_PART)
            return i;
    }
    return fastest;
}

uint64_t slate_interleave_rate(const struct slate_interleave *measure,
                               uint32_t value)
{
    uint64_t bytes =
        (uint64_t)(measure->drive.sectors - measure->drive.spares) *
        measure->drive.block_bytes;

    if (value < 1 || value > measure->most || measure->us[value] == 0)
        return 0;
    return bytes * 1000000 / measure->us[value];
}
