/* SPDX-License-Identifier: MIT */
/* Bad blocks: typed, or listed in a file. */
#ifndef TOOL_BAD_H
#define TOOL_BAD_H

#include "base/options.h"
#include "device/target.h"

/* Are these block numbers and ranges, as 812,900-911? */
bool bad_is_list(const char *word);

/* The same as ranges, in the order in which they were typed; false: there is no
 * room for all of them. */
bool bad_ranges(const char *word, struct slate_ranges *ranges);

/* Tells the draft of those that the options name, and of an earlier draft's.
 * Says on stderr what is wrong; returns an exit code. */
int bad_take(const struct options *options, const struct slate_draft *former,
             struct slate_draft *draft);

/* May the list of what fails be written where the options have it? One of ours
 * may be replaced. Says on stderr what is wrong; returns an exit code. */
int bad_may_write(const struct options *options, const struct target *target);

/* Writes blocks to a file, a range in each line, as --bad-list takes them. Says
 * on stderr what is wrong; returns an exit code. */
int bad_write(const char *path, const struct target *target,
              const struct slate_ranges *bad);

/* How many there are. */
uint64_t bad_blocks(const struct slate_ranges *ranges);

/* "812, 900-911 and 7 ranges more": the first ones, with that between them. */
void bad_words(const struct slate_ranges *bad, const char *between,
               uint32_t most, char *words, size_t room);

#endif
