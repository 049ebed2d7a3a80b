/* SPDX-License-Identifier: MIT */
/* The room of a draft: one run of memory, in which each array has a head that
 * tells its length. The last one grows where it is; others move behind it, with
 * twice the room they had. */
#include "base/base.h"
#include "draft/make/make.h"
#include "volume/files/files.h"

#define ALIGNMENT 16u

struct head {
    uint64_t bytes;
    uint64_t unused;
};
_Static_assert(sizeof(struct head) == ALIGNMENT, "what follows is aligned");

static uint64_t rounded(uint64_t bytes)
{
    return (bytes + ALIGNMENT - 1) / ALIGNMENT * ALIGNMENT;
}

/* Arrays begin where anything may. */
static struct slate_room room_in(void *bytes, size_t length)
{
    size_t skip = (size_t)(-(uintptr_t)bytes % ALIGNMENT);
    return (struct slate_room){bytes, length, skip < length ? skip : length};
}

void slate_draft_place(struct slate_draft *draft, void *room, size_t bytes)
{
    memset(draft, 0, sizeof *draft);
    draft->room = room_in(room, bytes);
}

enum slate_status slate_draft_lacks(struct slate_draft *draft, const char *of,
                                    uint64_t needed)
{
    draft->shortage = (struct slate_shortage){of, needed, draft->room.bytes};
    return SLATE_ERR_ROOM;
}

/* What a caller has put in place of an array is as long as it is. */
static bool is_foreign(const struct slate_room *room, const uint8_t *array)
{
    return array != NULL &&
           (array < room->byte || array >= room->byte + room->bytes);
}

static uint64_t length_of(const uint8_t *array)
{
    struct head head;

    if (array == NULL)
        return 0;
    memcpy(&head, array - sizeof head, sizeof head);
    return head.bytes;
}

static void set_length(uint8_t *array, uint64_t bytes)
{
    const struct head head = {bytes, 0};

    memcpy(array - sizeof head, &head, sizeof head);
}

static bool is_last(const struct slate_room *room, const uint8_t *array)
{
    return array != NULL && array + length_of(array) == room->byte + room->used;
}

/* A new array at the end; NULL when there is no room. */
static uint8_t *put(struct slate_room *room, uint64_t bytes)
{
    uint8_t *array;

    if (room->bytes - room->used < sizeof(struct head) ||
        room->bytes - room->used - sizeof(struct head) < bytes)
        return NULL;
    array = room->byte + room->used + sizeof(struct head);
    set_length(array, bytes);
    room->used += sizeof(struct head) + (size_t)bytes;
    return array;
}

static uint8_t *grow(struct slate_room *room, uint8_t *array, uint64_t bytes)
{
    uint64_t had = length_of(array);
    uint8_t *grown;

    if (is_last(room, array)) {
        if (room->bytes - room->used < bytes - had)
            return NULL;
        room->used += (size_t)(bytes - had);
        set_length(array, bytes);
        grown = array;
    } else {
        grown = had > bytes / 2 ? put(room, 2 * had) : NULL;
        if (grown == NULL)
            grown = put(room, bytes);
        if (grown != NULL && had > 0)
            memcpy(grown, array, (size_t)had);
    }
    if (grown != NULL)
        memset(grown + had, 0, (size_t)(length_of(grown) - had));
    return grown;
}

enum slate_status slate_draft_grow(struct slate_draft *draft, const char *of,
                                   void *array, uint64_t count, size_t each)
{
    struct slate_room *room = &draft->room;
    uint8_t *held;

    memcpy(&held, array, sizeof held);
    if (count > (UINT64_MAX / 4) / each)
        return slate_draft_lacks(draft, of, UINT64_MAX);
    if (is_foreign(room, held) || count * each <= length_of(held))
        return SLATE_OK;
    held = grow(room, held, rounded(count * each));
    if (held == NULL)
        return slate_draft_lacks(draft, of,
                                 room->used + sizeof(struct head) + ALIGNMENT +
                                     rounded(count * each));
    memcpy(array, &held, sizeof held);
    return SLATE_OK;
}

