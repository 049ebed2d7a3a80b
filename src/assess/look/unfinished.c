/* SPDX-License-Identifier: MIT */
/* A renewal that was cut in a write of block 0, which cannot be read since: who
 * has the draft knows more than what is on the device. */
#include <string.h>

#include "trueslate/assess.h"

/* Layouts keep the room that they refer to. */
static void forget_layout(struct slate_layout *layout)
{
    struct slate_layout none = {.partition = layout->partition,
                                .room = layout->room,
                                .glance = layout->glance};

    *layout = none;
}

/* Block 0 is no longer one of those that nobody can explain. */
static void explain_first(struct slate_unread *unread)
{
    if (unread->count > SLATE_UNREAD_MOST || unread->lba[0] != 0)
        return; /* too many for that to matter, or another one came first */
    unread->count--;
    memmove(&unread->lba[0], &unread->lba[1],
            unread->count * sizeof unread->lba[0]);
}

void slate_facts_take_draft(struct slate_facts *facts,
                            const uint8_t seal[SLATE_DIGEST_BYTES])
{
    facts->marked = true;
    facts->mark_cut = true;
    memcpy(facts->mark.seal, seal, SLATE_DIGEST_BYTES);
    memcpy(facts->mark.tag, facts->tag, SLATE_TAG_ROOM);
    forget_layout(&facts->layout);
    forget_layout(&facts->shadow);
    memset(&facts->whole, 0, sizeof facts->whole);
    memset(&facts->optical, 0, sizeof facts->optical);
    memset(&facts->sample, 0, sizeof facts->sample);
    facts->blank = false;
    facts->made_for = 0;
    if (facts->unread.count > 0)
        explain_first(&facts->unread);
}
