/* SPDX-License-Identifier: MIT */
/* Where the tool keeps a journal: a file, compressed by zlib. */
#ifndef TOOL_JOURNAL_FILE_H
#define TOOL_JOURNAL_FILE_H

#include <trueslate/trueslate.h>
#include <zlib.h>

#include "base/durable.h"

#define JOURNAL_WINDOW 262144u

struct journal_file {
    struct slate_keeper keeper;
    struct durable file; /* while it is written */
    gzFile gz;           /* NULL: closed */
    char why[160];       /* of the first failure */
    uint64_t at;         /* byte of the journal where the window begins */
    uint32_t count;      /* bytes in the window */
    uint8_t window[JOURNAL_WINDOW];
};

/* Begins a journal: it is there under its name once it has been synced, and not
 * before. False: why tells. Close it either way. */
bool journal_file_create(struct journal_file *journal, const char *path);

/* Opens one; what is not compressed is read as well. */
bool journal_file_open(struct journal_file *journal, const char *path);

/* What was not finished is gone. */
void journal_file_close(struct journal_file *journal);

#endif
