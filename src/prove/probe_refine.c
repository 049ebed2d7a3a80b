/* SPDX-License-Identifier: MIT */
/* Other rounds of the same probe: narrowing a false capacity down, each between
 * the bounds that the one before has left; or one run after the other. */
#include <string.h>

#include "base/base.h"
#include "prove/probe.h"

/* What is written between writing a place and reading it back is more than
 * controllers of such devices remember: 256 blocks at least. */
#define RUN_LEAST 256u
#define RUN_SHARE 128u

/* Takes what the last round says; false: it contradicts itself. */
static bool take_bounds(struct slate_probe *probe)
{
    uint64_t least = probe->least, most = probe->most;

    for (uint32_t i = 0; i < probe->places; i++) {
        enum slate_place place = probe->place[i];

        if (place == SLATE_PLACE_HELD && probe->lba[i] < most)
            least = probe->lba[i] + 1;
        else if (slate_place_is_lost(place) && probe->lba[i] < most)
            most = probe->lba[i];
        else if (place == SLATE_PLACE_HELD || !slate_place_is_lost(place))
            return false;
    }
    probe->least = least;
    probe->most = most;
    return true;
}

/* Evenly over what is not known yet: its first and its last block as well. */
static void choose_places(struct slate_probe *probe)
{
    uint64_t unknown = probe->most - probe->least;
    uint32_t most = probe->room / 2 < SLATE_PROBE_PLACES ? probe->room / 2
                                                         : SLATE_PROBE_PLACES;

    probe->places = 0;
    for (uint32_t i = 0; i < most; i++) {
        uint64_t at =
            probe->least + unknown / most * i + unknown % most * i / most;

        if (at >= probe->run_first && at - probe->run_first < probe->run)
            continue;
        if (probe->places == 0 || at > probe->lba[probe->places - 1])
            probe->lba[probe->places++] = at;
    }
}

static void shorten_run(struct slate_probe *probe)
{
    uint64_t run = slate_probe_most(&probe->media->geometry) / RUN_SHARE;

    run = run < RUN_LEAST ? RUN_LEAST : run;
    if (run < probe->run)
        probe->run = (uint32_t)run;
}

static void begin_again(struct slate_probe *probe)
{
    memset(probe->place, 0, sizeof probe->place);
    probe->run_held = probe->run_refused = probe->run_unread = 0;
    probe->touched = 0;
    probe->at = 0;
    probe->written = probe->run_written = probe->judged = false;
    probe->leftovers = 0;
    probe->phase = SLATE_PROBE_SAVE;
    probe->total =
        probe->done +
        7 * (uint64_t)(probe->run / probe->chunk_blocks + 1 + probe->places);
}

/* The last place alone: what lies ahead of it decides. */
static bool is_suspicious(const struct slate_probe *probe)
{
    for (uint32_t i = 0; i + 1 < probe->places; i++) {
        if (probe->place[i] != SLATE_PLACE_HELD)
            return false;
    }
    return probe->places > 1 && probe->run_held == probe->run &&
           slate_place_is_lost(probe->place[probe->places - 1]);
}

static uint32_t count_lost(const struct slate_probe *probe)
{
    uint32_t lost = 0;

    for (uint32_t i = 0; i < probe->places; i++)
        lost += slate_place_is_lost(probe->place[i]) ? 1u : 0u;
    return lost;
}

/* The first round has its bounds from the places around the edge. */
static bool find_bounds(struct slate_probe *probe)
{
    if (probe->bounded)
        return take_bounds(probe);
    if (probe->suspected) { /* one more, and it is no block alone */
        probe->bounded = count_lost(probe) > 0 && take_bounds(probe);
        return probe->bounded;
    }
    if (is_suspicious(probe)) {
        probe->suspected = true;
        probe->least = probe->lba[probe->places - 2] + 1;
        probe->most = probe->lba[probe->places - 1];
        return true;
    }
    if (slate_probe_verdict(probe) != SLATE_VERDICT_FALSE_CAPACITY)
        return false;
    probe->least = slate_probe_true_blocks(probe, &probe->most);
    probe->bounded = true;
    return true;
}

bool slate_probe_refine(struct slate_probe *probe)
{
    if (probe->status != SLATE_OK || probe->phase != SLATE_PROBE_DONE ||
        probe->alias != 0 || probe->lost > 0 || probe->vague ||
        probe->putting_back || !probe->judged)
        return false;
    probe->vague = !find_bounds(probe);
    if (probe->vague || probe->least >= probe->most)
        return false;
    if (slate_media_random(probe->media, probe->pattern.seed,
                           sizeof probe->pattern.seed) != SLATE_OK)
        return false;
    shorten_run(probe);
    choose_places(probe);
    begin_again(probe);
    return true;
}

enum slate_status slate_probe_sweep(struct slate_probe *probe, uint64_t first,
                                    uint32_t count)
{
    enum slate_status status =
        slate_probe_set_places(probe, first, count, NULL, 0);

    SLATE_THEN(status, slate_media_random(probe->media, probe->pattern.seed,
                                          sizeof probe->pattern.seed));
    SLATE_TRY(status);
    probe->sweeps = true;
    begin_again(probe);
    return SLATE_OK;
}
