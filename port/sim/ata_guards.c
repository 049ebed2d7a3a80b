/* SPDX-License-Identifier: MIT */
/* What hides or locks parts of a simulated ATA disk: host protected area
 * (ATA8-ACS, 7.32, 7.57), accessible max address (ACS-3, 7.1), device
 * configuration overlay (ATA8-ACS, 7.9), security (ACS-3, 7.41 to 7.46). */

#include "sim.h"

#define ABORTED SIM_ATA_ABORTED
#define NOT_FOUND 0x10
#define ATTEMPTS 5u

enum {
    READ_NATIVE_MAX_EXT = 0x27,
    SET_MAX_EXT = 0x37,
    ACCESSIBLE_MAX = 0x78,
    CONFIGURATION = 0xB1,
    SET_PASSWORD = 0xF1,
    UNLOCK = 0xF2,
    ERASE_PREPARE = 0xF3,
    ERASE_UNIT = 0xF4,
    FREEZE_LOCK = 0xF5,
    DISABLE_PASSWORD = 0xF6
};

enum {
    OVERLAY_RESTORE = 0xC0,
    OVERLAY_FREEZE = 0xC1,
    OVERLAY_IDENTIFY = 0xC2
};

static void set(const struct slate_sim *sim, const char *key, uint64_t value)
{
    if (!sim->unit->stubborn)
        sim_set(sim, key, value);
}

/* The most that may be shown: less than the factory made, while an overlay
 * says so. */
static uint64_t native(const struct slate_sim *sim)
{
    const struct sim_unit *unit = sim->unit;

    if (unit->factory_blocks != 0 && sim_get(sim, "overlay restored") != 0)
        return unit->factory_blocks;
    return unit->native_blocks != 0 ? unit->native_blocks : unit->blocks;
}

uint64_t sim_ata_blocks(const struct slate_sim *sim)
{
    uint64_t now = sim_get(sim, "volatile max");

    if (now == 0)
        now = sim_get(sim, "max");
    if (now != 0)
        return now;
    return sim_get(sim, "overlay restored") == 0 ? sim->unit->blocks
                                                 : native(sim);
}

static uint64_t word(const uint8_t *data, size_t number)
{
    return sim_le(data + 2 * number, 2);
}

static void put_word(uint8_t *data, size_t number, uint64_t bits)
{
    sim_put_le(data + 2 * number, 2, word(data, number) | bits);
}

/* Words 82, 89 and 128 (ACS-3, 7.12.7): supported, enabled, locked, frozen,
 * too many wrong passwords; the time of an erase in units of two minutes. */
static void put_security(const struct slate_sim *sim, uint8_t *data)
{
    bool locked = sim_guarded(sim, SIM_GUARD_LOCKED);
    bool frozen = sim_guarded(sim, SIM_GUARD_FROZEN);
    uint32_t minutes = sim->about.erasing.minutes;
    char password[SIM_PASSWORD_ROOM];

    sim_password(sim, password);
    if (sim->unit->password[0] == '\0' && password[0] == '\0' && !locked &&
        !frozen && !sim_erase_has(sim, SIM_ERASE_SECURITY))
        return;
    put_word(data, 82, 0x0002);
    put_word(data, 89, minutes > 0 ? minutes / 2 : 30);
    put_word(data, 90, minutes > 0 ? minutes / 2 : 30);
    put_word(data, 128,
             0x0001u | (password[0] != '\0' ? 2u : 0u) | (locked ? 4u : 0u) |
                 (frozen ? 8u : 0u) |
                 (sim_get(sim, "wrong passwords") >= ATTEMPTS ? 16u : 0u) |
                 (sim_erase_has(sim, SIM_ERASE_ENHANCED) ? 32u : 0u));
}

void sim_ata_put_guards(const struct slate_sim *sim, uint8_t data[512])
{
    const struct sim_unit *unit = sim->unit;

    if (unit->accessible_max)
        put_word(data, 119, 0x4100);
    else if (unit->native_blocks != 0)
        put_word(data, 82, 0x0400);
    if (unit->factory_blocks != 0) {
        put_word(data, 83, 0x0800);
        put_word(data, 86, 0x0800);
    }
    put_security(sim, data);
}

