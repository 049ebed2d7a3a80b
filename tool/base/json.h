/* SPDX-License-Identifier: MIT */
/* JSON as programs get it: made, printed exactly, and told when there is none.
 */
#ifndef TOOL_JSON_H
#define TOOL_JSON_H

#include <jansson.h>
#include <trueslate/trueslate.h>

/* Passes a new value on; ends the program when there is none. */
json_t *report_made(json_t *value);

/* Text from elsewhere, as it may be shown. */
json_t *report_shown(const char *raw);

/* Bytes as lower-case hexadecimal. */
json_t *report_hex(const uint8_t *bytes, size_t length);

/* A number of bytes: exact, also beyond 2^63 - 1, where jansson's end. */
json_t *report_bytes(uint64_t bytes);

/* Blocks: a list of "first" and "blocks". */
json_t *report_ranges(const struct slate_ranges *ranges);

/* Prints a report to stdout and lets go of it; returns an exit code. */
int report_print(json_t *report);

/* From now on a program that ends with an exit code, and without a report, says
 * on stdout why. */
void report_failures(void);

#endif
