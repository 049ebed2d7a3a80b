/* SPDX-License-Identifier: MIT */
/* Setters of options: a word becomes a value. */
#ifndef TOOL_OPTION_SET_H
#define TOOL_OPTION_SET_H

#include "base/option_rows.h"

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
    X(lift)                                                                    \
    X(expect)                                                                  \
    X(seconds)

#define DECLARE(kind)                                                          \
    const char *option_##kind(const struct option_row *row,                    \
                              const struct setting *setting,                   \
                              const char *word);
OPTION_SETTERS(DECLARE)
#undef DECLARE

#endif
