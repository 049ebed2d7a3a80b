/* SPDX-License-Identifier: MIT */
/* Drafts as files: docs/formats.md tells the shape. */
#ifndef TOOL_DRAFT_FILE_H
#define TOOL_DRAFT_FILE_H

#include <jansson.h>
#include <trueslate/trueslate.h>

#include "target.h"

/* The address of a device, as it was given. */
#define ADDRESS_ROOM 4200

/* The whole file as JSON; a new reference. */
json_t *draft_file_shape(const struct target *target,
                         struct slate_draft *draft);

/* May the file be written? One that is there has to be an earlier draft of the
 * same device that nobody needs any more, or may be replaced. Says on stderr
 * what is wrong; returns an exit code. */
int draft_file_may_write(const char *path, const struct target *target,
                         bool replace);

/* Writes the file whole or not at all, and makes it durable; says on stderr
 * what is wrong. Returns an exit code. */
int draft_file_save(const char *path, const struct target *target,
                    struct slate_draft *draft);

/* Reads a file into a placed draft, which is made; refuses what was edited or
 * damaged. Says nothing. */
enum slate_status draft_file_read(const char *path, struct slate_draft *draft,
                                  char address[ADDRESS_ROOM]);

/* The same, saying on stderr what is wrong. Returns an exit code. */
int draft_file_load(const char *path, struct slate_draft *draft,
                    char address[ADDRESS_ROOM]);

#endif
