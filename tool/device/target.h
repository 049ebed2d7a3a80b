/* SPDX-License-Identifier: MIT */
/* The device that a command names, opened. */
#ifndef TOOL_TARGET_H
#define TOOL_TARGET_H

#include <trueslate/port_file.h>
#include <trueslate/port_linux.h>
#include <trueslate/port_sim.h>
#include <trueslate/trueslate.h>

/* Where sim:NAME is looked for when no bench is named. */
#define DEFAULT_BENCH "bench"

/* One work buffer serves all that a command does with its device. */
#define WORK_BYTES 4194304u

#define TARGET_NAME_ROOM 17000

/* Partitions that are listed; of more their number is told. */
#define TARGET_PARTITIONS 1024u

/* What long work has met: while it wrote, and while it read. */
enum target_regions {
    TARGET_WRITTEN,
    TARGET_READ
};

struct target_room {
    struct slate_partition partition[TARGET_PARTITIONS];
    struct slate_volume volume[TARGET_PARTITIONS];
    struct slate_seen seen[SLATE_EVIDENCE_RANGES];
};

struct target {
    char address[4200]; /* "sim:NAME", "file:PATH" or "dev:NAME" */
    struct slate_sim *sim;
    struct slate_linux *host;
    struct slate_file file;
    bool is_file;
    struct slate_media media;
    struct slate_facts facts; /* after target_look and its like */
    struct target_room *room; /* to which the facts refer */
    struct slate_finding finding[SLATE_FINDINGS_MAX]; /* drawn from them */
    uint32_t findings;
    bool known;      /* the facts are there (attached_open) */
    bool takes_rest; /* a partition fits beside all (offers_look) */
    uint8_t *work;
    struct slate_surface regions[2]; /* by enum target_regions */
    enum slate_status status; /* why it cannot be used; SLATE_OK: it can */
    char why[512];            /* one sentence on that */
    char body[256];           /* the same for all units of one body */
    char
        users[SLATE_LINUX_USERS_ROOM]; /* who uses it, one a line; "": nobody */
    bool system;                       /* the running system stands on it */
    const char *bench; /* where its kind is looked for; NULL: the host */
    char name[TARGET_NAME_ROOM]; /* what names it in a command line, quoted */
    const char *also; /* what that command line needs as well: " --bench ..." */
};

/* Opens sim:NAME, file:PATH or dev:NAME. Says nothing: status and why tell.
 * Close the target either way. */
enum slate_status target_at(struct target *target, const char *address,
                            const char *bench, uint32_t block_bytes);

/* The same, also by a tag. */
enum slate_status target_try(struct target *target, const char *word,
                             const char *bench, uint32_t block_bytes);

/* The same, saying on stderr what is wrong. Returns an exit code. */
int target_open(struct target *target, const char *word, const char *bench,
                uint32_t block_bytes);

/* Is another attached device not to be told apart from this one? Says so on
 * stderr; returns an exit code. */
int target_refuse_twins(const struct target *target);

/* Notes why it cannot be used, by what went wrong with a command. Returns the
 * status. */
enum slate_status target_note_fault(struct target *target,
                                    enum slate_status status);

/* Lets go of the device, keeping what was found out. */
void target_release(struct target *target);

void target_close(struct target *target);

#endif
