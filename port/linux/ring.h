/* SPDX-License-Identifier: MIT */
/* Overlapping transfers of blocks, where the host has them. */
#ifndef PORT_LINUX_RING_H
#define PORT_LINUX_RING_H

struct slate_linux;

/* Gives the device's operations submit and wait; they stay as they are where
 * that cannot be. Close it in any case. */
void linux_ring_open(struct slate_linux *device);
void linux_ring_close(struct slate_linux *device);

#endif
