/* SPDX-License-Identifier: MIT */
/* Inside a look: the device, the one buffer, and what goes in. */
#ifndef SLATE_ASSESS_LOOK_H
#define SLATE_ASSESS_LOOK_H

#include "assess/look/facts.h"

struct look {
    struct slate_media *media;
    uint8_t *work;
    struct slate_facts *facts;
    struct slate_traffic before;
};

/* The volume in a partition; UNREAD when not enough is left for it. */
enum slate_status slate_look_at(const struct look *look,
                                const struct slate_partition *partition,
                                enum slate_depth depth,
                                struct slate_volume *volume);

/* Places all over the device, where no table tells what is on it. */
enum slate_status slate_look_at_sample(const struct look *look);

#endif
