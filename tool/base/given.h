/* SPDX-License-Identifier: MIT */
/* Files that people give: read to the end, or refused. */
#ifndef TOOL_GIVEN_H
#define TOOL_GIVEN_H

#include <stdbool.h>
#include <stddef.h>
#include <trueslate/status.h>

/* Text is UTF-8 without control characters but those between words and lines;
 * a byte order mark ahead of it is left out. */
enum given_kind {
    GIVEN_BYTES,
    GIVEN_TEXT
};

struct given {
    char *bytes; /* with a zero behind them; NULL: it was refused */
    size_t length;
    enum slate_status status; /* why it was refused: SLATE_ERR_ACCESS, or
                                 SLATE_ERR_ARGUMENT for what is no such file */
    char why[160];            /* the same in words, with what was expected */
};

/* Opens a regular file, whatever else may have its name: a pipe would wait, a
 * folder read as nothing. -1: given tells why. */
int given_open(const char *path, struct given *given);

/* Reads one of so many bytes at most. Free it with given_free, also when this
 * says false. */
bool given_read(const char *path, enum given_kind kind, size_t most,
                struct given *given);
void given_free(struct given *given);

/* Says on stderr why it was refused: "--bad-list FILE: ..."; option: "" for
 * none. Returns an exit code. */
int given_fail(const struct given *given, const char *option, const char *path);

/* The next line of a text, which ends with a zero then; NULL behind the last.
 * next: the bytes at first, moved on */
char *given_line(char **next);

#endif
