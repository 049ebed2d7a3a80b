/* SPDX-License-Identifier: MIT */
/* The journals that the tool keeps ahead of writing: where, when, which. */
#ifndef TOOL_JOURNALS_H
#define TOOL_JOURNALS_H

#include "device/target.h"
#include "base/options.h"
#include "work/journal_file.h"
#include "base/state.h"

#define JOURNAL_ENDING ".journal"

/* What a draft replaces is kept by default up to so many bytes. */
#define JOURNAL_MOST 2147483648u

/* Says ahead of consent what will be kept, or why nothing is. */
void journals_announce(const struct options *options,
                       const struct slate_draft *draft);

/* Keeps what the draft replaces on a device that is claimed, unless there is
 * no need to, or work goes on; path: receives where, "" for nowhere. Says on
 * stderr what is wrong; returns an exit code. */
int journals_keep(const struct options *options, struct target *target,
                  struct slate_draft *draft, bool resumed,
                  char path[STATE_PATH_ROOM]);

/* Tells how what was kept is put back. */
void journals_tell(const char *path, const struct target *target,
                   const char *files);

/* A journal that was read: whole, and with its draft. */
struct loaded {
    char path[STATE_PATH_ROOM];
    struct journal_file file;
    struct slate_journal journal;
    struct slate_draft *draft;
    enum slate_status status; /* what became of it; else SLATE_OK */
    char why[300];            /* one sentence on that */
};

/* Loads a file, or one of our own place by its name. Running out of memory ends
 * the program; unload it in every case. */
struct loaded *journals_load(const char *word);
void journals_unload(struct loaded *loaded);

/* Where a journal is: a file as it is named, or one of our own place. */
bool journals_find(const char *word, char path[STATE_PATH_ROOM]);

/* What names it in a command: the name of one of our own place, or the path. */
void journals_name(const char *path, char name[STATE_PATH_ROOM]);

#endif
