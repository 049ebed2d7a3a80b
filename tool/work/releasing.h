/* SPDX-License-Identifier: MIT */
/* Away from the host, and out of the machine. */
#ifndef TOOL_RELEASING_H
#define TOOL_RELEASING_H

#include "device/target.h"

/* Can what uses the device be released? Says on stderr what is in the way;
 * returns an exit code. */
int check_release(const struct target *target);

/* Takes away what the host has on the device, and tells of it; the device that
 * the running system stands on is refused. Returns an exit code. */
int release_users(struct target *target, bool quiet);

/* Makes it safe to unplug. Says on stderr what is in the way; returns an exit
 * code. */
int eject_target(struct target *target);

#endif
