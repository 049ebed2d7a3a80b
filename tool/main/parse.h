/* SPDX-License-Identifier: MIT */
/* The command line, parsed. */
#ifndef TOOL_PARSE_H
#define TOOL_PARSE_H

#include "base/options.h"

/* Parses what stands behind the verb. Ends the program with exit code 2 and
 * one line when the words make no sense, and after --help. */
void parse_options(const struct verb *verb, int count, char **words,
                   struct options *options);

#endif
