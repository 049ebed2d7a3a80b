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
    room = (struct slate_draft_room){
        drafted->part,         drafted->partition, DRAFTED_PARTS,
        drafted->range,        DRAFTED_RANGES,     drafted->seen,
        SLATE_EVIDENCE_RANGES, drafted->image,     DRAFTED_IMAGE};
    slate_draft_place(&drafted->draft, &room);
    return &drafted->draft; /* its first member */
}

void drafted_free(struct slate_draft *draft)
{
    free(draft);
}
