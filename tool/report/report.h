/* SPDX-License-Identifier: MIT */
/* What is found and done, in JSON. */
#ifndef TOOL_REPORT_H
#define TOOL_REPORT_H

#include "base/base.h"
#include "device/device.h"
#include "draft/draft.h"

/* Drafts as files for programs and people: written. */

/* The whole file as JSON; a new reference. */
json_t *draft_file_shape(const struct target *target,
                         struct slate_draft *draft);

/* May the file be written? One that is there has to be an earlier draft of the
 * same device that nobody needs any more, or may be replaced. Says on stderr
 * what is wrong; returns an exit code. */
int draft_file_may_write(const char *path, const struct target *target,
                         bool replace);

/* Writes the file whole or not at all, and makes it durable; says on stderr
 * what is wrong. Returns an exit code. */
int draft_file_save(const char *path, const struct target *target,
                    struct slate_draft *draft);

/* Reports for programs: the JSON shapes of docs/json/, one function each. */

/* Each returns a new reference; running out of memory ends the program. */
json_t *report_findings(const struct target *target);
json_t *report_assess(const struct target *target);

/* journal: where what was replaced is kept; "": nowhere. */
json_t *report_enact(const struct slate_draft *draft,
                     const struct slate_enact *enact, const char *journal);
json_t *report_prove(const struct slate_draft *draft,
                     const struct slate_prove *prove);

/* What a draft loses, in sentences. */
json_t *report_lost(const struct target *target,
                    const struct slate_draft *draft);

/* A stretch of blocks with what it is, as "before" and "after" of a draft. */
json_t *report_before(const struct slate_facts *facts);
/* The remarks on a draft. */
json_t *report_remarks(const struct slate_draft *draft);

json_t *report_after(const struct slate_draft *draft,
                     const struct slate_facts *facts);

#endif
