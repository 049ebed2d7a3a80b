/* SPDX-License-Identifier: MIT */
/* Raw commands that are carried while the next one is composed. */
#ifndef PORT_LINUX_ASIDE_H
#define PORT_LINUX_ASIDE_H

struct slate_linux;

/* Gives the device's operations submit and wait; they stay as they are where
 * that cannot be. Close it in any case. */
void linux_aside_open(struct slate_linux *device);
void linux_aside_close(struct slate_linux *device);

#endif