/* The address goes into the task file, in the place of the one sent. */
static int native_max(const struct slate_sim *sim, struct slate_exchange *x)
{
    if (sim->unit->native_blocks == 0)
        return ABORTED;
    sim_put_le(x->command + 4, 6, native(sim) - 1);
    return 0;
}

/* Right after READ NATIVE MAX ADDRESS EXT only; bit 0 of the count tells
 * whether it shall outlive a power cycle, which goes once per power-on. */
static int set_max(const struct slate_sim *sim, const struct slate_exchange *x)
{
    uint64_t blocks = sim_le(x->command + 4, 6) + 1;
    bool lasting = (x->command[2] & 1) != 0;

    if (sim->unit->native_blocks == 0 || blocks > native(sim) ||
        sim->last_operation != READ_NATIVE_MAX_EXT)
        return ABORTED;
    if (lasting && sim_get(sim, "max was set") != 0)
        return NOT_FOUND;
    set(sim, lasting ? "max" : "volatile max", blocks);
    if (lasting)
        set(sim, "max was set", 1);
    return 0;
}

/* Once per power-on, and it always lasts. */
static int accessible_max(const struct slate_sim *sim, struct slate_exchange *x)
{
    uint64_t blocks = sim_le(x->command + 4, 6) + 1;

    if (!sim->unit->accessible_max)
        return ABORTED;
    if (sim_le(x->command, 2) == 0)
        return native_max(sim, x);
    if (sim_le(x->command, 2) != 1 || blocks > native(sim) ||
        sim->unit->refuses_lifts || sim_get(sim, "max was set") != 0)
        return ABORTED;
    set(sim, "max", blocks);
    set(sim, "max was set", 1);
    return 0;
}

/* Words 3 to 6: the highest block that the factory made; byte 511 makes the
 * sum of all bytes zero. */
static int overlay_identify(const struct slate_sim *sim,
                            struct slate_exchange *x)
{
    uint8_t data[512] = {0};
    uint8_t sum = 0;

    put_word(data, 0, 2);
    sim_put_le(data + 6, 8, sim->unit->factory_blocks - 1);
    data[510] = 0xA5;
    for (size_t i = 0; i < 511; i++)
        sum = (uint8_t)(sum + data[i]);
    data[511] = (uint8_t)(0x100 - sum);
    sim_answer(x, data, sizeof data, sizeof data);
    return 0;
}

/* A host protected area has to be gone before the overlay can go. */
static int overlay(const struct slate_sim *sim, struct slate_exchange *x)
{
    if (sim->unit->factory_blocks == 0 || sim_get(sim, "overlay frozen") != 0)
        return ABORTED;
    switch (x->command[0]) {
    case OVERLAY_RESTORE:
        if (sim->unit->refuses_lifts || sim_ata_blocks(sim) != native(sim))
            return ABORTED;
        set(sim, "overlay restored", 1);
        set(sim, "max", 0);
        set(sim, "volatile max", 0);
        return 0;
    case OVERLAY_FREEZE:
        set(sim, "overlay frozen", 1);
        return 0;
    case OVERLAY_IDENTIFY:
        return overlay_identify(sim, x);
    default:
        return ABORTED;
    }
}

/* The password stands from word 1 on; a wrong one is counted. */
static bool is_right(const struct slate_sim *sim,
                     const struct slate_exchange *x)
{
    char password[SIM_PASSWORD_ROOM], padded[SIM_PASSWORD_ROOM] = {0};
    uint64_t wrong = sim_get(sim, "wrong passwords");

    sim_password(sim, password);
    memcpy(padded, password, strlen(password));
    if (memcmp((const char *)x->data + 2, padded, 32) == 0)
        return true;
    sim_set(sim, "wrong passwords", wrong + 1);
    return false;
}

