/* SPDX-License-Identifier: MIT */
/* Which blocks a probe tries, and how the work buffer is divided. */

#include "base/base.h"
#include "prove/probe.h"

#define MEBIBYTE 1048576u
#define CHUNK_BYTES 131072u
#define CHUNK_BLOCKS 256u
/* The run is as long as a step of the search, so that no alias of it is
 * missed; more steps than this are not made. */
#define SEARCH_STEPS 32768u
/* Every block that is tried is read or written eight times. */
#define TIMES 8ull
#define BUDGET_LEAST 32768u

_Static_assert(SLATE_PROBE_PLACES <= 64, "a bit of 64 for each place");
_Static_assert(CHUNK_BLOCKS <= 256,
               "a bit of 256 for each block that is unread");

static uint32_t block_bytes(const struct slate_probe *probe)
{
    return probe->media->geometry.block_bytes;
}

static void add_place(struct slate_probe *probe, uint64_t lba)
{
    bool in_run =
        lba >= probe->run_first && lba < probe->run_first + probe->run;

    if (in_run || (probe->places > 0 && lba <= probe->lba[probe->places - 1]))
        return;
    probe->lba[probe->places++] = lba;
}

/* Powers of two near the start, then evenly to the last block. */
static void choose_places(struct slate_probe *probe, uint32_t most)
{
    uint64_t blocks = probe->media->geometry.block_count;
    uint64_t mebibyte = MEBIBYTE / block_bytes(probe);
    uint32_t even = most - most / 2;

    for (uint32_t k = 0; k < most / 2; k++) {
        if (mebibyte << k < blocks / even)
            add_place(probe, mebibyte << k);
    }
    for (uint32_t i = 1; i <= even; i++) {
        uint64_t end = blocks / even * i + blocks % even * i / even;

        if (end > 0)
            add_place(probe, end - 1);
    }
}

uint64_t slate_probe_most(const struct slate_geometry *geometry)
{
    uint64_t share = geometry->block_count / 1000;

    return share > BUDGET_LEAST ? share : BUDGET_LEAST;
}

/* Divides the work buffer: a part for transfers, the rest for what is saved.
 */
static bool divide(struct slate_probe *probe, uint8_t *work, size_t work_bytes)
{
    uint64_t blocks = probe->media->geometry.block_count;
    uint64_t room = work_bytes / block_bytes(probe);
    uint64_t chunk = room / 8, most = CHUNK_BYTES / block_bytes(probe);
    uint64_t places, run, want = MEBIBYTE / block_bytes(probe);

    if (room < 8)
        return false;
    chunk = chunk > most ? most : chunk;
    chunk = chunk > CHUNK_BLOCKS ? CHUNK_BLOCKS : chunk;
    room -= chunk;
    places = room / 2 < SLATE_PROBE_PLACES ? room / 2 : SLATE_PROBE_PLACES;
    run = room - places;
    if (want < blocks / SEARCH_STEPS + 1)
        want = blocks / SEARCH_STEPS + 1;
    if (want > slate_probe_most(&probe->media->geometry) / (2 * TIMES))
        want = slate_probe_most(&probe->media->geometry) / (2 * TIMES);
    if (want > blocks / 4)
        want = blocks / 4;
    probe->run = (uint32_t)(run < want ? run : want);
    probe->run_first = blocks > 4 * (uint64_t)MEBIBYTE / block_bytes(probe)
                           ? MEBIBYTE / block_bytes(probe)
                           : 0;
    probe->chunk_blocks = (uint32_t)chunk;
    probe->room = (uint32_t)(run + places);
    probe->chunk = work;
    probe->kept = work + (size_t)chunk * block_bytes(probe);
    choose_places(probe, (uint32_t)places);
    return true;
}

/* A guard would look like a device that refuses writes. */
static enum slate_status refuse_protected(struct slate_media *media)
{
    struct slate_guard guard[SLATE_GUARDS_MAX];
    uint32_t count = 0;
    enum slate_status status = slate_guard_find(media, guard, &count);

    for (uint32_t i = 0; i < count && status == SLATE_OK; i++) {
        if (slate_guard_stops_writing(guard[i].kind))
            status = SLATE_ERR_PROTECTED;
    }
    return status == SLATE_OK && media->read_only ? SLATE_ERR_PROTECTED
                                                  : status;
}

/* Half of what a probe may take is for the search: what the places leave. */
static void plan_search(struct slate_probe *probe)
{
    const struct slate_geometry *geometry = &probe->media->geometry;
    uint64_t first = probe->run_first + probe->run;
    uint64_t blocks = geometry->block_count - first;
    uint64_t most = slate_probe_most(geometry) -
                    TIMES * ((uint64_t)probe->run + SLATE_PROBE_PLACES);
    uint64_t steps = blocks / probe->run + 1;

    most = most > SEARCH_STEPS ? SEARCH_STEPS : most;
    probe->search_at = first;
    probe->search_step = probe->run;
    if (steps > most) {
        steps = most;
        probe->search_step = blocks / steps + 1;
    }
    probe->total =
        probe->done + steps +
        7 * (uint64_t)(probe->run / probe->chunk_blocks + 1 + probe->places);
}

enum slate_status slate_probe_start(struct slate_probe *probe,
                                    struct slate_media *media,
                                    const struct slate_agreement *agreed,
                                    void *work, size_t work_bytes)
{
    const struct slate_policy strict = {.unread = NULL};
    uint64_t blocks = media->geometry.block_count;
    enum slate_status status;

    memset(probe, 0, sizeof *probe);
    probe->media = media;
    probe->pattern.range.count = blocks;
    probe->pattern.block_bytes = media->geometry.block_bytes;
    if (blocks < SLATE_PROBE_LEAST)
        return SLATE_ERR_TOO_SMALL;
    if (work == NULL || !divide(probe, work, work_bytes))
        return SLATE_ERR_BUFFER;
    SLATE_TRY(refuse_protected(media));
    /* zeros must not stand for what is saved */
    probe->before = slate_media_read_by(media, &strict);
    status = slate_media_random(media, probe->pattern.seed,
                                sizeof probe->pattern.seed);
    SLATE_THEN(status, slate_door_enter(media, agreed, work, work_bytes));
    plan_search(probe);
    return status;
}

uint64_t slate_probe_spot(const struct slate_probe *probe, uint32_t index)
{
    return index < probe->run ? probe->run_first + index
                              : probe->lba[index - probe->run];
}

size_t slate_probe_kept_bytes(const struct slate_probe *probe)
{
    return ((size_t)probe->run + probe->places) * block_bytes(probe);
}

enum slate_status slate_probe_set_places(struct slate_probe *probe,
                                         uint64_t run_first, uint32_t run,
                                         const uint64_t *lba, uint32_t places)
{
    uint64_t blocks = probe->media->geometry.block_count;

    if (places > SLATE_PROBE_PLACES || run == 0 || run > blocks ||
        run_first > blocks - run || (uint64_t)run + places > probe->room)
        return SLATE_ERR_RANGE;
    for (uint32_t i = 0; i < places; i++) {
        if (lba[i] >= blocks || (i > 0 && lba[i] <= lba[i - 1]) ||
            (lba[i] >= run_first && lba[i] - run_first < run))
            return SLATE_ERR_RANGE;
        probe->lba[i] = lba[i];
    }
    probe->run_first = run_first;
    probe->run = run;
    probe->places = places;
    return SLATE_OK;
}
