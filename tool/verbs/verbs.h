/* SPDX-License-Identifier: MIT */
/* What each verb does; the table of verbs is in main.c. */
#ifndef TOOL_VERBS_H
#define TOOL_VERBS_H

#include "report/draft_file.h"
#include "options.h"
#include "state/state.h"

/* Each returns the exit code. */
int verb_survey(const struct options *options);
int verb_assess(const struct options *options);
int verb_advise(const struct options *options);
int verb_guards(const struct options *options);
int verb_probe(const struct options *options);
int verb_draft(const struct options *options);
int verb_enact(const struct options *options);
int verb_prove(const struct options *options);
int verb_renew(const struct options *options);
int verb_overwrite(const struct options *options);
int verb_evidence(const struct options *options);
int verb_erase(const struct options *options);
int verb_lowlevel(const struct options *options);
int verb_scan(const struct options *options);
int verb_search(const struct options *options);
int verb_mend(const struct options *options);
int verb_convert(const struct options *options);
int verb_rewind(const struct options *options);
int verb_journals(const struct options *options);
int verb_relabel(const struct options *options);
int verb_release(const struct options *options);
int verb_eject(const struct options *options);
int verb_bench(const struct options *options);
int verb_plug(const struct options *options);
int verb_unplug(const struct options *options);
int verb_tray(const struct options *options);
int verb_await(const struct options *options);

/* The steps that renew shares with the single verbs; they say on stderr what
 * goes wrong and return an exit code. */
int make_draft(struct target *target, const struct options *options,
               const struct slate_draft *former, struct slate_draft *draft);

/* The same once more, when something has been added to it. */
int remake_draft(const struct target *target, struct slate_draft *draft);
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

/* Can what uses the device be released? Says on stderr what is in the way;
 * returns an exit code. */
int check_release(const struct target *target);

/* Takes away what the host has on the device, and tells of it; the device that
 * the running system stands on is refused. Returns an exit code. */
int release_users(struct target *target, bool quiet);

/* Refuses a device that the host uses, naming who; returns an exit code. */
int refuse_used(const struct target *target);

/* Makes it safe to unplug. Says on stderr what is in the way; returns an exit
 * code. */
int eject_target(struct target *target);

/* Is this the consent that the device asks for? The disk that the running
 * system stands on asks for more than its tag. Returns an exit code. */
int check_consent(const struct target *target, const char *given);

/* The one of "TAG,TAG" that is this device's consent; false: none is. */
bool consent_pick(const struct target *target, const char *list,
                  char picked[64]);

/* The full form of a probe: all of the device is written and read back. Returns
 * an exit code. */
int probe_full(struct target *target, const struct options *options);

/* What has to be typed to agree. */
void consent_words(const struct target *target, char words[64]);

/* Asks for it at the terminal, having said what will be. Returns an exit code.
 */
int consent_prompt(const struct target *target, const char *what,
                   char given[64]);

/* "Written: ..." and "Proved: ..." for people. */
void tell_enacted(const struct slate_draft *draft,
                  const struct slate_enact *enact);
void tell_proved(const struct slate_draft *draft,
                 const struct slate_prove *prove);

#endif
