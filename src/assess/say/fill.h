/* SPDX-License-Identifier: MIT */
/* What stands for the names in the templates of words.c. */
#ifndef SLATE_ASSESS_FILL_H
#define SLATE_ASSESS_FILL_H

#include "assess/judge/judge.h"

/* What a sentence is of, and where it goes. */
struct slate_telling {
    const struct slate_facts *facts;
    uint32_t i; /* the volume that the finding concerns first, as
                   slate_facts_volume counts */
    struct slate_text *text;
};

struct slate_fill {
    const char *name;
    void (*fill)(const struct slate_telling *to);
};

/* Each list ends with a row without a name. */
extern const struct slate_fill slate_fills_of_device[];
extern const struct slate_fill slate_fills_of_table[];
extern const struct slate_fill slate_fills_of_volume[];

/* "partition 2 (blocks 2048 to 95797)" */
void slate_say_partition(const struct slate_partition *partition,
                         struct slate_text *text);

/* "3 partitions", "1 partition" */
void slate_say_count(uint64_t count, const char *what, struct slate_text *text);

#endif
