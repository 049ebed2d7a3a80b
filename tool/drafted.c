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
    room = (struct slate_draft_room){.part = drafted->part,
                                     .partition = drafted->partition,
                                     .parts = DRAFTED_PARTS,
                                     .range = drafted->range,
                                     .ranges = DRAFTED_RANGES,
                                     .seen = drafted->seen,
                                     .seen_ranges = SLATE_EVIDENCE_RANGES,
                                     .image = drafted->image,
                                     .image_bytes = DRAFTED_IMAGE,
                                     .clear = drafted->clear,
                                     .clears = DRAFTED_CLEARS,
                                     .patch = drafted->patch,
                                     .patches = DRAFTED_PATCHES,
                                     .bad = drafted->bad,
                                     .bad_ranges = DRAFTED_BAD,
                                     .bytes = drafted->patched,
                                     .bytes_room = sizeof drafted->patched};
    slate_draft_place(&drafted->draft, &room);
    return &drafted->draft; /* its first member */
}

void drafted_free(struct slate_draft *draft)
{
    free(draft);
}
