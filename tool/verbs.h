/* SPDX-License-Identifier: MIT */
/* What each verb does; the table of verbs is in main.c. */
#ifndef TOOL_VERBS_H
#define TOOL_VERBS_H

#include "draft_file.h"
#include "options.h"
#include "target.h"

/* Each returns the exit code. */
int verb_survey(const struct options *options);
int verb_assess(const struct options *options);
int verb_draft(const struct options *options);
int verb_enact(const struct options *options);
int verb_prove(const struct options *options);
int verb_renew(const struct options *options);
int verb_bench(const struct options *options);

/* The steps that renew shares with the single verbs; they say on stderr what
 * goes wrong and return an exit code. */
int make_draft(struct target *target, const struct options *options,
               struct slate_draft *draft);
int carry_out(struct target *target, const struct slate_draft *draft,
              const char *consent, struct slate_enact *enact);
int read_back(struct target *target, const struct slate_draft *draft,
              struct slate_prove *prove);

/* "Written: ..." and "Proved: ..." for people. */
void tell_enacted(const struct slate_draft *draft,
                  const struct slate_enact *enact);
void tell_proved(const struct slate_draft *draft,
                 const struct slate_prove *prove);

#endif
