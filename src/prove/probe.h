/* SPDX-License-Identifier: MIT */
/* Inside the prove room: what a probe writes. */
#ifndef SLATE_PROVE_PROBE_H
#define SLATE_PROVE_PROBE_H

#include "trueslate/probe.h"

/* The block number of a spot: of the run, then of the places. */
uint64_t slate_probe_spot(const struct slate_probe *probe, uint32_t index);

/* What is written to a block: unlike any other block's, and any other probe's.
 */
void slate_probe_compose(const struct slate_probe *probe, uint64_t lba,
                         uint8_t *block);

/* Is it that, byte for byte? */
bool slate_probe_is(const struct slate_probe *probe, uint64_t lba,
                    const uint8_t *block);

/* Was it written by this probe to some block, and to which? */
bool slate_probe_whose(const struct slate_probe *probe, const uint8_t *block,
                       uint64_t *lba);

#endif
