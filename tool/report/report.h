/* SPDX-License-Identifier: MIT */
/* Reports for programs: the JSON shapes of docs/json/, one function each. */
#ifndef TOOL_REPORT_H
#define TOOL_REPORT_H

#include <jansson.h>
#include <trueslate/trueslate.h>

#include "base/json.h"
#include "device/report_device.h"
#include "device/target.h"

/* Each returns a new reference; running out of memory ends the program. */
json_t *report_findings(const struct target *target);
json_t *report_assess(const struct target *target);

/* journal: where what was replaced is kept; "": nowhere. */
json_t *report_enact(const struct slate_draft *draft,
                     const struct slate_enact *enact, const char *journal);
json_t *report_prove(const struct slate_draft *draft,
                     const struct slate_prove *prove);

/* A stretch of blocks with what it is, as "before" and "after" of a draft. */
json_t *report_before(const struct slate_facts *facts);
/* The remarks on a draft. */
json_t *report_remarks(const struct slate_draft *draft);

json_t *report_after(const struct slate_draft *draft,
                     const struct slate_facts *facts);

#endif
