/* SPDX-License-Identifier: MIT */
/* Simulated devices as a port: open, exchange, close. */
#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <unistd.h>

#include "../host.h"
#include "sim.h"

static enum slate_status sim_facts(void *context,
                                   struct slate_port_facts *facts)
{
    (void)context; /* the device tells the rest itself */
    facts->identity.transport = SLATE_TRANSPORT_USB;
    facts->commands = SLATE_COMMANDS_SCSI;
    facts->volatile_cache = true;
    return SLATE_OK;
}

static enum slate_status sim_exchange(void *context, struct slate_exchange *x)
{
    sim_scsi(context, x);
    return SLATE_OK;
}

static enum slate_status sim_claim(void *context)
{
    const struct slate_sim *sim = context;

    return flock(sim->blocks, LOCK_EX | LOCK_NB) == 0 ? SLATE_OK
                                                      : SLATE_ERR_BUSY;
}

static enum slate_status sim_release(void *context)
{
    const struct slate_sim *sim = context;

    return flock(sim->blocks, LOCK_UN) == 0 ? SLATE_OK : SLATE_ERR_INTERNAL;
}

static const struct slate_port_ops sim_ops = {
    .size = sizeof sim_ops,
    .facts = sim_facts,
    .exchange = sim_exchange,
    .claim = sim_claim,
    .release = sim_release,
    .milliseconds = port_milliseconds,
    .random = port_random,
};

bool sim_path(char *path, size_t room, const char *folder, const char *name,
              const char *suffix)
{
    int length = snprintf(path, room, "%s/%s%s", folder, name, suffix);

    return length > 0 && (size_t)length < room;
}

static enum slate_status open_blocks(struct slate_sim *sim, const char *bench,
                                     char why[SLATE_SIM_WHY_ROOM])
{
    char path[4096];

    if (!sim_path(path, sizeof path, bench, sim->about.name, ".blocks"))
        return SLATE_ERR_NO_DEVICE;
    sim->blocks = open(path, O_RDWR | O_CLOEXEC);
    if (sim->blocks >= 0)
        return SLATE_OK;
    snprintf(why, SLATE_SIM_WHY_ROOM, "its blocks: %s", strerror(errno));
    return errno == EACCES ? SLATE_ERR_ACCESS : SLATE_ERR_NO_DEVICE;
}

static enum slate_status open_parts(struct slate_sim *sim, const char *bench,
                                    const char *name,
                                    char why[SLATE_SIM_WHY_ROOM])
{
    char path[4096];
    enum slate_status status;

    snprintf(why, SLATE_SIM_WHY_ROOM, "there is no such device");
    if (strchr(name, '/') != NULL ||
        !sim_path(path, sizeof path, bench, name, ".json"))
        return SLATE_ERR_NO_DEVICE;
    status = sim_describe(path, &sim->about, why);
    if (status == SLATE_OK && strcmp(sim->about.name, name) != 0) {
        snprintf(why, SLATE_SIM_WHY_ROOM,
                 "\"name\" must be the name of the file");
        status = SLATE_ERR_GEOMETRY;
    }
    return status == SLATE_OK ? open_blocks(sim, bench, why) : status;
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
    made->blocks = -1;
    made->attention = true; /* as after every power-on */
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

const char *slate_sim_story(const struct slate_sim *sim)
{
    return sim->about.story;
}

void slate_sim_close(struct slate_sim *sim)
{
    if (sim == NULL)
        return;
    if (sim->blocks >= 0)
        close(sim->blocks);
    sim_description_free(&sim->about);
    free(sim);
}
