/* SPDX-License-Identifier: MIT */
/* scan --writes: every block is written and read back, and holds what it held
 * afterwards. A run that does not keep what is written is tried again in
 * halves, down to the block. */
#include "verbs/sweep.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "work/probing.h"
#include "device/regions.h"
#include "base/say.h"
#include "verbs/verbs.h"
#include "term/progress.h"
#include "device/consent.h"

/* Halves of halves of a run of this many blocks. */
#define DEPTH 32
/* Each run is kept in a file, and made durable, before it is written to. */
#define RUN_BYTES 4194304u

_Static_assert(RUN_BYTES < SLATE_PROBE_WORK / 2, "a run fits the buffer");

struct sweep {
    struct probing probing;
    struct slate_scan *scan; /* what comes of it */
    struct progress progress;
    struct slate_range waits[DEPTH]; /* to be tried, the next one last */
    uint32_t count;
};

static bool is_sound(const struct slate_probe *probe)
{
    return probe->run_held == probe->run;
}

/* Nothing of it came back, and no transfer failed: there is no need to look for
 * the blocks of which that is true. */
static bool is_lost(const struct slate_probe *probe)
{
    return probe->run_held == 0 && probe->run_refused == 0 &&
           probe->run_unread == 0;
}

static int note_bad(struct sweep *sweep, uint64_t block, uint64_t count)
{
    struct slate_ranges *bad = &sweep->scan->bad;
    struct slate_range *last =
        bad->count == 0 ? NULL : &bad->range[bad->count - 1];

    if (sweep->probing.probe.run_held == SLATE_PROBE_GIVEN_UP)
        sweep->scan->unreadable += count;
    else if (sweep->probing.probe.run_refused > 0)
        sweep->scan->unwritable += count;
    else
        sweep->scan->altered += count;
    if (last != NULL && last->first + last->count == block) {
        last->count += count;
        return 0;
    }
    if (bad->range == NULL || bad->count == bad->room) {
        sweep->scan->at = block;
        return scan_fail_full(sweep->scan, sweep->probing.target);
    }
    bad->range[bad->count++] = (struct slate_range){block, count};
    return 0;
}

/* The second half waits below the first one. */
static void halve(struct sweep *sweep, const struct slate_range *run)
{
    uint64_t half = run->count / 2;

    sweep->waits[sweep->count++] =
        (struct slate_range){run->first + half, run->count - half};
    sweep->waits[sweep->count++] = (struct slate_range){run->first, half};
}

static void note_done(struct sweep *sweep, const struct slate_range *run,
                      uint64_t began)
{
    struct slate_scan *scan = sweep->scan;

    slate_surface_note(scan->surface, run->first, run->count,
                       (progress_now_ms() - began) * 1000);
    scan->done += run->count;
    scan->at = run->first + run->count;
}

/* One run: sound, or in halves, or a bad block. */
static int try_run(struct sweep *sweep, const struct slate_range *run)
{
    struct probing *probing = &sweep->probing;
    uint64_t began = progress_now_ms();
    enum slate_status status =
        slate_probe_sweep(&probing->probe, run->first, (uint32_t)run->count);
    int code = status == SLATE_OK
                   ? probing_run(probing, "Scanning")
                   : fail_plainly(status, probing->target->address);

    if (code == 0 && probing->probe.lost > 0)
        return probing_fail_lost(probing);
    if (code != 0 || progress_is_interrupted())
        return code;
    if (!is_sound(&probing->probe) && !is_lost(&probing->probe) &&
        run->count > 1) {
        halve(sweep, run);
        return 0;
    }
    note_done(sweep, run, began);
    return is_sound(&probing->probe) ? 0
                                     : note_bad(sweep, run->first, run->count);
}

/* The next run: of those that wait, or of the device. */
static bool take_run(struct sweep *sweep, struct slate_range *run)
{
    const struct slate_scan *scan = sweep->scan;
    uint64_t end = scan->range.first + scan->range.count;

    if (sweep->count > 0) {
        *run = sweep->waits[--sweep->count];
        return true;
    }
    run->first = scan->at;
    run->count = RUN_BYTES / scan->media->geometry.block_bytes;
    if (run->count > end - scan->at)
        run->count = end - scan->at;
    return run->count > 0;
}

static int go_over(struct sweep *sweep)
{
    struct slate_scan *scan = sweep->scan;
    uint32_t block = scan->media->geometry.block_bytes;
    struct slate_range run;
    int code = 0;

    progress_catch_interrupts();
    progress_begin(&sweep->progress, "Scanning");
    while (code == 0 && take_run(sweep, &run)) {
        code = try_run(sweep, &run);
        if (!progress_bytes(&sweep->progress, scan->done * block,
                            scan->total * block))
            break;
    }
    progress_end(&sweep->progress);
    if (code == 0 && scan->at == scan->range.first + scan->range.count &&
        sweep->count == 0)
        scan->phase = SLATE_SCAN_DONE;
    return code;
}

int sweep_agree(const struct options *options, const struct target *target)
{
    char wanted[64];

    consent_words(target, wanted);
    if (options->consent == NULL)
        return fail(SLATE_ERR_CONSENT,
                    "a scan that writes writes to every block of %s and "
                    "restores it; to agree, add --consent %s",
                    target->media.tag, wanted);
    return check_consent(target, options->consent);
}

int sweep_all(const struct options *options, struct target *target,
              struct slate_scan *scan)
{
    struct sweep *sweep = calloc(1, sizeof *sweep);
    int code = 0;

    if (sweep == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    sweep->scan = scan;
    sweep->probing.options = options;
    sweep->probing.target = target;
    sweep->probing.quiet = true;
    sweep->probing.work = malloc(SLATE_PROBE_WORK);
    if (sweep->probing.work == NULL)
        code = fail(SLATE_ERR_INTERNAL, "out of memory");
    if (code == 0)
        code = probing_put_all_back(&sweep->probing);
    if (code == 0)
        code = probing_begin(&sweep->probing);
    if (code == 0) {
        scan->writes = true;
        code = probing_end(&sweep->probing, go_over(sweep));
    }
    free(sweep->probing.work);
    free(sweep);
    return code;
}
