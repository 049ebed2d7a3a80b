/* SPDX-License-Identifier: MIT */
/* Drafts with room for all partitions that a GPT can hold. */
#include "drafted.h"

#include <stdlib.h>
#include <string.h>

#include "say.h"

struct slate_draft *drafted_new(void)
{
    struct drafted *drafted = calloc(1, sizeof *drafted);
    struct slate_draft_room room;

    if (drafted == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    room = (struct slate_draft_room){drafted->part, drafted->partition,
                                     DRAFTED_PARTS, drafted->range,
                                     DRAFTED_RANGES};
    slate_draft_place(&drafted->draft, &room);
    return &drafted->draft; /* its first member */
}

void drafted_free(struct slate_draft *draft)
{
    free(draft);
}

static void copy_ranges(const struct slate_ranges *from,
                        struct slate_ranges *to)
{
    memcpy(to->range, from->range, from->count * sizeof from->range[0]);
    to->count = from->count;
}

void drafted_copy(const struct slate_draft *from, struct slate_draft *to)
{
    struct slate_ranges old = to->basis.old;
    struct slate_ranges read = to->basis.evidence.read;

    copy_ranges(&from->basis.old, &old);
    copy_ranges(&from->basis.evidence.read, &read);
    to->goal = from->goal;
    to->choices = from->choices;
    to->basis = from->basis;
    to->basis.old = old;
    to->basis.evidence.read = read;
    to->parts = from->parts;
    for (uint32_t i = 0; i < from->parts; i++)
        to->part[i].ask = from->part[i].ask;
}
