/* SPDX-License-Identifier: MIT */
/* renew with several devices: each is shown and consented to, one after the
 * other; then all of them go on side by side. */
#include "verbs/verbs.h"

#include "ticket/ticket.h"
#include "term/term.h"

#define REDRAW_NS 200000000

static void rest(void)
{
    progress_pause();
    nanosleep(&(struct timespec){.tv_nsec = REDRAW_NS}, NULL);
}

/* Files that are named serve one device. */
static int check_options(const struct options *options)
{
    const char *single = options->output != NULL        ? "--output"
                         : options->journal != NULL     ? "--journal"
                         : options->scan_from != 0      ? "--scan-from"
                         : options->bad != NULL         ? "--bad"
                         : options->bad_list != NULL    ? "--bad-list"
                         : options->failed_list != NULL ? "--failed"
                                                        : NULL;

    return single == NULL ? 0
                          : fail(SLATE_ERR_ARGUMENT,
                                 "%s: %s is for one device; expected no more "
                                 "than one beside it",
                                 options->verb->name, single);
}

static bool is_same(const struct job *a, const struct job *b)
{
    return a->renewal.opened && b->renewal.opened &&
           strcmp(a->renewal.target.address, b->renewal.target.address) == 0;
}

/* Each device once, whatever names it. */
static void refuse_twice(struct job *const *jobs, uint32_t at)
{
    for (uint32_t i = 0; i < at; i++) {
        if (jobs[at]->code == 0 && is_same(jobs[i], jobs[at]))
            job_fail(jobs[at], SLATE_ERR_ARGUMENT,
                     "this device is named twice");
    }
}

static void go_on(struct job *const *jobs, uint32_t count)
{
    struct lanes lanes;
    bool over = false;

    lanes_begin(&lanes);
    progress_catch_interrupts();
    for (uint32_t i = 0; i < count; i++) {
        if (jobs[i]->code != 0)
            continue;
        lanes_add(&lanes, jobs[i]->name, &jobs[i]->lane);
        job_start(jobs[i]);
    }
    while (!over) {
        over = true;
        for (uint32_t i = 0; i < count; i++)
            over = job_is_over(jobs[i]) && over;
        lanes_draw(&lanes);
        if (!over)
            rest();
    }
    lanes_end(&lanes);
    for (uint32_t i = 0; i < count; i++)
        job_join(jobs[i]);
}

int renew_several(const struct options *options)
{
    struct job *jobs[OPERANDS_MOST];
    uint32_t count = 0;
    int code = check_options(options);

    TRY(code);
    for (; count < options->count; count++) {
        struct job *job = job_new(options, options->more[count]);

        if (job == NULL) {
            code = fail(SLATE_ERR_INTERNAL, "out of memory");
            break;
        }
        jobs[count] = job;
        job_prepare(job);
        refuse_twice(jobs, count);
        if (job->code == 0)
            job_ask(job);
    }
    if (code == 0) {
        go_on(jobs, count);
        code = jobs_tell(jobs, count, options->json, "trueslate.renew-list/1");
        code = jobs_ticket(jobs, count, options, code);
        ticket_tell(options);
    }
    for (uint32_t i = 0; i < count; i++)
        job_free(jobs[i]);
    return code;
}
