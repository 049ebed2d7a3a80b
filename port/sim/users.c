/* SPDX-License-Identifier: MIT */
/* The simulated host: what it has mounted of a device. */

#include "sim.h"

/* As the state remembers it. */
enum {
    BY_DESCRIPTION, /* mounted, unless that says from which command on */
    MOUNTED,
    RELEASED
};

bool sim_is_mounted(const struct slate_sim *sim)
{
    uint64_t kept = sim_get(sim, "mounted");

    return sim->about.mounted[0] != '\0' &&
           (kept == MOUNTED ||
            (kept == BY_DESCRIPTION && sim->about.mount_at == 0));
}

/* Hosts mount what comes, but not what somebody has for himself. */
void sim_mount_now(struct slate_sim *sim)
{
    if (sim->about.mounted[0] != '\0' && !sim->claimed &&
        sim->commands == sim->about.mount_at &&
        sim_get(sim, "mounted") == BY_DESCRIPTION)
        sim_set(sim, "mounted", MOUNTED);
}

void slate_sim_users(const struct slate_sim *sim,
                     char users[SLATE_SIM_WHY_ROOM])
{
    users[0] = '\0';
    if (sim_is_mounted(sim))
        snprintf(users, SLATE_SIM_WHY_ROOM, "%s is mounted at %s",
                 sim->about.name, sim->about.mounted);
}

enum slate_status slate_sim_may_free(const struct slate_sim *sim,
                                     char why[SLATE_SIM_WHY_ROOM])
{
    if (!sim_is_mounted(sim) || sim->about.held_by[0] == '\0')
        return SLATE_OK;
    snprintf(why, SLATE_SIM_WHY_ROOM, "%s cannot be released: %s works there",
             sim->about.mounted, sim->about.held_by);
    return SLATE_ERR_BUSY;
}

enum slate_status slate_sim_free(struct slate_sim *sim,
                                 void (*done)(void *context, const char *what),
                                 void *context, char why[SLATE_SIM_WHY_ROOM])
{
    enum slate_status status = slate_sim_may_free(sim, why);

    if (status != SLATE_OK || !sim_is_mounted(sim))
        return status;
    sim_set(sim, "mounted", RELEASED);
    snprintf(why, SLATE_SIM_WHY_ROOM, "%s at %s", sim->about.name,
             sim->about.mounted);
    if (done != NULL)
        done(context, why);
    why[0] = '\0';
    return SLATE_OK;
}
