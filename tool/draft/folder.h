/* SPDX-License-Identifier: MIT */
/* A folder of the host whose files are placed on a volume. */
#ifndef TOOL_FOLDER_H
#define TOOL_FOLDER_H

#include <limits.h>

#include "base/options.h"

struct target;

/* Where the files of a draft come from; part of struct drafted. */
struct folder {
    char path[PATH_MAX];
    struct slate_source source;
    const struct slate_files *files;
    bool reading;  /* a file is open; zeroed: none is */
    int fd;        /* of the file that was read last */
    uint32_t item; /* which one that is */
};

/* Lists the files that the options name, or else those of an earlier draft,
 * into a draft of which a part asks for them. Says on stderr what is wrong;
 * returns an exit code. */
int folder_take(const struct target *target, const struct options *options,
                const struct slate_draft *former, struct slate_draft *draft);

/* Reads the files of a draft for their digests, with progress. */
int folder_seal(struct slate_draft *draft, void *work, size_t work_bytes);

/* The files of a draft that was loaded come from this path. */
void folder_at(struct slate_draft *draft, const char *path);

/* Are all files what they were when the draft was made? Reads them, with
 * progress. Says on stderr what is wrong; returns an exit code. */
int folder_check(struct slate_draft *draft, void *work, size_t work_bytes);

/* As fail, for the file that was read last. */
int folder_fail(const struct slate_draft *draft, enum slate_status status);

/* Lets go of what is open. */
void folder_close(struct folder *folder);

#endif
