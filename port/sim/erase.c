/* SPDX-License-Identifier: MIT */
/* How a simulated device erases itself: in steps, one with each question that
 * it is asked; cut, reset, failing half-way, or only saying that it does. */
#include "sim.h"

#define KEY_WAY "erase way" /* 1 + the way, while it works */
#define KEY_LEFT "erase steps left"
#define KEY_FAILED "erase failed" /* 1 + the way */
#define KEY_DONE "erase done"

bool sim_erase_has(const struct slate_sim *sim, enum sim_erase_way way)
{
    return (sim->about.erasing.ways & 1u << way) != 0;
}

/* A drive with tracks is formatted cylinder by cylinder. */
void sim_erase_set_steps(struct slate_sim *sim)
{
    struct sim_shape shape;

    if (!sim->about.tracks.used)
        return;
    sim_shape_get(sim, true, &shape);
    sim->about.erasing.steps = (uint32_t)shape.field[SIM_SHAPE_CYLINDERS];
}

bool sim_erase_begin(struct slate_sim *sim, enum sim_erase_way way)
{
    if (!sim_erase_has(sim, way) ||
        sim->about.erasing.does == SIM_ERASE_REFUSES)
        return false;
    sim->asked_ms = 0;
    sim_set(sim, KEY_FAILED, 0);
    sim_set(sim, KEY_DONE, 0);
    sim_erase_set_steps(sim);
    sim_set(sim, KEY_LEFT, sim->about.erasing.steps);
    sim_set(sim, KEY_WAY, 1u + way);
    return true;
}

bool sim_erase_is_working(const struct slate_sim *sim)
{
    return sim_get(sim, KEY_WAY) != 0;
}

bool sim_erase_has_failed(const struct slate_sim *sim, enum sim_erase_way *way)
{
    uint64_t failed = sim_get(sim, KEY_FAILED);

    *way = failed == 0 ? SIM_ERASE_OVERWRITE : (enum sim_erase_way)(failed - 1);
    return failed != 0;
}

bool sim_erase_is_done(const struct slate_sim *sim)
{
    return sim_get(sim, KEY_DONE) != 0;
}

uint32_t sim_erase_progress(const struct slate_sim *sim)
{
    uint64_t steps = sim->about.erasing.steps, left = sim_get(sim, KEY_LEFT);

    return left >= steps ? 0 : (uint32_t)((steps - left) * 65535 / steps);
}

static enum sim_erase_way way_of(const struct slate_sim *sim)
{
    return (enum sim_erase_way)(sim_get(sim, KEY_WAY) - 1);
}

static bool is_crypto(enum sim_erase_way way)
{
    return way == SIM_ERASE_CRYPTO || way == SIM_ERASE_FORMAT_CRYPTO;
}

static void end(struct slate_sim *sim, bool failed)
{
    enum sim_erase_way way = way_of(sim);

    sim_set(sim, KEY_WAY, 0);
    sim_set(sim, KEY_LEFT, 0);
    sim_set(sim, failed ? KEY_FAILED : KEY_DONE, 1u + way);
    if (failed || way != SIM_ERASE_FORMAT ||
        sim->about.erasing.does == SIM_ERASE_NOTHING)
        return;
    sim_set(sim, "formats", sim_get(sim, "formats") + 1);
    sim_shape_format(sim);
}

/* One part of what there is, by its number. */
static bool erase_part(struct sim_store *store, uint64_t bytes, uint64_t part,
                       uint64_t parts, bool noise)
{
    uint64_t from = bytes / parts * part;
    uint64_t until = part + 1 == parts ? bytes : bytes / parts * (part + 1);

    return sim_store_erase(store, from, until - from, noise);
}

/* SANITIZE of an NVMe drive reaches all of its namespaces, and FORMAT NVM of
 * one that says so. */
static bool reaches_all(const struct slate_sim *sim, enum sim_erase_way way)
{
    bool format = way == SIM_ERASE_FORMAT || way == SIM_ERASE_FORMAT_CRYPTO;

    return sim->about.commands == SLATE_COMMANDS_NVME &&
           (!format || sim->about.erasing.formats_all);
}

static bool erase_units(const struct slate_sim *sim, uint64_t part)
{
    uint64_t parts = sim->about.erasing.steps;
    enum sim_erase_way way = way_of(sim);
    bool ok = true;

    if (sim->about.tracks.used)
        return erase_part(sim->store, sim->raw_bytes, part, parts, false);
    for (uint32_t i = 0; i < sim->about.units && ok; i++) {
        const struct sim_unit *unit = &sim->about.unit[i];
        uint64_t bytes = sim_all_blocks(unit) * sim_stride(unit);
        struct sim_store *store = sim->store;

        if (i != sim->unit_number && !reaches_all(sim, way))
            continue;
        if (i != sim->unit_number)
            store =
                sim_store_open(sim->bench, sim->about.name, i, bytes, false);
        ok = store != NULL &&
             erase_part(store, bytes, part, parts, is_crypto(way));
        if (i != sim->unit_number)
            sim_store_close(store);
    }
    return ok;
}

/* The power fails: sanitizing goes on when it is back, formatting does not,
 * and a disk that was being erased under a password is locked. */
static void cut(struct slate_sim *sim)
{
    enum sim_erase_way way = way_of(sim);

    sim->gone = true;
    if (way == SIM_ERASE_FORMAT && sim->about.commands == SLATE_COMMANDS_SCSI)
        end(sim, true);
    if (way == SIM_ERASE_SECURITY || way == SIM_ERASE_ENHANCED) {
        sim_set(sim, KEY_WAY, 0);
        sim_guard_set(sim, SIM_GUARD_LOCKED, true);
    }
}

static void step(struct slate_sim *sim)
{
    const struct sim_erasing *about = &sim->about.erasing;
    uint64_t left = sim_get(sim, KEY_LEFT), part = about->steps - left;

    if (!sim_erase_is_working(sim))
        return;
    if (about->cut_at != 0 && part + 1 == about->cut_at &&
        sim_lose_power(sim)) {
        cut(sim);
        return;
    }
    if (about->reset_at != 0 && part + 1 == about->reset_at)
        sim->about.attentions++;
    if (!sim_shape_is_possible(sim) ||
        (about->does == SIM_ERASE_FAILS && part >= about->steps / 2) ||
        (about->does != SIM_ERASE_NOTHING &&
         (about->does != SIM_ERASE_HALF || part < about->steps / 2) &&
         !erase_units(sim, part))) {
        end(sim, true);
        return;
    }
    sim_set(sim, KEY_LEFT, left - 1);
    if (left <= 1)
        end(sim, false);
}

void sim_erase_step(struct slate_sim *sim)
{
    uint64_t due = sim_erase_is_working(sim) ? sim_tracks_due(sim) : 0;

    for (; due > 0 && sim_erase_is_working(sim) && !sim->gone; due--)
        step(sim);
}

bool sim_erase_at_once(struct slate_sim *sim, enum sim_erase_way way)
{
    enum sim_erase_way failed;

    if (!sim_erase_begin(sim, way))
        return false;
    while (sim_erase_is_working(sim) && !sim->gone)
        sim_erase_step(sim);
    if (!sim_erase_has_failed(sim, &failed))
        return true;
    sim_set(sim, KEY_FAILED, 0); /* told by this command alone */
    return false;
}
