/* SPDX-License-Identifier: MIT */
/* Every verb that changes a device, as a line, with a reader of the bench that
 * it is tried on: what accidents are crossed with. */
#ifndef TESTS_VERB_ROWS_H
#define TESTS_VERB_ROWS_H

#include "tool_case.h"

#define READER "tide-gauge-8"
#define OTHER "buoy-stick-14"

/* What a verb is tried on. */
enum base {
    MBR,    /* one partition, with room behind it */
    GPT,    /* the same, with an attribute */
    DAMAGED /* the same, with a second copy that is damaged */
};

/* '%' stands for the device; a tag is added. */
struct row {
    const char *verb, *line;
    enum base base;
    bool keeps; /* what is replaced, so that there is a way back */
};

#define ROWS 14u
extern const struct row rows[ROWS];

/* Set-up of a group: both media of the reader as files, a draft and a journal
 * for them. */
int lay_bases(void **state);

/* The same with blocks of so many bytes. */
int lay_bases_of(void **state, unsigned block_bytes);

/* The line of a row for a device. */
void fill_in(const struct row *row, const char *device, char line[400]);

/* The reader with a row's medium, as it was made; and with more members in its
 * description, each ahead of which a comma stands. */
void begin(const struct row *row, const char *members);

/* How many commands a run takes. */
unsigned commands_of(const struct row *row, const char *line);

/* Does the medium hold what it was made with? */
bool is_as_before(const struct row *row);

#endif
