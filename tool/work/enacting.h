/* SPDX-License-Identifier: MIT */
/* A draft is carried out, and read back. Each says on stderr what goes wrong,
 * and returns an exit code. */
#ifndef TOOL_ENACTING_H
#define TOOL_ENACTING_H

#include "base/options.h"
#include "base/state.h"
#include "device/target.h"

/* The device of a draft: at its address, or wherever its tag is now. */
int open_device_of(const struct slate_draft *draft, const char *address,
                   const char *bench, struct target *target);

/* Keeps what is replaced, as the options have it, and writes; journal: receives
 * where it is kept, "" for nowhere. */
int carry_out(struct target *target, struct slate_draft *draft,
              const char *consent, const struct options *options,
              struct slate_enact *enact, char journal[STATE_PATH_ROOM]);

int read_back(struct target *target, const struct slate_draft *draft,
              struct slate_prove *prove);

/* The last round of overwriting alone, before anything comes over it. */
int read_back_round(struct target *target, const struct slate_draft *draft,
                    struct slate_prove *prove);

/* "Written: ..." and "Proved: ..." for people. */
void tell_enacted(const struct slate_draft *draft,
                  const struct slate_enact *enact);

void tell_proved(const struct slate_draft *draft,
                 const struct slate_prove *prove);

#endif
