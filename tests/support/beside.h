/* SPDX-License-Identifier: MIT */
/* What may stand on a device beside what it was made with: a member's records
 * at both ends, a volume that takes the whole device, one in a gap, one whose
 * entry was deleted. */
#ifndef TESTS_BESIDE_H
#define TESTS_BESIDE_H

#include "ram.h"

struct beside {
    const char *name;
    bool (*put)(struct ram *ram); /* false: something else has its place */
};

/* Ends with a row without a name. */
extern const struct beside beside[];

#endif
