/* SPDX-License-Identifier: MIT */
/* What is in a folder of the host, as items of a draft. */
#ifndef TOOL_FOLDER_LIST_H
#define TOOL_FOLDER_LIST_H

#include <limits.h>

#include <trueslate/trueslate.h>

struct target;

/* The host's path of an item; false when it is too long. */
bool folder_path(const char *folder, const struct slate_files *files,
                 uint32_t item, char path[PATH_MAX]);

/* Lists a folder into a draft, level by level; first: NULL, or names in it,
 * with commas between them, that come ahead of the others. Says on stderr what
 * is wrong; returns an exit code. */
int folder_list(const struct target *target, const char *folder,
                const char *first, struct slate_draft *draft);

#endif
