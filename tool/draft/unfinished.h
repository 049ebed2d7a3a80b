/* SPDX-License-Identifier: MIT */
/* Drafts that the tool keeps of its own accord while they are unfinished. */
#ifndef TOOL_UNFINISHED_H
#define TOOL_UNFINISHED_H

#include "base/options.h"
#include "device/target.h"

/* Lets go of what was kept of a draft, if anything was. */
void unfinished_drop(const struct target *target,
                     const uint8_t seal[SLATE_DIGEST_BYTES]);

/* Where the draft with this seal is kept; false: there is no place. */
bool unfinished_path(const struct target *target,
                     const uint8_t seal[SLATE_DIGEST_BYTES], char *path,
                     size_t room);

/* Where the files of the kept draft come from whose mark the device bears; ""
 * where it places none, or is not kept. */
void unfinished_files(const struct target *target, char *path, size_t room);

/* Where block 0 cannot be read: is one of the kept drafts unfinished on the
 * device? Then the facts, which are there, say so. Says nothing. */
void unfinished_take_note(struct target *target);

/* The draft whose mark the device bears: out of the file that -o names, or of
 * the one that was kept. Another goal than that draft's is refused. Says on
 * stderr what is wrong; returns an exit code. */
int unfinished_load(struct target *target, const struct options *options,
                    struct slate_draft *draft, char *path, size_t room);

/* A kept draft that overwrites beside partitions, as the options have it: no
 * mark in block 0 tells of it. False: none fits the device; says nothing. */
bool unfinished_beside(struct target *target, const struct options *options,
                       struct slate_draft *draft, char *path, size_t room);

#endif
