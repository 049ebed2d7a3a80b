/* SPDX-License-Identifier: MIT */
/* What each verb does; the table of verbs is in main.c. */
#ifndef TOOL_VERBS_H
#define TOOL_VERBS_H

#include "draft/draft_file.h"
#include "base/options.h"
#include "base/state.h"

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

#endif
