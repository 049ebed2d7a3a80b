/* SPDX-License-Identifier: MIT */
/* Several devices renewed side by side, each in a thread of its own. */
#ifndef TOOL_SEVERAL_H
#define TOOL_SEVERAL_H

#include "base/lane.h"
#include "work/renewal.h"

/* One of them. */
struct job {
    struct renewal renewal;
    struct lane lane;
    pthread_t thread;
    size_t told; /* of what the lane has said, bytes that stand on stderr */
    char name[SLATE_TAG_ROOM]; /* its tag, or "?" */
    char device[4300];
    int code;              /* so far */
    uint64_t began, ended; /* ms */
    bool ejects;           /* when it is done */
    bool started;          /* its thread is there */
    bool over;             /* it has ended: read with job_is_over */
    bool ejected;          /* and can be unplugged */
    bool left;             /* it is left alone; said tells why */
    bool let_go;           /* of its device: what follows was noted */
    bool renewed;          /* and proved */
    char result[500];
    json_t *report; /* of the renewal, for programs */
    json_t *ticket; /* the same for a ticket; NULL: nothing was begun */
};

/* Returns NULL when there is no memory. Give it back with job_free. */
struct job *job_new(const struct options *options, const char *device);
void job_free(struct job *job);

/* Looks, drafts and shows; errors are told at once. The code is its own. */
void job_prepare(struct job *job);

/* Consent, as renewal_ask; the same. */
void job_ask(struct job *job);

/* It goes no further, for this reason. */
void job_fail(struct job *job, enum slate_status status, const char *why);

/* Goes on in a thread, from consent on. */
void job_start(struct job *job);

bool job_is_over(struct job *job);

/* Waits for its end, tells of its errors, and lets go of its device. */
void job_join(struct job *job);

/* Notes what is told of it later, and lets go of its device: it can be
 * unplugged. */
void job_let_go(struct job *job);

/* Leaves its device alone, saying why. */
void job_leave(struct job *job, const char *why);

/* One line on what became of it. */
void job_tell(const struct job *job, const char *label);

/* The summary of all of them, for people or programs: what became of each, and
 * how many. Returns the exit code of the worst. */
int jobs_tell(struct job *const *jobs, uint32_t count, bool json,
              const char *shape);

/* Writes the ticket of all that were begun, where one is wanted. Returns the
 * exit code so far, or that of a failure. */
int jobs_ticket(struct job *const *jobs, uint32_t count,
                const struct options *options, int code);

int renew_several(const struct options *options);

#endif
