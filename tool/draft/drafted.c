/* SPDX-License-Identifier: MIT */
/* Drafts with room for all partitions that a GPT can hold. */
#include "draft/draft.h"

#include <sys/mman.h>

/* The table of a GPT, two blocks for each of a thousand that are changed in
 * place, and what they take while they grow. */
#define ROOM_BYTES 33554432u

/* The pages of it that are not touched cost nothing. */
static void *got(size_t bytes)
{
    void *room = mmap(NULL, bytes, PROT_READ | PROT_WRITE,
                      MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);

    if (room == MAP_FAILED)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    return room;
}

struct slate_draft *drafted_new(void)
{
    struct drafted *drafted = calloc(1, sizeof *drafted);

    if (drafted == NULL)
        exit(fail(SLATE_ERR_INTERNAL, "out of memory"));
    drafted->bytes = ROOM_BYTES;
    drafted->room = got(ROOM_BYTES);
    slate_draft_place(&drafted->draft, drafted->room, ROOM_BYTES);
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

void drafted_enlarge(struct slate_draft *draft)
{
    struct drafted *drafted = (struct drafted *)draft;
    size_t bytes = 2 * draft->room.bytes;
    void *room = got(bytes);

    if (slate_draft_move(draft, room, bytes) != SLATE_OK)
        exit(fail(SLATE_ERR_INTERNAL, "a draft lost its room"));
    munmap(drafted->room, drafted->bytes);
    drafted->room = room;
    drafted->bytes = bytes;
}

void drafted_add_file(struct slate_draft *draft, const struct slate_item *item,
                      const char *name)
{
    while (slate_draft_file(draft, item, name) != SLATE_OK)
        drafted_enlarge(draft);
}

void drafted_free(struct slate_draft *draft)
{
    folder_close(drafted_folder(draft));
    munmap(((struct drafted *)draft)->room, ((struct drafted *)draft)->bytes);
    free(draft);
}
