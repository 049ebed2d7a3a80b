/* SPDX-License-Identifier: MIT */
/* Is a device blank? Where no table tells what is on it, it is looked at in
 * many places: at its start, where common layouts put their partitions, at
 * powers of two, spread over all of it, and at its end. */

#include "assess/look/look.h"
#include "base/base.h"

#define START_BYTES 32768u
#define SPREAD 56u
#define GLANCE_SPREAD 3u
/* Volumes are looked for at so many of the places that hold something. */
#define VOLUME_PLACES 8u
/* The table has places of its own: block 0, and the GPT's at both ends. */
#define TABLE_BYTES 24576u
/* The most that reading a place may take: cards need several. */
#define COMMANDS_A_PLACE 6u

/* Bytes at which partitions begin by common habits, beside powers of two:
 * block 63 of either size; behind start-up partitions of 100, 128, 200, 256,
 * 260, 500, 512 and 1024 MiB. */
static const uint64_t habits[] = {
    63 * 512ull,      63 * 4096ull,    206848 * 512ull, 264192 * 512ull,
    409640 * 512ull,  526336 * 512ull, 534528 * 512ull, 1026048 * 512ull,
    1050624 * 512ull, 2099200 * 512ull};

#define HABITS (sizeof habits / sizeof habits[0])

/* One byte throughout: the one of the first place, or what flash and disks hold
 * when nothing was written? */
static bool is_empty(const uint8_t *bytes, size_t length, uint8_t usual)
{
    return memcmp(bytes, bytes + 1, length - 1) == 0 &&
           (bytes[0] == usual || bytes[0] == 0x00 || bytes[0] == 0xFF);
}

static void note_volume(const struct look *look, uint64_t lba,
                        const struct slate_volume *volume)
{
    struct slate_sample *sample = &look->facts->sample;

    if (sample->volumes++ > 0 && lba > sample->volume_lba)
        return;
    sample->volume = *volume;
    sample->volume_lba = lba;
}

/* A volume that begins at a place which holds something. */
static enum slate_status look_for_volume(const struct look *look, uint64_t lba)
{
    const struct slate_geometry *geometry = &look->media->geometry;
    struct slate_partition there = {.first = lba,
                                    .count = geometry->block_count - lba};
    struct slate_volume volume = {.kind = SLATE_VOLUME_NONE};
    enum slate_status status =
        slate_look_at(look, &there, SLATE_DEPTH_GLANCE, &volume);

    if (status == SLATE_OK && slate_volume_is_known(volume.kind))
        note_volume(look, lba, &volume);
    return status;
}

static uint64_t commands_left(const struct look *look)
{
    const struct slate_media *media = look->media;

    return media->traffic.commands < media->policy.limit->commands
               ? media->policy.limit->commands - media->traffic.commands
               : 0;
}

/* One place: SLATE_WORK_MIN bytes from this block on. */
static enum slate_status look_at_place(const struct look *look, uint64_t lba)
{
    const struct slate_geometry *geometry = &look->media->geometry;
    struct slate_sample *sample = &look->facts->sample;
    uint32_t run = SLATE_WORK_MIN / geometry->block_bytes;
    uint64_t left = geometry->block_count - lba;
    uint32_t here = left < run ? (uint32_t)left : run;

    if (commands_left(look) < COMMANDS_A_PLACE)
        return SLATE_OK;
    SLATE_TRY(slate_media_read(look->media, lba, here, look->work));
    if (sample->places++ == 0)
        sample->byte = look->work[0];
    if (is_empty(look->work, (size_t)here * geometry->block_bytes,
                 sample->byte))
        return SLATE_OK;
    if (sample->held++ == 0 || lba < sample->held_lba)
        sample->held_lba = lba;
    sample->start_held =
        sample->start_held || lba < START_BYTES / geometry->block_bytes;
    return sample->held <= VOLUME_PLACES && lba > 0 ? look_for_volume(look, lba)
                                                    : SLATE_OK;
}

