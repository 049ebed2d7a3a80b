/* SPDX-License-Identifier: MIT */
/* What is in the way of mending a table without loss. */
#ifndef SLATE_ASSESS_OBSTACLE_H
#define SLATE_ASSESS_OBSTACLE_H

#include "trueslate/mendable.h"

/* Each fills in an obstacle that says of none. */
void slate_obstacle_gpt(const struct slate_facts *facts,
                        struct slate_obstacle *obstacle);
void slate_obstacle_remains(const struct slate_facts *facts,
                            struct slate_obstacle *obstacle);
void slate_obstacle_to_gpt(const struct slate_facts *facts,
                           struct slate_obstacle *obstacle);
void slate_obstacle_to_mbr(const struct slate_facts *facts,
                           struct slate_obstacle *obstacle);

#endif
