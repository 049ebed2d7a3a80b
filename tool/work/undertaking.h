/* SPDX-License-Identifier: MIT */
/* A draft that is kept while it is carried out and proved, so that what is cut
 * short can go on. */
#ifndef TOOL_UNDERTAKING_H
#define TOOL_UNDERTAKING_H

#include "base/options.h"
#include "base/state.h"

struct undertaking {
    const struct options *options;
    struct target *target;
    struct slate_draft *draft;
    struct slate_enact enact;
    struct slate_prove prove;
    char file[4200]; /* where the draft is kept while it is unfinished */
    char journal[STATE_PATH_ROOM]; /* what was replaced is there; "": nowhere */
    char consent[64];              /* as given */
    bool resumed;                  /* an unfinished one goes on */
    bool around; /* rounds are done, and a volume has to be drafted anew around
                    what failed in them */
};

/* Keeps the draft: where -o says, or in a place of our own, under a name with
 * the draft's seal in it, so that what another one still needs stays. Says on
 * stderr what is wrong; returns an exit code. */
int undertaking_keep(struct undertaking *work);

/* Lets go of what was kept in a place of our own, also of how far it came. */
void undertaking_drop(const struct undertaking *work);

/* Writes, reads back, and looks at the device again. Returns an exit code. */
int undertaking_do(struct undertaking *work);

/* With the exit code so far: the draft is let go of when it is done, or when
 * nothing was written; else how to go on is said. Returns the exit code. */
int undertaking_end(struct undertaking *work, int code);

#endif
