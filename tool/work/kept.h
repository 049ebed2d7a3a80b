/* SPDX-License-Identifier: MIT */
/* The blocks that a probe has saved, in a file until they are restored. */
#ifndef TOOL_KEPT_H
#define TOOL_KEPT_H

#include "base/state.h"
#include "device/target.h"

/* The files of one device: of probes that did not come to their end, perhaps
 * with another medium in the same reader. Each returns an exit code. */
int kept_list(struct state_files *list, const struct target *target);

/* Where the file of a started probe is. */
int kept_path(char path[STATE_PATH_ROOM], const struct target *target,
              const struct slate_probe *probe);

/* Writes what is saved, and makes it durable. */
int kept_save(const char *path, const struct target *target,
              const struct slate_probe *probe);

/* Reads it back into a started probe of the same device. */
int kept_load(const char *path, const struct target *target,
              struct slate_probe *probe);

#endif
