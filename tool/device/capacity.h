/* SPDX-License-Identifier: MIT */
/* Devices that were proved to have fewer blocks than they claim: kept in mind,
 * so that nobody takes one for healthy the next time. */
#ifndef TOOL_CAPACITY_H
#define TOOL_CAPACITY_H

#include <stdbool.h>
#include <stdint.h>

#include "device/target.h"

/* Blocks that this very device was proved to have; 0: nothing is known. */
uint64_t capacity_of(const struct target *target);

/* Keeps that in mind; false: it cannot be, as the device has no serial number
 * by which it would be known again, or there is no place. */
bool capacity_keep(const struct target *target, uint64_t blocks);

/* It was proved to be what it claims. */
void capacity_drop(const struct target *target);

#endif
