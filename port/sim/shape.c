/* SPDX-License-Identifier: MIT */
/* The shape of a simulated device: cylinders, heads, sectors and the size of
 * blocks, as a host has set them, and as the last format made them. */

#include "sim.h"

static const char *const names[] = {
    "cylinders",       "heads",           "sectors",       "spares",
    "interleave",      "track skew",      "cylinder skew", "precompensation",
    "reduced current", "correction span", "block bytes",   "first blocks"};

_Static_assert(sizeof names / sizeof names[0] == SIM_SHAPE_FIELDS,
               "a name for each");

/* Two logical drives share the tracks; namespaces have a shape each. */
static uint32_t owner_of(const struct slate_sim *sim)
{
    return sim->about.tracks.used ? 0 : sim->unit_number;
}

static void key_of(const struct slate_sim *sim, char key[64], bool set,
                   int field)
{
    snprintf(key, 64, "unit %u %s %s", owner_of(sim), set ? "set" : "formatted",
             names[field]);
}

static void reshaped_key(const struct slate_sim *sim, char key[64])
{
    snprintf(key, 64, "unit %u reshaped", owner_of(sim));
}

/* As delivered. */
static uint64_t usual(const struct slate_sim *sim, int field)
{
    const struct sim_tracks *tracks = &sim->about.tracks;

    switch (field) {
    case SIM_SHAPE_CYLINDERS:
    case SIM_SHAPE_PRECOMPENSATION:
    case SIM_SHAPE_CURRENT:
        return tracks->cylinders;
    case SIM_SHAPE_HEADS:
        return tracks->heads;
    case SIM_SHAPE_SECTORS:
        return tracks->sectors;
    case SIM_SHAPE_INTERLEAVE:
        return 1;
    case SIM_SHAPE_BLOCK_BYTES:
        return sim->about.unit[owner_of(sim)].block_bytes;
    default:
        return 0;
    }
}

/* The state has one more than the value: 0 is none. */
void sim_shape_get(const struct slate_sim *sim, bool set,
                   struct sim_shape *shape)
{
    for (int i = 0; i < SIM_SHAPE_FIELDS; i++) {
        char key[64];
        uint64_t value;

        key_of(sim, key, set, i);
        value = sim_get(sim, key);
        if (value == 0 && set) {
            key_of(sim, key, false, i);
            value = sim_get(sim, key);
        }
        shape->field[i] = value == 0 ? usual(sim, i) : value - 1;
    }
}

static void put(const struct slate_sim *sim, bool set,
                const struct sim_shape *shape)
{
    for (int i = 0; i < SIM_SHAPE_FIELDS; i++) {
        char key[64];

        key_of(sim, key, set, i);
        if (sim_get(sim, key) != shape->field[i] + 1)
            sim_set(sim, key, shape->field[i] + 1);
    }
}

void sim_shape_set(const struct slate_sim *sim, const struct sim_shape *shape)
{
    put(sim, true, shape);
}

bool sim_shape_takes(const struct slate_sim *sim, uint32_t block_bytes)
{
    if (sim->about.formats == 0)
        return block_bytes == sim->about.unit[owner_of(sim)].block_bytes;
    for (uint32_t i = 0; i < sim->about.formats; i++) {
        if (sim->about.format[i] == block_bytes)
            return true;
    }
    return false;
}

/* Are there such tracks? */
bool sim_shape_is_possible(const struct slate_sim *sim)
{
    const struct sim_tracks *tracks = &sim->about.tracks;
    struct sim_shape shape;

    sim_shape_get(sim, true, &shape);
    return !tracks->used ||
           (shape.field[SIM_SHAPE_CYLINDERS] <= tracks->cylinders &&
            shape.field[SIM_SHAPE_HEADS] <= tracks->heads &&
            shape.field[SIM_SHAPE_SECTORS] <= tracks->sectors);
}

static uint64_t blocks_of(const struct slate_sim *sim,
                          const struct sim_shape *shape)
{
    if (!sim->about.tracks.used)
        return sim->raw_bytes / shape->field[SIM_SHAPE_BLOCK_BYTES];
    return shape->field[SIM_SHAPE_CYLINDERS] * shape->field[SIM_SHAPE_HEADS] *
           (shape->field[SIM_SHAPE_SECTORS] - shape->field[SIM_SHAPE_SPARES]);
}

/* Only the first logical drive has been cut short by a host; the other one has
 * what that leaves. */
void sim_shape_apply(struct slate_sim *sim)
{
    struct sim_unit *unit = &sim->about.unit[owner_of(sim)];
    struct sim_shape shape;
    uint64_t blocks, first;
    char key[64];

    if (sim->raw_bytes == 0)
        sim->raw_bytes = unit->blocks * unit->block_bytes;
    reshaped_key(sim, key);
    if (sim_get(sim, key) == 0) {
        if (sim->about.tracks.used)
            sim->about.units = 1;
        return;
    }
    sim_shape_get(sim, false, &shape);
    sim->about.protection = false;
    blocks = blocks_of(sim, &shape);
    first = shape.field[SIM_SHAPE_FIRST_BLOCKS];
    unit[0].block_bytes = (uint32_t)shape.field[SIM_SHAPE_BLOCK_BYTES];
    unit[0].blocks = first != 0 && first < blocks ? first : blocks;
    if (!sim->about.tracks.used)
        return;
    sim->about.units = unit[0].blocks < blocks ? 2 : 1;
    unit[1] = unit[0];
    unit[1].blocks = blocks - unit[0].blocks;
    unit[1].content = NULL;
}

void sim_shape_format(struct slate_sim *sim)
{
    struct sim_shape shape;
    char key[64];

    sim_shape_get(sim, true, &shape);
    put(sim, false, &shape);
    reshaped_key(sim, key);
    sim_set(sim, key, 1);
    sim_shape_apply(sim);
}
