/* SPDX-License-Identifier: MIT */
/* scan --writes: every block is written and read back, and holds what it held
 * afterwards. */
#include "verbs/verbs.h"

#include "work/work.h"
#include "term/term.h"
#include "device/device.h"

struct going_over {
    struct probing probing;
    struct slate_sweep sweep;
    struct progress progress;
};

/* One run, which is kept in a file before it is written to. */
static int try_run(struct going_over *over)
{
    struct probing *probing = &over->probing;
    int code = probing_run(probing, "Scanning");

    if (code == 0 && probing->probe.lost > 0)
        return probing_fail_lost(probing);
    if (code != 0 || progress_is_interrupted())
        return code;
    return slate_sweep_take(&over->sweep) == SLATE_OK
               ? 0
               : scan_fail_full(over->sweep.scan, probing->target);
}

static int go_over(struct going_over *over)
{
    struct slate_scan *scan = over->sweep.scan;
    uint32_t block = scan->media->geometry.block_bytes;
    bool go_on = true;
    int code = 0;

    progress_catch_interrupts();
    progress_begin(&over->progress, "Scanning");
    while (code == 0 && go_on) {
        enum slate_status status = slate_sweep_next(&over->sweep);

        if (status != SLATE_OK)
            code = fail_plainly(status, over->probing.target->address);
        if (status != SLATE_OK || scan->phase == SLATE_SCAN_DONE)
            break;
        code = try_run(over);
        go_on = progress_bytes(&over->progress, scan->done * block,
                               scan->total * block);
    }
    progress_end(&over->progress);
    return code;
}

int sweep_agree(const struct options *options, struct target *target)
{
    return door_through(
        target, options,
        "A scan that writes writes to every block and restores it.", false);
}

int sweep_all(const struct options *options, struct target *target,
              struct slate_scan *scan)
{
    struct going_over *over = calloc(1, sizeof *over);
    int code = 0;

    if (over == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    over->probing.options = options;
    over->probing.target = target;
    over->probing.quiet = true;
    over->probing.work = malloc(SLATE_PROBE_WORK);
    if (over->probing.work == NULL)
        code = fail(SLATE_ERR_INTERNAL, "out of memory");
    THEN(code, probing_put_all_back(&over->probing));
    THEN(code, probing_begin(&over->probing));
    if (code == 0) {
        slate_sweep_start(&over->sweep, scan, &over->probing.probe);
        code = probing_end(&over->probing, go_over(over));
    }
    free(over->probing.work);
    free(over);
    return code;
}
