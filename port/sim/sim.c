/* SPDX-License-Identifier: MIT */
/* Simulated devices as a port: open, exchange, close; and the moments at which
 * a device drops off the bus or loses its power. */

#include "../host.h"
#include "sim.h"

static enum slate_status sim_facts(void *context,
                                   struct slate_port_facts *facts)
{
    const struct slate_sim *sim = context;

    facts->identity.transport = sim->about.transport;
    facts->commands = sim->about.commands;
    facts->unit = sim->unit_number;
    facts->volatile_cache = true; /* the device tells the rest itself */
    facts->slider = sim_guarded(sim, SIM_GUARD_SLIDER);
    facts->read_only = facts->slider || sim_guarded(sim, SIM_GUARD_HOST);
    facts->in_use = sim_is_mounted(sim);
    return SLATE_OK;
}

/* The blocks that this unit has, or those of another device in their place. */
static struct sim_store *open_store(const struct slate_sim *sim,
                                    const char *name)
{
    return sim_store_open(
        sim->bench, name, sim->about.tracks.used ? 0 : sim->unit_number,
        sim_all_blocks(sim->unit) * sim_stride(sim->unit), false);
}

/* Is this the command at which the device goes? It loses its power once, and
 * drops off the bus each time. */
static bool goes_now(struct slate_sim *sim)
{
    const struct sim_description *about = &sim->about;

    if (about->drop_after != 0 && sim->commands > about->drop_after)
        return true;
    return about->power_cut_at != 0 && sim->commands == about->power_cut_at &&
           sim_lose_power(sim);
}

/* Was this the write in which it goes? */
static bool went_in_write(struct slate_sim *sim, uint64_t writes_before)
{
    return sim->writes != writes_before &&
           sim->writes == sim->about.power_cut_in && sim_lose_power(sim);
}

/* Somebody puts another medium into the reader; the state remembers it. */
static void swap_medium(struct slate_sim *sim)
{
    struct sim_store *other = open_store(sim, sim->about.swap_with);

    if (other == NULL)
        return;
    sim_store_close(sim->store);
    sim->store = other;
    sim->medium_changed = sim->about.swap_told;
    sim_set(sim, "swapped", 1);
}

/* A card has no cache: what it is programming is durable once it takes another
 * command. */
static bool is_card(const struct slate_sim *sim)
{
    return sim->about.commands == SLATE_COMMANDS_SD ||
           sim->about.commands == SLATE_COMMANDS_SD_SPI;
}

static enum slate_status sim_exchange(void *context, struct slate_exchange *x)
{
    struct slate_sim *sim = context;
    uint64_t writes = sim->writes;

    x->transferred = 0;
    x->answer_length = 0;
    sim->commands++;
    if (!sim->gone)
        sim->gone = goes_now(sim);
    if (sim->gone)
        return SLATE_ERR_NO_DEVICE;
    if (is_card(sim) && !sim_store_flush(sim->store))
        return SLATE_ERR_INTERNAL;
    if (sim->about.swap_at != 0 && sim->commands == sim->about.swap_at &&
        sim_get(sim, "swapped") == 0)
        swap_medium(sim);
    sim_mount_now(sim);
    switch (sim->about.commands) {
    case SLATE_COMMANDS_ATA:
        sim_ata(sim, x);
        break;
    case SLATE_COMMANDS_NVME:
        sim_nvme(sim, x);
        break;
    case SLATE_COMMANDS_SD:
    case SLATE_COMMANDS_SD_SPI:
        sim_sd(sim, x);
        break;
    case SLATE_COMMANDS_SCSI:
    case SLATE_COMMANDS_NONE:
    default:
        sim_scsi(sim, x);
        break;
    }
    sim->gone = sim->gone || went_in_write(sim, writes);
    return sim->gone ? SLATE_ERR_NO_DEVICE : SLATE_OK;
}

static enum slate_status sim_claim(void *context)
{
    struct slate_sim *sim = context;

    sim->claimed = !sim_is_mounted(sim) && sim_store_lock(sim->store, true);
    return sim->claimed ? SLATE_OK : SLATE_ERR_BUSY;
}

/* Of a drive with tracks, time is what its revolutions take. */
static uint64_t sim_milliseconds(void *context)
{
    const struct slate_sim *sim = context;

    return sim->about.tracks.used ? sim->time_us / 1000
                                  : port_milliseconds(NULL);
}

static enum slate_status sim_allow_writes(void *context)
{
    sim_guard_set(context, SIM_GUARD_HOST, false);
    return SLATE_OK;
}

static enum slate_status sim_release(void *context)
{
    struct slate_sim *sim = context;

    sim->claimed = false;
    return sim_store_lock(sim->store, false) ? SLATE_OK : SLATE_ERR_INTERNAL;
}

/* The device gets to it when it is waited for: what was changed meanwhile in
 * the data would show. */
static enum slate_status sim_submit(void *context,
                                    struct slate_request *request)
{
    (void)context;
    return request->exchange == NULL ? SLATE_ERR_COMMAND : SLATE_OK;
}

