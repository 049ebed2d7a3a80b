/* SPDX-License-Identifier: MIT */
/* The extents of a draft as the steps that people are told. */
#ifndef TOOL_STEPS_H
#define TOOL_STEPS_H

#include <trueslate/trueslate.h>

/* Of more partitions the steps are not told apart. */
#define STEPS_APART 4u
#define STEPS_MOST 64u

struct step {
    char words[80]; /* "2: write the root directory" */
    enum slate_moment moment;
    uint64_t first;  /* the lowest block of it */
    uint64_t blocks; /* in all */
    bool reads;      /* nothing is written */
    uint32_t places; /* runs that do not adjoin */
    uint64_t end;    /* of the last run */
};

struct steps {
    uint32_t count;
    struct step step[STEPS_MOST];
};

/* In their order: extents of the same moment, partition and purpose are one. */
void steps_of(const struct slate_draft *draft, struct steps *steps);

/* "12 s", "3 min", "2 h"; "" for less than a second. */
void step_time(uint64_t seconds, char words[16]);

#endif
