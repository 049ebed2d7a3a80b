/* SPDX-License-Identifier: MIT */
/* Looking for volumes that no partition holds, place by place. */
#include "base/base.h"
#include "trueslate/search.h"

#include "table/table.h"
#include "volume/common/common.h"

#define PLACES_A_STEP 16u
#define DENSE_BYTES 1048576u /* looked at block by block */
#define OLD_HEADS 16u        /* of disks up to 1024 cylinders of these */

/* The partition that holds a block, containers apart; NULL: none does. */
static const struct slate_partition *holder(const struct slate_facts *facts,
                                            uint64_t lba)
{
    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role != SLATE_ROLE_EXTENDED && lba >= one->first &&
            lba - one->first < one->count)
            return one;
    }
    return NULL;
}

/* Where the run of blocks ends that no partition holds. */
static uint64_t end_of_gap(const struct slate_facts *facts, uint64_t lba)
{
    uint64_t end = facts->geometry.block_count;

    for (uint32_t i = 0; i < facts->layout.count; i++) {
        const struct slate_partition *one = &facts->partition[i];

        if (one->role != SLATE_ROLE_EXTENDED && one->first > lba &&
            one->first < end)
            end = one->first;
    }
    return end;
}

/* Without its size nobody can say where its partition would end. */
static bool counts(const struct slate_volume *volume)
{
    return slate_kind_of(volume->kind)->sought && volume->bytes > 0;
}

static enum slate_status weigh(struct slate_reader *reader, uint64_t end,
                               struct slate_lost *lost)
{
    struct slate_volume *volume = &lost->volume;
    uint32_t block = reader->media->geometry.block_bytes;
    enum slate_here here = slate_volume_place(reader, volume);
    enum slate_status status;

    if (here == SLATE_HERE_COPY)
        return SLATE_ERR_FORMAT;
    status = slate_volume_read(reader->media, &reader->range, SLATE_DEPTH_FULL,
                               reader->work, volume);
    SLATE_TRY(status);
    if (!counts(volume))
        return SLATE_ERR_FORMAT;
    lost->first = reader->range.first;
    lost->count = volume->bytes / block + (volume->bytes % block != 0);
    if (here == SLATE_HERE_TOLD)
        lost->evidence |= SLATE_LOST_PLACE;
    if (volume->copy == SLATE_COPY_EQUAL)
        lost->evidence |= SLATE_LOST_COPY;
    if (slate_volume_leads_on(reader, volume))
        lost->evidence |= SLATE_LOST_CONTENT;
    else if (slate_volume_has_ground(volume->kind))
        lost->evidence |= SLATE_LOST_HOLLOW;
    if (lost->count > end - lost->first)
        lost->evidence |= SLATE_LOST_TAKEN;
    if ((lost->evidence & SLATE_LOST_HOLLOW) != 0 &&
        (lost->evidence & SLATE_LOST_COPY) == 0)
        return SLATE_ERR_FORMAT;
    return reader->status;
}

enum slate_status slate_lost_read(struct slate_media *media,
                                  const struct slate_facts *facts, uint64_t lba,
                                  void *work, struct slate_lost *lost)
{
    struct slate_reader reader = {
        .media = media,
        .range = {lba, facts->geometry.block_count - lba},
        .work = work};

    memset(lost, 0, sizeof *lost);
    if (lba >= facts->geometry.block_count || holder(facts, lba) != NULL)
        return SLATE_ERR_ARGUMENT;
    if (!slate_volume_begins(&reader, &lost->volume) || !counts(&lost->volume))
        return reader.status == SLATE_OK ? SLATE_ERR_FORMAT : reader.status;
    return weigh(&reader, end_of_gap(facts, lba), lost);
}

static uint64_t up_to(uint64_t lba, uint64_t unit, uint64_t ahead)
{
    uint64_t times = lba <= ahead ? 0 : (lba - ahead + unit - 1) / unit;

    return times > (UINT64_MAX - ahead) / unit ? UINT64_MAX
                                               : times * unit + ahead;
}

static void take_lower(uint64_t *lowest, uint64_t lba)
{
    if (lba < *lowest)
        *lowest = lba;
}

/* The first place from a block on; behind the device when there is none. */
static uint64_t next_place(const struct slate_search *search, uint64_t from)
{
    const struct slate_geometry *geometry = &search->facts->geometry;
    uint64_t cylinder = (uint64_t)SLATE_CHS_HEADS * SLATE_CHS_SECTORS;
    uint64_t small = (uint64_t)OLD_HEADS * SLATE_CHS_SECTORS;
    uint64_t lowest = up_to(from, search->every, 0);

    if (from < DENSE_BYTES / geometry->block_bytes)
        return from;
    if (geometry->block_bytes != 512)
        return lowest;
    take_lower(&lowest, up_to(from, cylinder, 0));
    take_lower(&lowest, up_to(from, cylinder, SLATE_CHS_SECTORS));
    if (geometry->block_count > small * SLATE_CHS_CYLINDERS)
        return lowest;
    take_lower(&lowest, up_to(from, small, 0));
    take_lower(&lowest, up_to(from, small, SLATE_CHS_SECTORS));
    return lowest;
}

/* The same, in no partition. */
static void move_on(struct slate_search *search, uint64_t from)
{
    const struct slate_facts *facts = search->facts;
    uint64_t blocks = facts->geometry.block_count;
    const struct slate_partition *in;

    for (uint32_t i = 0; i <= facts->layout.count; i++) {
        search->at = next_place(search, from);
        if (search->at >= blocks)
            break;
        in = holder(facts, search->at);
        if (in == NULL)
            return;
        from = in->first + in->count;
    }
    search->at = blocks;
    search->finished = true;
}

