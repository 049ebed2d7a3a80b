/* SPDX-License-Identifier: MIT */
/* Drives with tracks: where a block is, what is bad there, and how long the
 * head waits for it. A revolution is what everything takes its time from. */
#include <time.h>

#include "../host.h"
#include "sim.h"

#define SECTORS_MOST 256u
#define FLAGS_ROOM 65536u
#define KEY_FLAGS "flagged"
#define MINUTE_US 60000000u

/* Which slot each sector of a track has, in the order of their numbers; the
 * slots that are flagged are left out while there are spares for them. */
struct order {
    uint64_t slot[SECTORS_MOST];
    uint32_t count;
};

/* One line of text for each: a file of state is for people, too. */
static char *flags_of(const struct slate_sim *sim)
{
    char *flags = calloc(1, FLAGS_ROOM);

    if (flags != NULL)
        sim_state_text(&sim->state, KEY_FLAGS, flags, FLAGS_ROOM);
    return flags;
}

void sim_tracks_flag_none(const struct slate_sim *sim)
{
    sim_state_set_text(&sim->state, KEY_FLAGS, "", 0);
}

static int token_of(char token[64], uint64_t cylinder, uint64_t head,
                    uint64_t slot)
{
    return snprintf(token, 64, " %u/%u/%u;", (unsigned)cylinder, (unsigned)head,
                    (unsigned)slot);
}

bool sim_tracks_flag(const struct slate_sim *sim, uint64_t cylinder,
                     uint64_t head, uint64_t slot)
{
    char *flags = flags_of(sim), token[64];
    int length = token_of(token, cylinder, head, slot);
    size_t before = flags == NULL ? 0 : strlen(flags);
    bool ok = flags != NULL && before + (size_t)length < FLAGS_ROOM;

    if (ok && strstr(flags, token) == NULL) {
        memcpy(flags + before, token, (size_t)length);
        sim_state_set_text(&sim->state, KEY_FLAGS, flags,
                           before + (size_t)length);
    }
    free(flags);
    return ok;
}

bool sim_tracks_next(const struct slate_sim *sim, size_t *at, uint64_t place[3])
{
    char *flags = flags_of(sim);
    bool found = flags != NULL && *at < strlen(flags);

    for (int i = 0; i < 3 && found; i++) {
        char *end;

        place[i] = strtoul(flags + *at, &end, 10);
        *at = (size_t)(end - flags) + 1; /* behind what ends the number */
    }
    free(flags);
    return found;
}

static bool is_flagged(const char *flags, const uint64_t track[2],
                       uint64_t slot)
{
    char token[64];

    token_of(token, track[0], track[1], slot);
    return flags != NULL && strstr(flags, token) != NULL;
}

static void order_track(const struct sim_shape *shape, const uint64_t track[2],
                        const char *flags, struct order *order)
{
    uint64_t sectors = shape->field[SIM_SHAPE_SECTORS], at = 0, flagged = 0;
    uint64_t heads = shape->field[SIM_SHAPE_HEADS];
    uint64_t skew =
        track[1] * shape->field[SIM_SHAPE_TRACK_SKEW] +
        track[0] * ((heads - 1) * shape->field[SIM_SHAPE_TRACK_SKEW] +
                    shape->field[SIM_SHAPE_CYLINDER_SKEW]);
    bool taken[SECTORS_MOST] = {false};
    bool skips;

    for (uint64_t i = 0; i < sectors; i++)
        flagged += is_flagged(flags, track, i) ? 1 : 0;
    skips = flagged <= shape->field[SIM_SHAPE_SPARES];
    order->count = 0;
    for (uint64_t i = 0; i < sectors; i++) {
        while (taken[at])
            at = (at + 1) % sectors;
        taken[at] = true;
        if (!skips || !is_flagged(flags, track, (at + skew) % sectors))
            order->slot[order->count++] = (at + skew) % sectors;
        at = (at + shape->field[SIM_SHAPE_INTERLEAVE]) % sectors;
    }
}

uint64_t sim_tracks_ahead(const struct slate_sim *sim)
{
    return sim->about.tracks.used && sim->unit_number != 0
               ? sim->about.unit[0].blocks
               : 0;
}

static uint64_t sectors_of(const struct sim_shape *shape)
{
    return shape->field[SIM_SHAPE_SECTORS] - shape->field[SIM_SHAPE_SPARES];
}

void sim_tracks_place(const struct slate_sim *sim, uint64_t lba,
                      uint64_t place[3])
{
    struct sim_shape shape;
    struct order order;
    uint64_t track;
    char *flags = flags_of(sim);

    sim_shape_get(sim, false, &shape);
    lba += sim_tracks_ahead(sim);
    track = lba / sectors_of(&shape);
    place[0] = track / shape.field[SIM_SHAPE_HEADS];
    place[1] = track % shape.field[SIM_SHAPE_HEADS];
    order_track(&shape, place, flags, &order);
    place[2] = order.slot[lba % sectors_of(&shape)];
    free(flags);
}

/* A worn place weakens those beside it: they are read at the third try. */
static bool is_weak(const struct slate_sim *sim, uint32_t spot)
{
    char key[64];
    uint64_t tries;

    snprintf(key, sizeof key, "weak %u", spot);
    tries = sim_get(sim, key) + 1;
    sim_set(sim, key, tries);
    return tries % 3 != 0;
}

