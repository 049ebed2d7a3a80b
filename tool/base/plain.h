/* SPDX-License-Identifier: MIT */
/* Text from elsewhere on the screen, and words for copying into a shell. */
#ifndef TOOL_PLAIN_H
#define TOOL_PLAIN_H

#include <stddef.h>

/* As it may be shown; cut to the room. Returns shown. */
const char *plain_shown(const char *raw, char *shown, size_t room);

/* As one word of a command line that a shell takes as it is: bare where
 * nothing needs quoting. Returns quoted; "" when there is no room. */
const char *plain_quoted(const char *raw, char *quoted, size_t room);

/* The same in a buffer of its own, one of four in turn. */
const char *plain_word(const char *raw);

#endif