/* Where the table that was found has no places of its own. */
static enum slate_status look_at_byte(const struct look *look, uint64_t byte)
{
    const struct slate_geometry *geometry = &look->media->geometry;
    uint64_t all = slate_geometry_bytes(geometry);

    if (byte >= all)
        return SLATE_OK;
    if (look->facts->layout.kind != SLATE_TABLE_NONE &&
        (byte < TABLE_BYTES || all - byte <= TABLE_BYTES))
        return SLATE_OK;
    return look_at_place(look, byte / geometry->block_bytes);
}

static enum slate_status look_at_start(const struct look *look, uint64_t bytes)
{
    enum slate_status status = SLATE_OK;

    for (uint64_t byte = 0; byte < bytes && status == SLATE_OK;
         byte += SLATE_WORK_MIN)
        status = look_at_byte(look, byte);
    return status;
}

static enum slate_status look_at_habits(const struct look *look)
{
    enum slate_status status = SLATE_OK;

    for (size_t i = 0; i < HABITS && status == SLATE_OK; i++)
        status = look_at_byte(look, habits[i]);
    return status;
}

/* From 64 KiB on; behind the places where volumes begin, some keep their
 * signature 64 KiB further in. */
static enum slate_status look_at_powers(const struct look *look)
{
    uint64_t all = slate_geometry_bytes(&look->media->geometry);
    enum slate_status status = SLATE_OK;

    for (uint64_t byte = 65536; byte < all && status == SLATE_OK; byte *= 2) {
        status = look_at_byte(look, byte);
        if (status == SLATE_OK && byte >= 1048576 && byte <= 16777216)
            status = look_at_byte(look, byte + 65536);
        if (byte > UINT64_MAX / 2)
            break;
    }
    return status;
}

static enum slate_status look_at_spread(const struct look *look, uint32_t count)
{
    uint64_t blocks = look->media->geometry.block_count;
    uint32_t block_bytes = look->media->geometry.block_bytes;
    enum slate_status status = SLATE_OK;

    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        uint64_t lba = blocks / count * i + blocks % count * i / count +
                       blocks / count / 2;

        if (lba >= START_BYTES / block_bytes)
            status = look_at_byte(look, lba * block_bytes);
    }
    return status;
}

static enum slate_status look_at_end(const struct look *look)
{
    static const uint64_t behind[] = {1048576, 65536, SLATE_WORK_MIN};
    uint64_t all = slate_geometry_bytes(&look->media->geometry);
    enum slate_status status = SLATE_OK;

    for (size_t i = 0; i < 3 && status == SLATE_OK; i++) {
        if (all > START_BYTES + behind[i])
            status = look_at_byte(look, all - behind[i]);
    }
    return status;
}

/* As many places as the commands that are left will do, evenly spread. */
static uint32_t spread_of(const struct look *look, uint64_t begun)
{
    const struct slate_sample *sample = &look->facts->sample;
    uint64_t spent = look->media->traffic.commands - begun;
    uint64_t each = sample->places == 0 ? 1 : spent / sample->places + 1;
    uint64_t left = commands_left(look);
    uint64_t count =
        left < COMMANDS_A_PLACE ? 0 : (left - COMMANDS_A_PLACE) / each;

    return count < SPREAD ? (uint32_t)count : SPREAD;
}

enum slate_status slate_look_at_sample(const struct look *look)
{
    bool glance = look->facts->depth == SLATE_DEPTH_GLANCE;
    uint64_t begun = look->media->traffic.commands;
    enum slate_status status =
        look_at_start(look, glance ? 2 * SLATE_WORK_MIN : START_BYTES);

    SLATE_THEN(status, look_at_end(look));
    if (status == SLATE_OK && glance) {
        status = look_at_byte(look, 1048576);
        return status == SLATE_OK ? look_at_spread(look, GLANCE_SPREAD)
                                  : status;
    }
    SLATE_THEN(status, look_at_habits(look));
    SLATE_THEN(status, look_at_powers(look));
    SLATE_THEN(status, look_at_spread(look, spread_of(look, begun)));
    return status;
}