static int unlock(struct slate_sim *sim, const struct slate_exchange *x)
{
    if (sim_get(sim, "wrong passwords") >= ATTEMPTS || !is_right(sim, x))
        return ABORTED;
    sim_guard_set(sim, SIM_GUARD_LOCKED, false);
    return 0;
}

static int disable_password(struct slate_sim *sim,
                            const struct slate_exchange *x)
{
    if (sim_guarded(sim, SIM_GUARD_LOCKED) || !is_right(sim, x))
        return ABORTED;
    sim_password_set(sim, "", 0);
    return 0;
}

/* Right after SECURITY ERASE PREPARE only; password and lock go with the
 * content. Bit 1 of the first word asks for the enhanced mode. */
static int erase_unit(struct slate_sim *sim, const struct slate_exchange *x)
{
    bool enhanced = (((const uint8_t *)x->data)[0] & 0x02) != 0;
    enum sim_erase_way way = enhanced ? SIM_ERASE_ENHANCED : SIM_ERASE_SECURITY;

    if (sim->last_operation != ERASE_PREPARE ||
        sim_get(sim, "wrong passwords") >= ATTEMPTS || !is_right(sim, x))
        return ABORTED;
    if (enhanced || sim_erase_has(sim, way)) {
        if (!sim_erase_at_once(sim, way) || sim->gone)
            return ABORTED;
        sim_guard_set(sim, SIM_GUARD_LOCKED, false);
        sim_password_set(sim, "", 0);
        return 0;
    }
    sim_guard_set(sim, SIM_GUARD_LOCKED, false);
    sim_password_set(sim, "", 0);
    return sim_clear(sim, 0, sim_ata_blocks(sim)) == SIM_DONE ? 0 : ABORTED;
}

static int set_password(struct slate_sim *sim, const struct slate_exchange *x)
{
    const char *sent = (const char *)x->data + 2;

    if (sim_guarded(sim, SIM_GUARD_LOCKED))
        return ABORTED;
    sim_password_set(sim, sent, strnlen(sent, 32));
    sim_guard_set(sim, SIM_GUARD_LOCKED, false); /* until the next power-on */
    return 0;
}

static bool has_password_block(const struct slate_exchange *x)
{
    return x->direction == SLATE_DIRECTION_OUT && x->data_length == 512;
}

/* While frozen, nothing of all this is taken (ACS-3, table 18). */
static int security(struct slate_sim *sim, struct slate_exchange *x)
{
    uint8_t operation = x->command[11];

    if (sim_guarded(sim, SIM_GUARD_FROZEN) && operation != FREEZE_LOCK)
        return ABORTED;
    if (operation == FREEZE_LOCK) {
        sim_guard_set(sim, SIM_GUARD_FROZEN, true);
        return 0;
    }
    if (operation == ERASE_PREPARE)
        return 0;
    if (!has_password_block(x) || sim->unit->refuses_lifts)
        return ABORTED;
    x->transferred = 512;
    switch (operation) {
    case SET_PASSWORD:
        return set_password(sim, x);
    case UNLOCK:
        return unlock(sim, x);
    case ERASE_UNIT:
        return erase_unit(sim, x);
    case DISABLE_PASSWORD:
    default:
        return disable_password(sim, x);
    }
}

int sim_ata_guard_command(struct slate_sim *sim, struct slate_exchange *x)
{
    switch (x->command[11]) {
    case READ_NATIVE_MAX_EXT:
        return sim->unit->accessible_max ? ABORTED : native_max(sim, x);
    case SET_MAX_EXT:
        return sim->unit->accessible_max || sim->unit->refuses_lifts
                   ? ABORTED
                   : set_max(sim, x);
    case ACCESSIBLE_MAX:
        return accessible_max(sim, x);
    case CONFIGURATION:
        return overlay(sim, x);
    case SET_PASSWORD:
    case UNLOCK:
    case ERASE_PREPARE:
    case ERASE_UNIT:
    case FREEZE_LOCK:
    case DISABLE_PASSWORD:
        return security(sim, x);
    default:
        return -1;
    }
}
