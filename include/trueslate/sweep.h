/* SPDX-License-Identifier: MIT */
/* A scan that writes, with all content kept: a probe goes over the device run
 * by run, and over what does not keep what is written in halves, down to the
 * block. */
#ifndef TRUESLATE_SWEEP_H
#define TRUESLATE_SWEEP_H

#include "trueslate/probe.h"
#include "trueslate/scan.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Halves of halves of a run that wait. */
#define SLATE_SWEEP_DEPTH 32u

/** State of a sweep; placed by the caller, who may read it and change none. */
struct slate_sweep {
    struct slate_scan *scan;   /**< what comes of it: bad blocks, done, phase */
    struct slate_probe *probe; /**< which does it */
    struct slate_range run;    /**< that is tried */
    struct slate_range waits[SLATE_SWEEP_DEPTH]; /**< the next one last */
    uint32_t waiting;
    uint64_t began; /**< ms */
};

/**
 * Prepares a sweep over the range of a scan.
 *
 * @param sweep filled in
 * @param scan  a started scan that has made no step, nor makes any; kept by
 *              reference
 * @param probe a started probe of the same device; the same. It needs a work
 *              buffer of SLATE_PROBE_WORK
 */
void slate_sweep_start(struct slate_sweep *sweep, struct slate_scan *scan,
                       struct slate_probe *probe);

/**
 * Prepares the probe for the next run. Then its steps are made, until it is
 * done: as with any probe, what it has saved can be stored ahead of writing.
 *
 * @param sweep a started sweep, whose last run was taken
 * @return SLATE_OK: scan->phase is SLATE_SCAN_DONE when there is no run left;
 *         as slate_probe_sweep
 */
SLATE_MUST_CHECK enum slate_status slate_sweep_next(struct slate_sweep *sweep);

/**
 * Takes what became of the run: it is sound, tried again in halves, or noted as
 * bad. One of which nothing at all came back is bad as a whole.
 *
 * @param sweep with its probe done, all being restored
 * @return SLATE_OK; SLATE_ERR_BAD_LIST as with slate_scan_step: scan->at is the
 *         run that found no room
 */
SLATE_MUST_CHECK enum slate_status slate_sweep_take(struct slate_sweep *sweep);

#ifdef __cplusplus
}
#endif
#endif
