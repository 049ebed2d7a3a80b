/* SPDX-License-Identifier: MIT */
/* Inside the Linux port. */
#ifndef PORT_LINUX_LINUX_H
#define PORT_LINUX_LINUX_H

#include "trueslate/port_linux.h"

#define BOUNCE_BYTES 1048576u

struct slate_linux {
    struct slate_linux_about about;
    struct slate_port port;
    char node[64];
    int descriptor;
    uint32_t block_bytes;
    uint32_t physical_bytes;
    uint64_t blocks;
    enum slate_command_set commands;
    bool claimed;
    bool card;        /* an SD card, with its registers */
    bool app_command; /* the next SD command is an ACMD */
    uint16_t card_address;
    bool stopped; /* CMD12 has been sent behind the last transfer */
    uint8_t cid[16], csd[16];
    void *bounce; /* aligned, as direct transfers want it */
};

/* A device, a partition of it, or something stacked on either. */
struct linux_node {
    char folder[256];  /* below /sys */
    char what[64];     /* sdb1, dm-0 */
    char under[64];    /* what it is stacked on; "" for the device itself */
    char numbers[32];  /* major:minor */
    char mapping[128]; /* its name, where it is a mapping */
};

#define LINUX_NODES 64

/* Each stands behind those that it is stacked on. */
struct linux_nodes {
    uint32_t count;
    struct linux_node node[LINUX_NODES];
};

void linux_find_nodes(const char *name, struct linux_nodes *nodes);

#define LINUX_PLACE_ROOM 2048

/* Where a node is mounted: the index-th place, and whether the host has made
 * the file system read-only since (may be NULL); false when there are no
 * more. */
bool linux_find_mount(const struct linux_node *node, uint32_t index,
                      char place[LINUX_PLACE_ROOM], bool *given_up);
bool linux_is_system_place(const char *place);
bool linux_is_swap(const struct linux_node *node);

/* Fills in users and system from mounts, swap and what is stacked on it. */
void linux_find_users(struct slate_linux_about *about);

/* The registers of an SD card, as the host shows them; false for others. */
bool linux_read_card(struct slate_linux *device);

/* Does the reader tell of a locked slider? */
bool linux_has_slider(const char *name);

/* Carries one raw command over SG_IO or a pass-through. */
enum slate_status linux_exchange(void *context, struct slate_exchange *x);

/* The first line of a file below /sys, without its end; "" when not there. */
void linux_read_line(const char *path, char *line, size_t room);

#endif
