/* SPDX-License-Identifier: MIT */
/* The bad places of a drive: what its sticker lists, and what is bad. */

#include "base/base.h"
#include "trueslate/drive.h"
#include "volume/common/common.h"

/* Ascending by cylinder, head and place on the track. */
static bool is_behind(const struct slate_defect *a,
                      const struct slate_defect *b)
{
    if (a->cylinder != b->cylinder)
        return a->cylinder > b->cylinder;
    if (a->head != b->head)
        return a->head > b->head;
    return a->at > b->at;
}

void slate_defects_sort(struct slate_defect *defect, uint32_t *count)
{
    uint32_t kept = 0;

    for (uint32_t i = 0; i < *count; i++) {
        struct slate_defect one = defect[i];
        uint32_t at = kept;

        while (at > 0 && is_behind(&defect[at - 1], &one))
            at--;
        if (at > 0 && memcmp(&defect[at - 1], &one, sizeof one) == 0)
            continue;
        memmove(defect + at + 1, defect + at, (kept - at) * sizeof *defect);
        defect[at] = one;
        kept++;
    }
    *count = kept;
}

/* Whole tracks count where it is not known how long one is. */
static bool is_of_track(const struct slate_drive *drive,
                        const struct slate_defect *defect)
{
    return defect->at == SLATE_DEFECT_TRACK || drive->track_bytes == 0;
}

static uint32_t slot_of(const struct slate_drive *drive,
                        const struct slate_defect *defect)
{
    return (uint32_t)((uint64_t)defect->at * drive->sectors /
                      drive->track_bytes);
}

static bool is_on_drive(const struct slate_drive *drive,
                        const struct slate_defect *defect)
{
    return defect->cylinder < drive->cylinders && defect->head < drive->heads &&
           (is_of_track(drive, defect) || defect->at < drive->track_bytes);
}

bool slate_defect_range(const struct slate_drive *drive,
                        const struct slate_defect *defect,
                        struct slate_range *range)
{
    struct slate_sector_place place = {defect->cylinder, defect->head, 0};

    if (!is_on_drive(drive, defect))
        return false;
    range->count = drive->sectors - drive->spares;
    if (!is_of_track(drive, defect)) {
        uint32_t sector =
            slate_drive_sector(drive, &place, slot_of(drive, defect));

        range->count = sector < range->count ? 1 : 0;
        place.sector = range->count == 1 ? sector : 0;
    }
    range->first = slate_drive_block(drive, &place);
    return true;
}

/* The same place, or one of those beside it, on a track that has no end. */
static bool is_near(const struct slate_drive *drive, uint32_t a, uint32_t b)
{
    uint32_t ahead = (a + drive->sectors - b) % drive->sectors;

    return ahead <= 1 || ahead == drive->sectors - 1;
}

/* Of those that are sorted, the first one that is not ahead of a track. */
static uint32_t first_on(const struct slate_defect *defect, uint32_t defects,
                         const struct slate_sector_place *place)
{
    const struct slate_defect start = {place->cylinder, place->head, 0};
    uint32_t low = 0, high = defects;

    SLATE_BISECT(low, high, i, is_behind(&start, &defect[i]));
    return low;
}

bool slate_defects_know(const struct slate_drive *drive,
                        const struct slate_defect *defect, uint32_t defects,
                        uint64_t block)
{
    const struct slate_sector_place place = slate_drive_place(drive, block);
    uint32_t slot = slate_drive_slot(drive, &place);

    for (uint32_t i = first_on(defect, defects, &place);
         i < defects && defect[i].cylinder == place.cylinder &&
         defect[i].head == place.head;
         i++) {
        if (!is_on_drive(drive, &defect[i]))
            continue;
        if (is_of_track(drive, &defect[i]) || drive->spares > 0 ||
            is_near(drive, slot, slot_of(drive, &defect[i])))
            return true;
    }
    return false;
}

static bool is_bad(const struct slate_ranges *bad, uint64_t block)
{
    const struct slate_range one = {block, 1};
    uint64_t found;

    return bad != NULL && slate_bad_first(bad, &one, &found);
}

static void count_block(const struct slate_drive *drive,
                        const struct slate_defect *defect, uint32_t defects,
                        uint64_t block, const struct slate_ranges *before,
                        struct slate_defects_seen *seen)
{
    seen->bad++;
    if (slate_defects_know(drive, defect, defects, block)) {
        seen->known++;
        return;
    }
    seen->fresh++;
    if (is_bad(before, block))
        seen->back++;
    else
        seen->appeared += seen->looked ? 1 : 0;
}

static bool is_sound(const struct slate_drive *drive,
                     const struct slate_defect *defect,
                     const struct slate_ranges *bad)
{
    struct slate_range range;
    uint64_t found;

    return slate_defect_range(drive, defect, &range) &&
           (range.count == 0 || !slate_bad_first(bad, &range, &found));
}

void slate_defects_judge(const struct slate_drive *drive,
                         const struct slate_defect *defect, uint32_t defects,
                         const struct slate_ranges *bad,
                         const struct slate_ranges *before,
                         struct slate_defects_seen *seen)
{
    uint64_t blocks = slate_drive_blocks(drive);

    memset(seen, 0, sizeof *seen);
    seen->listed = defects;
    seen->looked = before != NULL;
    for (uint32_t i = 0; i < defects; i++)
        seen->sound += is_sound(drive, &defect[i], bad) ? 1 : 0;
    for (uint32_t i = 0; i < bad->count; i++) {
        const struct slate_range *range = &bad->range[i];

        for (uint64_t at = 0; at < range->count && range->first + at < blocks;
             at++)
            count_block(drive, defect, defects, range->first + at, before,
                        seen);
    }
    for (uint32_t i = 0; before != NULL && i < before->count; i++) {
        const struct slate_range *range = &before->range[i];

        for (uint64_t at = 0; at < range->count && range->first + at < blocks;
             at++)
            seen->gone += is_bad(bad, range->first + at) ? 0 : 1;
    }
}

enum slate_drive_verdict
slate_drive_judge(const struct slate_defects_seen *seen)
{
    if (seen->bad == 0)
        return SLATE_DRIVE_SOUND;
    if (seen->fresh == 0)
        return SLATE_DRIVE_AS_LISTED;
    return seen->back > 0 ? SLATE_DRIVE_DYING : SLATE_DRIVE_WATCH;
}

#define VERDICTS 4

const char *slate_drive_verdict_name(enum slate_drive_verdict verdict)
{
    static const char *const names[] = {"sound", "as-listed", "watch", "dying"};

    SLATE_ROWS_FOR(names, VERDICTS);
    return SLATE_NAME_OF(names, verdict);
}

const char *slate_drive_verdict_words(enum slate_drive_verdict verdict)
{
    switch (verdict) {
    case SLATE_DRIVE_AS_LISTED:
        return "All that is bad is on the sticker: the drive is as it left its "
               "maker.";
    case SLATE_DRIVE_WATCH:
        return "The drive has bad places that are not on the sticker. Format "
               "it once more: if they come back, it is on its way out.";
    case SLATE_DRIVE_DYING:
        return "Bad places that are not on the sticker have come back after a "
               "low-level format: the drive is on its way out. Copy off what "
               "it holds, and use it for nothing that matters.";
    case SLATE_DRIVE_SOUND:
    default:
        return "Every sector of the drive can be read.";
    }
}
