/* SPDX-License-Identifier: MIT */
/* Probes with their saved blocks in a file. */
#ifndef TOOL_PROBING_H
#define TOOL_PROBING_H

#include "base/options.h"
#include "base/state.h"
#include "device/target.h"

/* What became of the places that lie over all of the device. */
struct tried {
    uint32_t places;
    uint64_t lba[SLATE_PROBE_PLACES];
    enum slate_place place[SLATE_PROBE_PLACES];
};

struct probing {
    const struct options *options;
    struct target *target;
    struct slate_probe probe;
    uint8_t *work;              /* SLATE_PROBE_WORK bytes */
    char file[STATE_PATH_ROOM]; /* where the saved blocks are meanwhile */
    bool put_back;              /* one of those was restored first */
    bool quiet;                 /* somebody else shows the progress */
    uint32_t alone;     /* of them, those of another medium: left alone */
    struct tried tried; /* the first round: later ones lie between its places */
};

/* Each says on stderr what is wrong, and returns an exit code. */

/* Puts back what earlier probes of this device have left. */
int probing_put_all_back(struct probing *probing);

/* Starts a probe; ends it, also where something failed. */
int probing_begin(struct probing *probing);
int probing_end(struct probing *probing, int code);

/* All steps of one round, with its own file; Ctrl-C restores. */
int probing_run(struct probing *probing, const char *doing);

/* Blocks are not as they were. */
int probing_fail_lost(const struct probing *probing);

/* "blocks 2048, 4096 and 3 more" */
void probing_name_lost(const struct slate_probe *probe, char words[400]);

#endif
