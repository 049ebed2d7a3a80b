/* SPDX-License-Identifier: MIT */
/* A scan that writes and restores, by a probe: run by run, then in halves. */
#include "trueslate/sweep.h"

#include <string.h>

#include "volume/common/common.h"

/* The caller makes each run durable before it is written to. */
#define RUN_BYTES 4194304u

_Static_assert(RUN_BYTES < SLATE_PROBE_WORK / 2, "a run fits the buffer");

void slate_sweep_start(struct slate_sweep *sweep, struct slate_scan *scan,
                       struct slate_probe *probe)
{
    memset(sweep, 0, sizeof *sweep);
    sweep->scan = scan;
    sweep->probe = probe;
    scan->writes = true;
}

/* Of those that wait, or of the device. */
static void choose_run(struct slate_sweep *sweep)
{
    const struct slate_scan *scan = sweep->scan;
    uint64_t left = scan->range.first + scan->range.count - scan->at;
    uint64_t most = RUN_BYTES / scan->media->geometry.block_bytes;

    if (sweep->waiting > 0)
        sweep->run = sweep->waits[--sweep->waiting];
    else
        sweep->run = (struct slate_range){scan->at, left < most ? left : most};
}

enum slate_status slate_sweep_next(struct slate_sweep *sweep)
{
    choose_run(sweep);
    if (sweep->run.count == 0) {
        sweep->scan->phase = SLATE_SCAN_DONE;
        return SLATE_OK;
    }
    sweep->began = slate_media_milliseconds(sweep->scan->media);
    return slate_probe_sweep(sweep->probe, sweep->run.first,
                             (uint32_t)sweep->run.count);
}

/* The second half waits below the first one. */
static void halve(struct slate_sweep *sweep)
{
    const struct slate_range run = sweep->run;
    uint64_t half = run.count / 2;

    sweep->waits[sweep->waiting++] =
        (struct slate_range){run.first + half, run.count - half};
    sweep->waits[sweep->waiting++] = (struct slate_range){run.first, half};
}

static enum slate_status note_bad(struct slate_sweep *sweep)
{
    struct slate_scan *scan = sweep->scan;
    const struct slate_probe *probe = sweep->probe;
    uint64_t *kind = probe->run_held == SLATE_PROBE_GIVEN_UP ? &scan->unreadable
                     : probe->run_refused > 0                ? &scan->unwritable
                                                             : &scan->altered;

    *kind += sweep->run.count;
    if (slate_bad_add(&scan->bad, sweep->run.first, sweep->run.count) ==
        SLATE_OK)
        return SLATE_OK;
    scan->at = sweep->run.first;
    return SLATE_ERR_BAD_LIST;
}

enum slate_status slate_sweep_take(struct slate_sweep *sweep)
{
    const struct slate_probe *probe = sweep->probe;
    struct slate_scan *scan = sweep->scan;
    bool sound = probe->run_held == probe->run;
    /* no transfer failed: there is no need to look for the blocks */
    bool lost = probe->run_held == 0 && probe->run_refused == 0 &&
                probe->run_unread == 0;

    if (!sound && !lost && sweep->run.count > 1) {
        halve(sweep);
        return SLATE_OK;
    }
    slate_surface_note(scan->surface, sweep->run.first, sweep->run.count,
                       (slate_media_milliseconds(scan->media) - sweep->began) *
                           1000);
    scan->done += sweep->run.count;
    scan->at = sweep->run.first + sweep->run.count;
    return sound ? SLATE_OK : note_bad(sweep);
}
