/* SPDX-License-Identifier: MIT */
/* Inside the bench: what a simulated device is made of. */
#ifndef PORT_SIM_SIM_H
#define PORT_SIM_SIM_H

#include <jansson.h>

#include "trueslate/port_sim.h"

/* What a description says. */
struct sim_description {
    char name[64];
    char story[256];
    char maker[9];    /* 8 characters, as INQUIRY has room for */
    char model[17];   /* 16 */
    char revision[5]; /* 4 */
    char serial[33];  /* "" for a device without one */
    uint64_t blocks;
    uint32_t block_bytes;
    uint64_t bytes_per_second; /* 0: as fast as the machine */
    bool removable;
    bool write_protected;
    json_t *content; /* array of patches, or NULL */
};

struct sim_sense {
    uint8_t key, asc, ascq;
};

struct slate_sim {
    struct sim_description about;
    struct slate_port port;
    int blocks;             /* descriptor of NAME.blocks */
    struct sim_sense sense; /* of the last command */
    bool attention;         /* a unit attention is waiting */
};

/* Reads and checks a description; why receives a sentence on failure. */
enum slate_status sim_describe(const char *path, struct sim_description *about,
                               char why[SLATE_SIM_WHY_ROOM]);
void sim_description_free(struct sim_description *about);

/* Writes the patches of a description into fresh blocks. */
enum slate_status sim_fill(const struct sim_description *about, int descriptor,
                           char why[SLATE_SIM_WHY_ROOM]);

/* The device's side of the SCSI command set. */
void sim_scsi(struct slate_sim *sim, struct slate_exchange *x);

/* "folder/name" + suffix; false when it does not fit. */
bool sim_path(char *path, size_t room, const char *folder, const char *name,
              const char *suffix);

#endif
