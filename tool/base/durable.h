/* SPDX-License-Identifier: MIT */
/* Files that the tool writes: whole or not at all, durable, and never over
 * something else. */
#ifndef TOOL_DURABLE_H
#define TOOL_DURABLE_H

#include <limits.h>
#include <stdbool.h>
#include <stddef.h>

/* A file that is being written. */
struct durable {
    bool begun; /* zeroed: nothing is open */
    int descriptor;
    char place[PATH_MAX];
    char part[PATH_MAX + 16]; /* beside it, until it is finished */
};

/* Begins a file that only its owner may read; after true, finish or abandon
 * it. Finishing makes it durable, puts it in its place, and makes the folder
 * durable. False with errno set: what was there stays. */
bool durable_begin(struct durable *file, const char *path);
bool durable_finish(struct durable *file);
void durable_abandon(struct durable *file);

/* Writes a file anew beside the old one, makes it durable, puts it in place of
 * the old one, and makes the folder durable. What is there already and is no
 * regular file stays. False with errno set: nothing has changed then. */
bool durable_write(const char *path, const void *data, size_t length);

/* Takes a file away for good; its folder is made durable. */
void durable_remove(const char *path);

/* Is there anything of this name? */
bool durable_exists(const char *path);

#endif
