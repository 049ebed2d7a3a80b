/* SPDX-License-Identifier: MIT */
/* Inside the prove room: what a probe writes, and how it puts things back. */
#ifndef SLATE_PROVE_PROBE_H
#define SLATE_PROVE_PROBE_H

#include "trueslate/probe.h"

/* The block number of a spot: of the run, then of the places. */
uint64_t slate_probe_spot(const struct slate_probe *probe, uint32_t index);

uint32_t slate_probe_block_bytes(const struct slate_probe *probe);
uint8_t *slate_probe_kept_at(const struct slate_probe *probe, uint32_t index);

/* Did a place lose what was written to it? */
bool slate_place_is_lost(enum slate_place place);

/* Is the medium gone, so that nothing can be done any more? */
bool slate_probe_is_gone(enum slate_status status);

/* The three transfers of putting back. */
enum slate_status slate_probe_recognise(struct slate_probe *probe,
                                        uint32_t index, uint32_t count);
enum slate_status slate_probe_restore(struct slate_probe *probe, uint32_t index,
                                      uint32_t count);
enum slate_status slate_probe_check(struct slate_probe *probe, uint32_t index,
                                    uint32_t count);

#endif
