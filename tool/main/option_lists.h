/* SPDX-License-Identifier: MIT */
/* Lists of the words that options take, for messages and help, made of the
 * tables that those words come from. Valid for good. */
#ifndef TOOL_OPTION_LISTS_H
#define TOOL_OPTION_LISTS_H

const char *list_uses(void);
const char *list_formats(void);
const char *list_tables(void);
const char *list_mends(void);
const char *list_gpt_attributes(void);
const char *list_read_backs(void);
const char *list_discards(void);
const char *list_thens(void);

#endif
