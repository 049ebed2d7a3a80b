/* SPDX-License-Identifier: MIT */
/* The blocks that a probe has saved, in a file until they are restored. */
#ifndef TOOL_KEPT_H
#define TOOL_KEPT_H

#include "target.h"

/* Where the file of a device is. Each returns an exit code. */
int kept_path(char *path, size_t room, const struct target *target);

/* Writes what is saved, and makes it durable. */
int kept_save(const char *path, const struct target *target,
              const struct slate_probe *probe);

/* Reads it back into a started probe of the same device. */
int kept_load(const char *path, const struct target *target,
              struct slate_probe *probe);

#endif
