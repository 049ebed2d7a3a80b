/* SPDX-License-Identifier: MIT */
/* The command line, taken apart. */
#ifndef TOOL_MAIN_H
#define TOOL_MAIN_H

#include "base/base.h"

/* Lists of the words that options take, for messages and help, made of the
 * tables that those words come from. Valid for good. */

const char *list_uses(void);
const char *list_formats(void);
const char *list_tables(void);
const char *list_mends(void);
const char *list_gpt_attributes(void);
const char *list_read_backs(void);
const char *list_discards(void);
const char *list_thens(void);

/* Setters of options: a word becomes a value. */

#define OPTION_SETTERS(X)                                                      \
    X(flag)                                                                    \
    X(text)                                                                    \
    X(use)                                                                     \
    X(table)                                                                   \
    X(cylinders)                                                               \
    X(volume)                                                                  \
    X(label)                                                                   \
    X(cluster)                                                                 \
    X(part)                                                                    \
    X(keep)                                                                    \
    X(rounds)                                                                  \
    X(read_back)                                                               \
    X(discard)                                                                 \
    X(index)                                                                   \
    X(entries)                                                                 \
    X(type)                                                                    \
    X(name)                                                                    \
    X(attributes)                                                              \
    X(logical)                                                                 \
    X(files)                                                                   \
    X(start_code)                                                              \
    X(bad)                                                                     \
    X(block)                                                                   \
    X(seed)                                                                    \
    X(clear)                                                                   \
    X(mend)                                                                    \
    X(put_back)                                                                \
    X(every)                                                                   \
    X(relabel)                                                                 \
    X(block_size)                                                              \
    X(picture)                                                                 \
    X(within)                                                                  \
    X(then)                                                                    \
    X(evidence)                                                                \
    X(drive)                                                                   \
    X(from)                                                                    \
    X(lift)                                                                    \
    X(expect)                                                                  \
    X(seconds)

#define DECLARE(kind)                                                          \
    const char *option_##kind(const struct option_row *row,                    \
                              const struct setting *setting,                   \
                              const char *word);
OPTION_SETTERS(DECLARE)
#undef DECLARE

/* The options that there are: a row each. A new one is a row, and where its
 * word is of a new kind, a setter. */

extern const struct option_row option_rows[];
extern const size_t option_row_count;

/* The command line, parsed. */

/* Parses what stands behind the verb. Ends the program with exit code 2 and
 * one line when the words make no sense, and after --help. */
void parse_options(const struct verb *verb, int count, char **words,
                   struct options *options);

#endif
