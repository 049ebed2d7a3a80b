/* SPDX-License-Identifier: MIT */
/* Cases that drive the tool: a line, its exit code, the words it answers. */
#ifndef TESTS_TOOL_CASE_H
#define TESTS_TOOL_CASE_H

#include <jansson.h>

#include "check.h"
#include "program.h"

/* The last runs of the tool and of the shell, and the tag of the bench's
 * tide-gauge stick. */
extern struct program p, shell;
extern char tag[16];

/* Runs a line and holds it to its exit code, to words on stdout (code 0) or
 * stderr, and to one line of error at most. */
void expect(const char *line, int code, const char *words);

/* Runs a line of shell and holds it to its exit code; and to words that are in
 * what it says, as above. */
void sh(const char *line, int code);
void sh_answers(const char *line, int code, const char *words);

/* Does block 0 of the bench's stick bear the unfinished mark? */
bool stick_is_marked(void);

/* A member of the JSON that was printed, given as "a.0.b"; a new reference. */
json_t *printed(const char *path);
void take_tag(void); /* into tag */
void expect_text(const char *path, const char *expected);
json_int_t number(const char *path);

/* Holds what was printed against a schema of docs/json. */
void check_schema(const char *name);

/* Lays out one device of the shipped bench, with a few members of its own. */
void lay_device(const char *name, const char *members);

/* Files of probes that did not come to their end. */
int kept_files(void);

/* Set-up: the shipped bench laid out anew. Tear-down of a group. */
int fresh_bench(void **state);
int clean(void **state);

#endif
