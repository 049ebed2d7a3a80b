/* SPDX-License-Identifier: MIT */
/* The options that there are: a row each. A new one is a row, and where its
 * word is of a new kind, a setter. */
#ifndef TOOL_OPTION_TABLE_H
#define TOOL_OPTION_TABLE_H

#include "base/option_rows.h"

extern const struct option_row option_rows[];
extern const size_t option_row_count;

#endif
