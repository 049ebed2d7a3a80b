/* SPDX-License-Identifier: MIT */
/* A drive as people describe it: shapes, stickers, numbers of cylinders. */
#ifndef TOOL_DRIVE_WORDS_H
#define TOOL_DRIVE_WORDS_H

#include "base/options.h"

/* The option's name, without its dashes. */
const char *drive_word_name(enum drive_word which);

/* NULL where the word makes sense; else what was expected. */
const char *drive_word_expected(enum drive_word which, const char *word);

/* Is anything said that a low-level format is needed for? */
bool drive_is_asked(const struct options *options);

/* The drive as the options have it, where they leave something open as it is
 * told to be now (or NULL). measured: the interleave is to be found. Says on
 * stderr what is wrong with it; returns an exit code. */
int drive_take(const struct options *options, const struct slate_drive *now,
               struct slate_drive *drive, bool *measured);

/* Blocks of the first logical drive; 0: there is no second one. Says on stderr
 * what is wrong; returns an exit code. */
int drive_take_split(const struct options *options,
                     const struct slate_drive *drive, uint64_t *blocks);

/* The sticker's list, sorted, for free(); NULL and 0 without one. Says on
 * stderr what is wrong; returns an exit code. */
int drive_take_sticker(const struct options *options,
                       const struct slate_drive *drive,
                       struct slate_defect **list, uint32_t *count);

#endif
