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

/* Fills in users and system from mounts, swap and what is stacked on it. */
void linux_find_users(struct slate_linux_about *about);

/* The registers of an SD card, as the host shows them; false for others. */
bool linux_read_card(struct slate_linux *device);

/* Carries one raw command over SG_IO or a pass-through. */
enum slate_status linux_exchange(void *context, struct slate_exchange *x);

/* The first line of a file below /sys, without its end; "" when not there. */
void linux_read_line(const char *path, char *line, size_t room);

#endif