static bool is_bad(const struct slate_sim *sim, const uint64_t place[3],
                   uint64_t sectors, bool write)
{
    const struct sim_tracks *tracks = &sim->about.tracks;

    for (uint32_t i = 0; i < tracks->spot_count; i++) {
        const struct sim_spot *spot = &tracks->spot[i];
        uint64_t slot = (uint64_t)spot->byte * sectors / tracks->track_bytes;
        uint64_t apart = (place[2] + sectors - slot) % sectors;

        if (spot->cylinder != place[0] || spot->head != place[1] || write)
            continue;
        if (apart == 0 &&
            (spot->kind != SIM_SPOT_FADES || sim_get(sim, "formats") == 0))
            return true;
        if (spot->kind == SIM_SPOT_WORN &&
            (apart == 1 || apart == sectors - 1) && is_weak(sim, i))
            return true;
    }
    return false;
}

static enum sim_outcome try_track(struct slate_sim *sim, bool write,
                                  const struct sim_shape *shape, uint64_t lba,
                                  uint64_t count)
{
    uint64_t sectors = sectors_of(shape), first = lba + sim_tracks_ahead(sim);
    uint64_t heads = shape->field[SIM_SHAPE_HEADS];
    uint64_t place[3] = {first / sectors / heads, first / sectors % heads, 0};
    enum sim_outcome outcome = SIM_DONE;
    struct order order;
    char *flags = flags_of(sim);

    order_track(shape, place, flags, &order);
    for (uint64_t i = 0; i < count && outcome == SIM_DONE; i++) {
        place[2] = order.slot[(first + i) % sectors];
        if (is_bad(sim, place, shape->field[SIM_SHAPE_SECTORS], write) ||
            is_flagged(flags, place, place[2]))
            outcome = write ? SIM_WRITE_ERROR : SIM_READ_ERROR;
    }
    free(flags);
    return outcome;
}

/* Whether a drive with tracks finds these blocks; others always do. */
enum sim_outcome sim_tracks_try(struct slate_sim *sim, bool write, uint64_t lba,
                                uint64_t count)
{
    const struct sim_tracks *tracks = &sim->about.tracks;
    enum sim_outcome outcome = SIM_DONE;
    struct sim_shape shape;

    if (!tracks->used)
        return SIM_DONE;
    if (sim_get(sim, "formats") == 0 && tracks->unformatted)
        return SIM_NO_SECTORS;
    if (sim_get(sim, "formats") == 0 && tracks->other_controller)
        return SIM_OTHER_SECTORS;
    sim_shape_get(sim, false, &shape);
    while (count > 0 && outcome == SIM_DONE) {
        uint64_t sectors = sectors_of(&shape);
        uint64_t left = sectors - (lba + sim_tracks_ahead(sim)) % sectors;
        uint64_t n = count < left ? count : left;

        outcome = try_track(sim, write, &shape, lba, n);
        lba += n;
        count -= n;
    }
    return outcome;
}

static void pass(struct slate_sim *sim, uint64_t us)
{
    uint64_t ns = us * 1000 / sim->about.tracks.clock;
    struct timespec pause = {(time_t)(ns / 1000000000u),
                             (long)(ns % 1000000000u)};

    sim->time_us += us;
    if (ns > 0)
        nanosleep(&pause, NULL);
}

/* The head waits half a turn for the first sector. Each next one stands
 * interleave sectors on; where the controller is not ready by then, it comes
 * around a whole turn later. */
void sim_tracks_pass(struct slate_sim *sim, uint64_t lba, uint64_t count)
{
    const struct sim_tracks *tracks = &sim->about.tracks;
    struct sim_shape shape;
    uint64_t turn_us, sectors, each;

    (void)lba;
    if (!tracks->used)
        return;
    sim_shape_get(sim, false, &shape);
    sectors = shape.field[SIM_SHAPE_SECTORS];
    turn_us = MINUTE_US / tracks->revolutions;
    each = shape.field[SIM_SHAPE_INTERLEAVE];
    if (each < 1 + (uint64_t)tracks->rest)
        each += sectors;
    pass(sim, turn_us / 2 + turn_us * each * count / sectors);
}

/* Of a format, a cylinder with each question; more where the host has let time
 * go by since the last one. */
uint64_t sim_tracks_due(struct slate_sim *sim)
{
    const struct sim_tracks *tracks = &sim->about.tracks;
    uint64_t now = port_milliseconds(NULL), before = sim->asked_ms, due = 1;
    struct sim_shape shape;
    uint64_t cylinder_us;

    sim->asked_ms = now;
    if (!tracks->used)
        return 1;
    sim_shape_get(sim, true, &shape);
    cylinder_us = (uint64_t)tracks->minutes * MINUTE_US *
                  shape.field[SIM_SHAPE_HEADS] /
                  ((uint64_t)tracks->cylinders * tracks->heads);
    if (before != 0 && cylinder_us > 0)
        due = (now - before) * 1000 * tracks->clock / cylinder_us;
    due = due == 0 ? 1 : due;
    sim->time_us += due * cylinder_us;
    return due;
}
