/* SPDX-License-Identifier: MIT */
/* The power goes in every write of a change in place. */
#ifndef TESTS_IN_PLACE_H
#define TESTS_IN_PLACE_H

#include "check.h"

/**
 * Cuts the draft of a session at each write in every way: also with all that
 * can become of the last three unflushed ones. Each state is checked, and going
 * on from it reaches what an uncut run does.
 *
 * @param before the device ahead of the change
 * @param after  behind it; its writes are counted from there
 * @param check  what has to hold of a cut device
 * @param told   what the check is told
 * @return states that were seen
 */
uint64_t in_place_cuts(struct session *s, const struct ram *before,
                       const struct ram *after,
                       void (*check)(const struct shim *shim, const void *told),
                       const void *told);

#endif
