/* SPDX-License-Identifier: MIT */
/* How wide text is on a screen: letters may have several bytes, and take two
 * columns, or none. */
#ifndef TOOL_COLUMNS_H
#define TOOL_COLUMNS_H

#include <stddef.h>

/* Columns that the first bytes of a text take, which is UTF-8. */
int columns_of(const char *words, size_t bytes);

/* How many of its bytes fit into so many columns. */
size_t columns_fit(const char *words, int columns);

/* Prints it, with spaces behind it up to so many columns. */
void print_padded(const char *words, int columns);

#endif
