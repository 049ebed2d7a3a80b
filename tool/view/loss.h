/* SPDX-License-Identifier: MIT */
/* What a draft loses, in words. */
#ifndef TOOL_LOSS_H
#define TOOL_LOSS_H

#include <trueslate/trueslate.h>

#include "view/map.h"

struct loss {
    bool bad; /* something is lost, or may be */
    uint32_t count;
    char line[MAP_LINES + 1][340]; /* at least one */
};

/* draft: NULL where everything goes. */
void loss_of(const struct slate_facts *facts, const struct slate_draft *draft,
             struct loss *loss);

#endif