/* So many elements it has, or as many as were told. */
static void set_elements(const struct slate_draft *draft, const void *array,
                         size_t each, uint32_t *elements)
{
    uint64_t count;

    if (is_foreign(&draft->room, array))
        return;
    count = length_of(array) / each;
    *elements = count < UINT32_MAX ? (uint32_t)count : UINT32_MAX;
}

enum slate_status slate_draft_grow_ranges(struct slate_draft *draft,
                                          const char *of,
                                          struct slate_ranges *ranges,
                                          uint64_t count)
{
    enum slate_status status = slate_draft_grow(draft, of, &ranges->range,
                                                count, sizeof *ranges->range);

    set_elements(draft, ranges->range, sizeof *ranges->range, &ranges->room);
    return status;
}

enum slate_status slate_draft_grow_bytes(struct slate_draft *draft,
                                         const char *of,
                                         struct slate_bytes *bytes,
                                         uint64_t count)
{
    enum slate_status status =
        slate_draft_grow(draft, of, &bytes->byte, count, 1);

    set_elements(draft, bytes->byte, 1, &bytes->room);
    return status;
}

enum slate_status slate_draft_grow_seen(struct slate_draft *draft,
                                        uint64_t count)
{
    struct slate_evidence *evidence = &draft->basis.evidence;
    enum slate_status status =
        slate_draft_grow(draft, "ranges that were looked at", &evidence->seen,
                         count, sizeof *evidence->seen);

    set_elements(draft, evidence->seen, sizeof *evidence->seen,
                 &evidence->room);
    return status;
}

enum slate_status slate_draft_grow_files(struct slate_draft *draft,
                                         uint64_t items, uint64_t names)
{
    struct slate_files *files = &draft->files;
    enum slate_status status = slate_draft_grow(draft, "files", &files->item,
                                                items, sizeof *files->item);

    SLATE_THEN(status, slate_draft_grow(draft, "files", &files->spot, items,
                                        sizeof *files->spot));
    SLATE_THEN(status,
               slate_draft_grow_bytes(draft, "names", &files->names, names));
    set_elements(draft, files->spot, sizeof *files->spot, &files->room);
    return status;
}

enum slate_status slate_draft_file(struct slate_draft *draft,
                                   const struct slate_item *item,
                                   const char *name)
{
    struct slate_files *files = &draft->files;
    enum slate_status status =
        slate_draft_grow_files(draft, (uint64_t)files->count + 1,
                               (uint64_t)files->names.count + strlen(name) + 1);

    return status == SLATE_OK ? slate_files_add(files, item, name) : status;
}

enum slate_status slate_draft_start(struct slate_draft *draft,
                                    const uint8_t *bytes, uint32_t count)
{
    SLATE_TRY(
        slate_draft_grow_bytes(draft, "start-up code", &draft->start, count));
    if (count > 0)
        memcpy(draft->start.byte, bytes, count);
    draft->start.count = count;
    return SLATE_OK;
}

enum slate_status slate_draft_move(struct slate_draft *draft, void *room,
                                   size_t bytes)
{
    void *const arrays[] = {&draft->part,
                            &draft->partition,
                            &draft->basis.old.range,
                            &draft->basis.evidence.seen,
                            &draft->basis.image.byte,
                            &draft->change.clear,
                            &draft->change.mend,
                            &draft->change.patch,
                            &draft->change.bytes.byte,
                            &draft->bad.range,
                            &draft->files.item,
                            &draft->files.spot,
                            &draft->files.names.byte,
                            &draft->start.byte};
    uint8_t *moved[sizeof arrays / sizeof arrays[0]];
    struct slate_room to = room_in(room, bytes);

    for (size_t i = 0; i < sizeof arrays / sizeof arrays[0]; i++) {
        uint8_t *from;

        memcpy(&from, arrays[i], sizeof from);
        moved[i] = from;
        if (from == NULL || is_foreign(&draft->room, from))
            continue;
        moved[i] = put(&to, length_of(from));
        if (moved[i] == NULL)
            return SLATE_ERR_ROOM;
        memcpy(moved[i], from, (size_t)length_of(from));
    }
    for (size_t i = 0; i < sizeof arrays / sizeof arrays[0]; i++)
        memcpy(arrays[i], &moved[i], sizeof moved[i]);
    draft->room = to;
    return SLATE_OK;
}
