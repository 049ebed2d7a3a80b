/* SPDX-License-Identifier: MIT */
/* Reports for programs: the JSON shapes of docs/json/, one function each. */
#ifndef TOOL_REPORT_H
#define TOOL_REPORT_H

#include <jansson.h>
#include <trueslate/trueslate.h>

#include "target.h"

/* Each returns a new reference; running out of memory ends the program. */
json_t *report_device(const struct target *target);
json_t *report_findings(const struct slate_facts *facts);
json_t *report_assess(const struct target *target);
/* A format that can be composed: "fat32"; "fit" where it is chosen. */
const char *report_format(enum slate_volume_kind kind);

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

/* Passes a new value on; ends the program when there is none. */
json_t *report_made(json_t *value);

/* Blocks: a list of "first" and "blocks". */
json_t *report_ranges(const struct slate_ranges *ranges);

/* Who uses the device at the host: a list of words. */
json_t *report_shown(const char *raw);
json_t *report_users(const struct target *target);

/* The names of guards; a sum of SLATE_GUARD_BIT. */
json_t *report_guards(uint32_t guards);

/* Bytes as lower-case hexadecimal. */
json_t *report_hex(const uint8_t *bytes, size_t length);

/* Prints a report to stdout and lets go of it; returns an exit code. */
int report_print(json_t *report);

/* From now on a program that ends with an exit code, and without a report, says
 * on stdout why. */
void report_failures(void);

/* JSON's whole numbers end at 2^63 - 1 here; larger ones are rounded. */
json_t *report_bytes(uint64_t bytes);

#endif