/* Places of a run of blocks, near enough to tell how long it takes. */
static uint64_t estimate(const struct slate_search *search, uint64_t first,
                         uint64_t end)
{
    const struct slate_geometry *geometry = &search->facts->geometry;
    uint64_t cylinder = (uint64_t)SLATE_CHS_HEADS * SLATE_CHS_SECTORS;
    uint64_t small = (uint64_t)OLD_HEADS * SLATE_CHS_SECTORS;
    uint64_t dense = DENSE_BYTES / geometry->block_bytes, places = 0;

    if (first < dense) {
        places = (end < dense ? end : dense) - first;
        first += places;
    }
    places += (end - first) / search->every;
    if (geometry->block_bytes == 512)
        places += (end - first) / cylinder * 2;
    if (geometry->block_bytes == 512 &&
        geometry->block_count <= small * SLATE_CHS_CYLINDERS)
        places += (end - first) / small * 2;
    return places;
}

/* From a block on, gap by gap. */
static uint64_t estimate_all(const struct slate_search *search, uint64_t from)
{
    const struct slate_facts *facts = search->facts;
    uint64_t places = 0, blocks = facts->geometry.block_count;

    for (uint32_t i = 0; i <= 2 * facts->layout.count + 1 && from < blocks;
         i++) {
        const struct slate_partition *in = holder(facts, from);
        uint64_t end =
            in == NULL ? end_of_gap(facts, from) : in->first + in->count;

        if (in == NULL)
            places += estimate(search, from, end);
        from = end;
    }
    return places;
}

enum slate_status slate_search_start(struct slate_search *search,
                                     struct slate_media *media,
                                     const struct slate_facts *facts,
                                     uint64_t every, uint64_t from,
                                     struct slate_lost *lost, uint32_t room,
                                     void *work)
{
    uint32_t block = facts->geometry.block_bytes;

    if (every == 0)
        every = DENSE_BYTES;
    if (every < block || facts->layout.found > facts->layout.count)
        return SLATE_ERR_ARGUMENT;
    if (work == NULL || (lost == NULL && room > 0))
        return SLATE_ERR_BUFFER;
    memset(search, 0, sizeof *search);
    search->media = media;
    search->facts = facts;
    search->work = work;
    search->lost = lost;
    search->room = room;
    search->every = every / block;
    if (slate_volume_is_known(facts->whole.kind) || facts->marked)
        from = facts->geometry.block_count; /* all of it belongs to that */
    if (from > 0 && from < facts->geometry.block_count &&
        holder(facts, from) == NULL)
        search->at = from; /* it is named */
    else
        move_on(search, from);
    search->total = estimate_all(search, search->at);
    return SLATE_OK;
}

static bool shares(const struct slate_lost *a, const struct slate_lost *b)
{
    return a->first < b->first + b->count && b->first < a->first + a->count;
}

static void keep(struct slate_search *search, struct slate_lost *lost)
{
    for (uint32_t i = 0; i < search->count; i++) {
        struct slate_lost *other = &search->lost[i];

        if (!shares(lost, other))
            continue;
        lost->evidence |= SLATE_LOST_OVERLAP;
        other->evidence |= SLATE_LOST_OVERLAP;
    }
    search->found++;
    if (search->count < search->room)
        search->lost[search->count++] = *lost;
}

static enum slate_status look(struct slate_search *search)
{
    struct slate_fault before = search->media->fault;
    struct slate_lost lost;
    enum slate_status status = slate_lost_read(search->media, search->facts,
                                               search->at, search->work, &lost);

    search->places++;
    if (status == SLATE_OK)
        keep(search, &lost);
    if (status == SLATE_ERR_READ) {
        search->media->fault = before;
        search->unread++;
    }
    /* a medium that is gone, or another one, tells nothing of places */
    return status == SLATE_ERR_READ || status == SLATE_ERR_FORMAT ? SLATE_OK
                                                                  : status;
}

enum slate_status slate_search_step(struct slate_search *search)
{
    for (uint32_t i = 0;
         i < PLACES_A_STEP && !search->finished && search->status == SLATE_OK;
         i++) {
        search->status = look(search);
        if (search->status == SLATE_OK)
            move_on(search, search->at + 1);
    }
    return search->status;
}

static const struct {
    uint32_t bit;
    const char *name, *words;
} rows[] = {{SLATE_LOST_PLACE, "place", "its first block names this place"},
            {SLATE_LOST_COPY, "copy", "its own copy of that agrees"},
            {SLATE_LOST_CONTENT, "content", "what it leads to is there"},
            {SLATE_LOST_OVERLAP, "overlap",
             "another one that was found shares blocks with it"},
            {SLATE_LOST_TAKEN, "taken",
             "it says to reach into a partition, or beyond the device"},
            {SLATE_LOST_HOLLOW, "hollow", "what it leads to is not there"}};
#define ROWS (sizeof rows / sizeof rows[0])

void slate_lost_words(const struct slate_lost *lost, struct slate_text *text)
{
    bool any = false;

    for (size_t i = 0; i < ROWS; i++) {
        if ((lost->evidence & rows[i].bit) == 0)
            continue;
        SLATE_SAY(text, "{}{}", AS_TEXT(any ? "; " : ""),
                  AS_TEXT(rows[i].words));
        any = true;
    }
    if (!any)
        slate_text_add(text, "its first block alone says so");
}

const char *slate_lost_name(uint32_t bit)
{
    for (size_t i = 0; i < ROWS; i++) {
        if (rows[i].bit == bit)
            return rows[i].name;
    }
    return "";
}
