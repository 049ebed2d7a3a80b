/* SPDX-License-Identifier: MIT */
/* Inside the prove room: what a probe writes, and how it puts things back. */
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

/* Is any part of it what this probe writes there, or the beginning of what it
 * writes anywhere; or is it, byte by byte, made of that and of what was kept?
 */
bool slate_probe_bears(const struct slate_probe *probe, uint64_t lba,
                       const uint8_t *block, const uint8_t *kept);

/* Is it, byte for byte, what some probe wrote? */
bool slate_probe_is_leftover(const struct slate_probe *probe,
                             const uint8_t *block);

uint32_t slate_probe_block_bytes(const struct slate_probe *probe);
uint8_t *slate_probe_kept_at(const struct slate_probe *probe, uint32_t index);

/* Was this spot written, or may it have been? */
bool slate_probe_is_touched(const struct slate_probe *probe, uint32_t index);

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
