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
                                     .mend = drafted->mend,
                                     .mends = DRAFTED_MENDS,
                                     .patch = drafted->patch,
                                     .patches = DRAFTED_PATCHES,
                                     .bad = drafted->bad,
                                     .bad_ranges = DRAFTED_BAD,
                                     .bytes = drafted->patched,
                                     .start = drafted->start,
                                     .start_room = DRAFTED_START,
                                     .bytes_room = sizeof drafted->patched};
    slate_draft_place(&drafted->draft, &room);
    drafted->failed =
        (struct slate_ranges){drafted->failed_range, DRAFTED_BAD, 0};
    return &drafted->draft; /* its first member */
}

/* It is kept beside the draft, and not part of it. */
struct slate_ranges *drafted_failed(const struct slate_draft *draft)
{
    return (struct slate_ranges *)&((const struct drafted *)draft)->failed;
}

struct folder *drafted_folder(struct slate_draft *draft)
{
    return &((struct drafted *)draft)->folder;
}

const char *drafted_path(const struct slate_draft *draft)
{
    return ((const struct drafted *)draft)->folder.path;
}

static void *grown(void *array, size_t count, size_t each)
{
    void *larger = reallocarray(array, count == 0 ? 1 : count, each);

    if (larger == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    return larger;
}

void drafted_make_room(struct slate_draft *draft, uint32_t items,
                       uint32_t names)
{
    struct slate_files *files = &draft->files;

    files->item = grown(files->item, items, sizeof *files->item);
    files->spot = grown(files->spot, items, sizeof *files->spot);
    files->names.byte = grown(files->names.byte, names, 1);
    files->room = items;
    files->names.room = names;
}

void drafted_free(struct slate_draft *draft)
{
    folder_close(drafted_folder(draft));
    free(draft->files.item);
    free(draft->files.spot);
    free(draft->files.names.byte);
    free(draft);
}
