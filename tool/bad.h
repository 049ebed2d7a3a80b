/* SPDX-License-Identifier: MIT */
/* Bad blocks: typed, or listed in a file. */
#ifndef TOOL_BAD_H
#define TOOL_BAD_H

#include "options.h"

/* Are these block numbers and ranges, as 812,900-911? */
bool bad_is_list(const char *word);

/* Tells the draft of those that the options name, and of an earlier draft's.
 * Says on stderr what is wrong; returns an exit code. */
int bad_take(const struct options *options, const struct slate_draft *former,
             struct slate_draft *draft);

/* "812, 900-911 and 7 ranges more": the first ones, with that between them. */
void bad_words(const struct slate_ranges *bad, const char *between,
               uint32_t most, char *words, size_t room);

#endif
