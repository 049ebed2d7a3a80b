/* SPDX-License-Identifier: MIT */
/* What protects a simulated device: as its description says at first, as its
 * state says once a command has changed it. */

#include "sim.h"

/* in the order of enum sim_guard */
static const char *const names[] = {
    "software", "temporary", "permanent", "password",    "reserved",
    "locked",   "frozen",    "protected", "until-power", "for-ever",
    "worn-out", "host",      "slider"};

static void key_of(const struct slate_sim *sim, enum sim_guard guard,
                   char key[64])
{
    snprintf(key, 64, "unit %u guard %s", sim->unit_number, names[guard]);
}

bool sim_guard_named(const char *name, enum sim_guard *guard)
{
    *guard = (enum sim_guard)sim_place_of(name, names, SIM_GUARDS);
    return *guard != SIM_GUARDS;
}

/* State: 0 as described, 1 off, 2 on. */
bool sim_guarded(const struct slate_sim *sim, enum sim_guard guard)
{
    char key[64];
    uint64_t state;

    key_of(sim, guard, key);
    state = sim_get(sim, key);
    return state == 0 ? (sim->unit->guards >> guard & 1) != 0 : state == 2;
}

void sim_guard_set(struct slate_sim *sim, enum sim_guard guard, bool on)
{
    char key[64];

    if (sim->unit->stubborn)
        return; /* said to be done, and not done */
    key_of(sim, guard, key);
    sim_set(sim, key, on ? 2 : 1);
}

bool sim_is_protected(const struct slate_sim *sim, uint64_t lba, uint64_t count)
{
    static const enum sim_guard writes[] = {
        SIM_GUARD_TEMPORARY, SIM_GUARD_PERMANENT, SIM_GUARD_PASSWORD,
        SIM_GUARD_LOCKED,    SIM_GUARD_PROTECTED, SIM_GUARD_UNTIL_POWER,
        SIM_GUARD_FOR_EVER,  SIM_GUARD_WORN_OUT,  SIM_GUARD_SLIDER};

    if (sim->unit->write_protected || sim->swp ||
        sim_sd_is_grouped(sim, lba, count))
        return true;
    for (size_t i = 0; i < sizeof writes / sizeof writes[0]; i++) {
        if (sim_guarded(sim, writes[i]))
            return true;
    }
    return false;
}

static void password_key(uint32_t unit, char key[64])
{
    snprintf(key, 64, "unit %u password", unit);
}

void sim_password(const struct slate_sim *sim, char password[SIM_PASSWORD_ROOM])
{
    char key[64];

    password_key(sim->unit_number, key);
    snprintf(password, SIM_PASSWORD_ROOM, "%s", sim->unit->password);
    (void)sim_state_text(&sim->state, key, password, SIM_PASSWORD_ROOM);
}

void sim_password_set(struct slate_sim *sim, const char *password,
                      size_t length)
{
    char key[64];

    if (sim->unit->stubborn)
        return;
    password_key(sim->unit_number, key);
    sim_state_set_text(&sim->state, key, password, length);
}

/* What has a password is locked again; as described, while nobody has changed
 * that. */
static void lock_again(const struct sim_state *state, uint32_t unit)
{
    static const enum sim_guard locks[] = {SIM_GUARD_PASSWORD,
                                           SIM_GUARD_LOCKED};
    const struct slate_sim sim = {.unit_number = unit};
    char key[64], password[SIM_PASSWORD_ROOM] = "";
    bool changed;

    password_key(unit, key);
    changed = sim_state_text(state, key, password, sizeof password);
    for (size_t i = 0; i < 2; i++) {
        key_of(&sim, locks[i], key);
        if (sim_state_get(state, key) == 0)
            continue; /* as described, or of the other command set */
        sim_state_set(state, key, !changed ? 0 : password[0] == '\0' ? 1 : 2);
    }
}

/* A host freezes the security of its disks when it starts; a disk plugged in
 * later is not frozen. */
void sim_guards_power_cycle(const struct sim_state *state)
{
    static const enum sim_guard volatile_ones[] = {SIM_GUARD_FROZEN,
                                                   SIM_GUARD_UNTIL_POWER};

    for (uint32_t unit = 0; unit < SIM_UNITS; unit++) {
        const struct slate_sim sim = {.unit_number = unit};

        for (size_t i = 0; i < 2; i++) {
            char key[64];

            key_of(&sim, volatile_ones[i], key);
            sim_state_set(state, key, 1);
        }
        lock_again(state, unit);
    }
    sim_state_set(state, "volatile max", 0);
    sim_state_set(state, "wrong passwords", 0);
    sim_state_set(state, "overlay frozen", 0);
    sim_state_set(state, "max was set", 0);
}
