/* SPDX-License-Identifier: MIT */
/* Evidence of what was done, for a ticket: collected job by job, and written as
 * a page, as JSON and as pictures. */
#ifndef TOOL_TICKET_H
#define TOOL_TICKET_H

#include "base/base.h"
#include "device/device.h"

#define TICKET_SHAPE "trueslate.evidence/1"

/* What is known of one job when it has ended. */
struct ticket_job {
    const char *verb;
    const struct target *target;
    time_t began;
    int code;            /* exit code */
    const char *outcome; /* one sentence; on failure what was said */
    const char *seal;    /* of the draft, hexadecimal; NULL: none */
    const char *picture; /* SVG; NULL: none */
    json_t *report;      /* as --json has it; taken over */
};

/* The moment, or the one that SOURCE_DATE_EPOCH names. */
time_t ticket_now(void);

/* May the files be written that --evidence names? Ahead of everything else.
 * Says on stderr what is wrong; returns an exit code. */
int ticket_may_write(const struct options *options,
                     const struct target *target);

/* A job as it stands in the JSON; a new reference. */
json_t *ticket_job(const struct ticket_job *job);

/* Writes NAME.html, NAME.json and a picture of each job, with their checksums;
 * jobs is a list, which is taken over. Nothing where no evidence is wanted.
 * Returns the exit code so far, or that of a failure to write. */
int ticket_write(const struct options *options, json_t *jobs, int code);

/* Where it is, and its sum, for people. */
void ticket_tell(const struct options *options);

/* Both of one job. */
int ticket_write_one(const struct options *options,
                     const struct ticket_job *job);

/* The page of a ticket, as one string to be freed. */
char *ticket_page(const json_t *ticket);

/* Text with the SHA-256 of all that stands ahead of it appended, in the form
 * that ticket_check knows; to be freed. The JSON has its sum within. */
char *ticket_seal_page(const char *page);
json_t *ticket_seal_json(json_t *ticket);

/* Is a file of ours as it was written? */
enum ticket_state {
    TICKET_AS_WRITTEN,
    TICKET_CHANGED,
    TICKET_NONE, /* it is no evidence */
    TICKET_UNREADABLE
};

/* given: why it is unreadable */
enum ticket_state ticket_check(const char *path, struct given *given);

#endif
