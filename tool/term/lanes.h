/* SPDX-License-Identifier: MIT */
/* Jobs that go on side by side, a line each: drawn over on a terminal; else in
 * lines of their own, now and then. */
#ifndef TOOL_LANES_H
#define TOOL_LANES_H

#include <stdint.h>

#include "base/lane.h"

#define LANES_MOST 64u

struct lanes {
    struct lane *lane[LANES_MOST];
    const char *name[LANES_MOST];
    uint32_t count;
    bool screen;     /* stderr is a terminal */
    uint32_t drawn;  /* lines that stand there */
    uint64_t logged; /* ms of the last lines without a terminal */
};

void lanes_begin(struct lanes *lanes);

/* One more. The name is kept by reference. */
void lanes_add(struct lanes *lanes, const char *name, struct lane *lane);

/* Shows how far they are. */
void lanes_draw(struct lanes *lanes);

/* Takes the lines away. */
void lanes_end(struct lanes *lanes);

#endif