static enum slate_status sim_wait(void *context, struct slate_request *request)
{
    return sim_exchange(context, request->exchange);
}

/* It is not plugged in then, whatever the reason. */
static enum slate_status sim_leave(void *context, enum slate_leave how)
{
    struct slate_sim *sim = context;

    if (how == SLATE_LEAVE_POWER_OFF &&
        sim->about.transport != SLATE_TRANSPORT_USB)
        return SLATE_ERR_COMMAND;
    sim_set(sim, "unplugged", 1);
    return SLATE_OK;
}

static const struct slate_port_ops sim_ops = {
    .size = sizeof sim_ops,
    .facts = sim_facts,
    .exchange = sim_exchange,
    .claim = sim_claim,
    .release = sim_release,
    .milliseconds = sim_milliseconds,
    .random = port_random,
    .allow_writes = sim_allow_writes,
    .submit = sim_submit,
    .wait = sim_wait,
    .leave = sim_leave,
};

static enum slate_status say(char why[SLATE_SIM_WHY_ROOM], const char *words,
                             enum slate_status status)
{
    snprintf(why, SLATE_SIM_WHY_ROOM, "%s", words);
    return status;
}

/* "name" or "name/1"; receives the name alone. */
static bool split_unit(const char *given, char name[64], uint32_t *unit)
{
    const char *slash = strchr(given, '/');
    size_t length = slash == NULL ? strlen(given) : (size_t)(slash - given);

    *unit = 0;
    if (length == 0 || length >= 64)
        return false;
    memcpy(name, given, length);
    name[length] = '\0';
    if (slash == NULL)
        return true;
    *unit = (uint32_t)(slash[1] - '0');
    return *unit < SIM_UNITS && slash[2] == '\0';
}

static enum slate_status open_unit(struct slate_sim *sim,
                                   char why[SLATE_SIM_WHY_ROOM])
{
    bool swapped = sim_get(sim, "swapped") != 0;

    sim_shape_apply(sim);
    if (sim_erase_is_working(sim))
        sim_erase_set_steps(sim);
    if (sim->unit_number >= sim->about.units)
        return say(why, "it has no such unit", SLATE_ERR_NO_DEVICE);
    sim->unit = &sim->about.unit[sim->unit_number];
    sim->swp = sim_guarded(sim, SIM_GUARD_SOFTWARE);
    if (sim->about.torn_unreadable)
        sim->torn = sim_get(sim, "torn block");
    sim->store =
        open_store(sim, swapped ? sim->about.swap_with : sim->about.name);
    return sim->store == NULL
               ? say(why, "its blocks cannot be opened", SLATE_ERR_ACCESS)
               : SLATE_OK;
}

static enum slate_status open_parts(struct slate_sim *sim, const char *bench,
                                    const char *given,
                                    char why[SLATE_SIM_WHY_ROOM])
{
    char path[4096], state[4096], name[64];
    enum slate_status status;

    if (!split_unit(given, name, &sim->unit_number) ||
        !sim_path(path, sizeof path, bench, name, ".json") ||
        !sim_path(state, sizeof state, bench, name, ".state"))
        return say(why, "there is no such device", SLATE_ERR_NO_DEVICE);
    sim_state_open(&sim->state, state);
    snprintf(sim->bench, sizeof sim->bench, "%s", bench);
    status = sim_describe(path, &sim->about, why);
    if (status == SLATE_ERR_NO_DEVICE)
        return say(why, "there is no such device", status);
    if (status == SLATE_OK && strcmp(sim->about.name, name) != 0)
        return say(why, "\"name\" must be the name of the file",
                   SLATE_ERR_GEOMETRY);
    if (status == SLATE_OK && sim_get(sim, "unplugged") != 0)
        return say(why, "it is not plugged in", SLATE_ERR_NO_DEVICE);
    return status == SLATE_OK ? open_unit(sim, why) : status;
}

enum slate_status slate_sim_open(const char *bench, const char *name,
                                 struct slate_sim **sim,
                                 char why[SLATE_SIM_WHY_ROOM])
{
    struct slate_sim *made = calloc(1, sizeof *made);
    enum slate_status status;

    *sim = NULL;
    if (made == NULL)
        return SLATE_ERR_INTERNAL;
    made->port.ops = &sim_ops;
    made->port.context = made;
    status = open_parts(made, bench, name, why);
    if (status == SLATE_OK)
        *sim = made;
    else
        slate_sim_close(made);
    return status;
}

const struct slate_port *slate_sim_port(const struct slate_sim *sim)
{
    return &sim->port;
}

uint32_t slate_sim_units(const struct slate_sim *sim)
{
    return sim->about.units;
}

void slate_sim_close(struct slate_sim *sim)
{
    if (sim == NULL)
        return;
    sim_store_close(sim->store);
    sim_state_close(&sim->state);
    sim_description_free(&sim->about);
    free(sim->recent);
    free(sim);
}
