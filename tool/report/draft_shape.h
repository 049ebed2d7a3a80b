/* SPDX-License-Identifier: MIT */
/* Drafts as files for programs and people: written. */
#ifndef TOOL_DRAFT_SHAPE_H
#define TOOL_DRAFT_SHAPE_H

#include <jansson.h>
#include "draft/draft_file.h"

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

#endif
