/* SPDX-License-Identifier: MIT */
/* The verbs, and what a few of them share. */
#ifndef TOOL_VERBS_H
#define TOOL_VERBS_H

#include "base/base.h"
#include "device/device.h"
#include "draft/draft.h"
#include "work/work.h"

/* Changes in place, from consent to proof: what the verbs for them share. */

/* Carries out a draft that is made and was shown, once there is consent to what
 * will be; make: makes it anew. Says on stderr what is wrong; returns an exit
 * code. */
int in_place_do(struct undertaking *work, const char *loss,
                int (*make)(struct undertaking *work));

/* Was this very change cut behind its last write? Then it is proved, *code
 * tells what came of that, and its draft is the one at work. */
bool in_place_found(struct undertaking *work,
                    bool (*is_it)(const struct slate_draft *draft,
                                  const struct options *options),
                    int *code);

/* "Written", "Proved", and how to put it back. */
void in_place_tell(const struct undertaking *work);

/* The full form of a probe. */

/* The full form of a probe: all of the device is written and read back. Returns
 * an exit code. */
int probe_full(struct target *target, const struct options *options);

/* Several devices renewed side by side, each in a thread of its own. */

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

/* A scan that writes, with all content kept. */

/* Consent to it. Says on stderr what is wrong; returns an exit code. */
int sweep_agree(const struct options *options, struct target *target);

/* Goes over what a started scan has to, in place of its own steps; its results
 * are what comes of it. Says on stderr what is wrong; returns an exit code. */
int sweep_all(const struct options *options, struct target *target,
              struct slate_scan *scan);

/* What each verb does; the table of verbs is in main.c. */

/* Each returns the exit code. */
int verb_survey(const struct options *options);
int verb_assess(const struct options *options);
int verb_advise(const struct options *options);
int verb_guards(const struct options *options);
int verb_probe(const struct options *options);
int verb_draft(const struct options *options);
int verb_enact(const struct options *options);
int verb_prove(const struct options *options);
int verb_renew(const struct options *options);
int verb_overwrite(const struct options *options);
int verb_evidence(const struct options *options);
int verb_erase(const struct options *options);
int verb_lowlevel(const struct options *options);
int verb_scan(const struct options *options);
int verb_search(const struct options *options);
int verb_mend(const struct options *options);
int verb_convert(const struct options *options);
int verb_rewind(const struct options *options);
int verb_journals(const struct options *options);
int verb_relabel(const struct options *options);
int verb_release(const struct options *options);
int verb_eject(const struct options *options);
int verb_bench(const struct options *options);
int verb_plug(const struct options *options);
int verb_unplug(const struct options *options);
int verb_tray(const struct options *options);
int verb_await(const struct options *options);

#endif
