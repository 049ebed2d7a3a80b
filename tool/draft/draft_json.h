/* SPDX-License-Identifier: MIT */
/* The fields of a draft's input as JSON, written and read back. */
#ifndef TOOL_DRAFT_JSON_H
#define TOOL_DRAFT_JSON_H

#include <jansson.h>
#include <trueslate/trueslate.h>

/* Adds the groups of fields to an object; the draft stays as it is. */
void draft_json_add(json_t *object, struct slate_draft *draft);

/* Reads them into a placed draft; false: one is missing, or impossible. */
bool draft_json_take(json_t *object, struct slate_draft *draft);

/* Lower-case digits, two for each byte; false for anything else. */
bool draft_json_hex(const char *hex, uint8_t *bytes, size_t length);

#endif
