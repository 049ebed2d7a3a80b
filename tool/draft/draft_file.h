/* SPDX-License-Identifier: MIT */
/* Drafts as files, read back: docs/formats.md tells the shape. */
#ifndef TOOL_DRAFT_FILE_H
#define TOOL_DRAFT_FILE_H

#include <trueslate/trueslate.h>

#include "device/target.h"

/* The address of a device, as it was given. */
#define ADDRESS_ROOM 4200

#define DRAFT_SHAPE "trueslate.draft/13"

/* Reads a file into a placed draft, which is made; refuses what was edited or
 * damaged. Says nothing. */
enum slate_status draft_file_read(const char *path, struct slate_draft *draft,
                                  char address[ADDRESS_ROOM]);

/* The same, saying on stderr what is wrong. Returns an exit code. */
int draft_file_load(const char *path, struct slate_draft *draft,
                    char address[ADDRESS_ROOM]);

/* Is the file an earlier draft of the same device, and not the one whose work
 * on it is unfinished? */
bool draft_file_is_ours(const char *path, const struct target *target);

#endif
