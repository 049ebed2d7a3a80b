/* SPDX-License-Identifier: MIT */
/* Inside the Linux port. */
#ifndef PORT_LINUX_LINUX_H
#define PORT_LINUX_LINUX_H

#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "trueslate/port_linux.h"

#define BOUNCE_BYTES 2097152u
#define BOUNCE_ALIGNMENT 4096u

struct slate_linux {
    struct slate_linux_about about;
    struct slate_port port;
    struct slate_port_ops ops;
    void *ring;  /* transfers that overlap (ring.c); NULL: none do */
    void *aside; /* the same of raw commands (aside.c) */
    char node[64];
    int descriptor;
    uint32_t block_bytes;
    uint32_t physical_bytes;
    uint64_t blocks;
    uint64_t sequence; /* of the host, for this very device; 0: not told */
    enum slate_command_set commands;
    bool claimed;
    bool reshaped;    /* it was formatted: its blocks may be others */
    bool card;        /* an SD card, with its registers */
    bool app_command; /* the next SD command is an ACMD */
    uint16_t card_address;
    bool stopped; /* CMD12 has been sent behind the last transfer */
    uint8_t cid[16], csd[16];
    void *bounce; /* aligned, as direct transfers want it */
};

#define LINUX_FOLDER_ROOM 256
#define LINUX_NUMBERS_ROOM 32
#define LINUX_PLACE_ROOM 4096

/* A sentence on why; returns the status. */
enum slate_status linux_say(char why[SLATE_LINUX_WHY_ROOM],
                            enum slate_status status, const char *words);

/* Puts together a path below /sys, /proc or /dev (path.c). */
#if defined(__GNUC__)
__attribute__((format(printf, 3, 4)))
#endif
bool linux_path(char *path, size_t room, const char *format, ...);

/* "major:minor" of a block device's node; false for anything else. */
bool linux_block_numbers(const char *place, char numbers[LINUX_NUMBERS_ROOM]);

/* Are both paths names of one file? */
bool linux_same_file(const char *a, const char *b);

/* A device, a partition of it, or something stacked on either. */
struct linux_node {
    char folder[LINUX_FOLDER_ROOM]; /* below /sys; "" for an image file */
    char what[64];                  /* sdb1, dm-0 */
    char under[64]; /* what it is stacked on; "" for the device itself */
    char numbers[LINUX_NUMBERS_ROOM]; /* major:minor */
    char mapping[128];                /* its name, where it is a mapping */
};

/* A file system in its place. */
struct linux_mount {
    char numbers[LINUX_NUMBERS_ROOM];        /* no device's, for some kinds */
    char source_numbers[LINUX_NUMBERS_ROOM]; /* of the device it was named by */
    char *place, *kind, *source, *options;
    bool writable;
};

struct linux_mounts {
    uint32_t count, swaps;
    struct linux_mount *mount;
    char **swap; /* paths of devices and files */
};

/* Each stands behind those that it is stacked on. */
struct linux_nodes {
    uint32_t count;
    struct linux_node *node;
    struct linux_mounts mounts;
};

void linux_read_mounts(struct linux_mounts *mounts);
void linux_forget_mounts(struct linux_mounts *mounts);
bool linux_lies_below(const char *path, const char *place);
bool linux_has_given_up(const struct linux_mount *mount);

/* Is the node among the devices of a mount; or of the file system in which a
 * path lies; or is it what the path names? */
bool linux_mount_stands_on(const struct linux_mounts *mounts,
                           const struct linux_mount *mount,
                           const struct linux_node *node);
bool linux_path_stands_on(const struct linux_mounts *mounts, const char *path,
                          const struct linux_node *node);

/* All that stands on a device, or on an image file; forget them afterwards. */
void linux_find_nodes(const char *name, struct linux_nodes *nodes);
void linux_find_file_nodes(const char *path, struct linux_nodes *nodes);
void linux_forget_nodes(struct linux_nodes *nodes);

/* Is it something stacked, and no partition of such? What is it called? */
bool linux_is_stack(const struct linux_nodes *nodes,
                    const struct linux_node *node);
const char *linux_name_of(const struct linux_node *node);
/* Is the node a partition of the one that it stands on? */
bool linux_is_part(const struct linux_nodes *nodes,
                   const struct linux_node *node);

bool linux_is_system_place(const char *place);

struct linux_users {
    char lines[SLATE_LINUX_USERS_ROOM]; /* one a line */
    bool system, full;
};

/* Who uses it: mounts, swap and stacks. */
void linux_find_users(const struct linux_nodes *nodes,
                      struct linux_users *users);

/* The registers of an SD card, as the host shows them; false for others. */
bool linux_read_card(struct slate_linux *device);

/* Does the reader tell of a locked slider? */
bool linux_has_slider(const char *name);

/* What the host moves without its cache has to be aligned. */
static inline bool linux_is_aligned(const void *data)
{
    return (uintptr_t)data % BOUNCE_ALIGNMENT == 0;
}

/* Carries one raw command over SG_IO or a pass-through. */
enum slate_status linux_exchange(void *context, struct slate_exchange *x);

/* Takes the device away from the host (leave.c). */
enum slate_status linux_leave(void *context, enum slate_leave how);

/* The host asks a SCSI device for its size once more (leave.c). */
void linux_look_anew(const char *name);

/* The first line of a file below /sys, without its end; "" when not there. */
void linux_read_line(const char *path, char *line, size_t room);

/* Overlapping transfers, where the host has them, of blocks (ring.c) or of raw
 * commands (aside.c): opening gives the device's operations submit and wait;
 * they stay as they are where that cannot be. Close in any case. */
void linux_ring_open(struct slate_linux *device);
void linux_ring_close(struct slate_linux *device);
void linux_aside_open(struct slate_linux *device);
void linux_aside_close(struct slate_linux *device);

#endif
