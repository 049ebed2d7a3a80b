/* SPDX-License-Identifier: MIT */
/* How fast a device is, by a short sample. */
#include "device/device.h"

#include "term/term.h"

#define PLACES 12u
#define LONGEST_US 2000000u
/* Less is over before it could be measured. */
#define WORTH_BYTES UINT64_C(8388608)

static uint64_t now_us(void)
{
    struct timespec now;

    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000000 + (uint64_t)now.tv_nsec / 1000;
}

/* Bytes a second, from the start of the device to its end; 0: not known. */
static uint64_t sample(struct target *target, uint32_t *places)
{
    struct slate_media *media = &target->media;
    const struct slate_policy once = {.tries = 1};
    struct slate_policy before = slate_media_read_by(media, &once);
    struct slate_fault fault = media->fault;
    uint32_t count = WORK_BYTES / media->geometry.block_bytes;
    uint64_t last = media->geometry.block_count - count, bytes = 0;
    uint64_t began = now_us(), spent = 0;

    for (*places = 0; *places < PLACES && spent < LONGEST_US; ++*places) {
        if (slate_media_read(media, last / (PLACES - 1) * *places, count,
                             target->work) != SLATE_OK)
            break;
        bytes += WORK_BYTES;
        spent = now_us() - began;
    }
    (void)slate_media_read_by(media, &before);
    media->fault = fault;
    return spent == 0 ? 0 : bytes * 1000 / (spent / 1000 + 1);
}

void pace_tell(struct target *target, const struct slate_draft *draft)
{
    uint32_t block = draft->basis.geometry.block_bytes, places;
    uint64_t bytes = block * (slate_draft_blocks(draft, false) +
                              slate_draft_blocks(draft, true));
    char size[SLATE_SIZE_TEXT], speed[SLATE_SIZE_TEXT], time[48];
    uint64_t rate;

    if (draft->goal.overwrite.rounds == 0 || bytes < WORTH_BYTES ||
        slate_geometry_bytes(&draft->basis.geometry) < 2 * WORTH_BYTES)
        return;
    rate = sample(target, &places);
    if (rate == 0)
        return;
    slate_size_decimal(rate, speed);
    slate_size_decimal(bytes, size);
    progress_time_words(bytes / rate + 1, time);
    print_line(
        "Measured", PAINT_PLAIN,
        "%u places were read at %s/s: at that rate %s, written and read back, "
        "take %s; most devices write slower, which is told once it goes on",
        places, speed, size, time);
}
