/* SPDX-License-Identifier: MIT */
/* Renewals that go on side by side: their threads, and what became of each. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "report/report.h"
#include "say.h"
#include "verbs/several.h"
#include "verbs/verbs.h"
#include "view/paint.h"

static uint64_t now_ms(void)
{
    struct timespec now;

    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000 + (uint64_t)now.tv_nsec / 1000000;
}

struct job *job_new(const struct options *options, const char *device)
{
    struct job *job = calloc(1, sizeof *job);

    if (job == NULL)
        return NULL;
    snprintf(job->device, sizeof job->device, "%.199s", device);
    lane_open(&job->lane);
    renewal_begin(&job->renewal, options, device);
    job->renewal.brief = true;
    snprintf(job->name, sizeof job->name, "?");
    return job;
}

void job_free(struct job *job)
{
    renewal_end(&job->renewal);
    lane_close(&job->lane);
    free(job);
}

void job_prepare(struct job *job)
{
    job->code = renewal_prepare(&job->renewal);
    if (job->renewal.opened && job->renewal.target.media.tag[0] != '\0')
        snprintf(job->name, sizeof job->name, "%s",
                 job->renewal.target.media.tag);
}

static void end(struct job *job, int code)
{
    pthread_mutex_lock(&job->lane.lock);
    job->code = code;
    job->over = true;
    job->ended = now_ms();
    pthread_mutex_unlock(&job->lane.lock);
}

static void *run(void *context)
{
    struct job *job = context;
    char said[LANE_ROOM];
    int code;

    lane_enter(&job->lane);
    code = renewal_run(&job->renewal);
    if (code == 0 && job->ejects) {
        lane_progress(&job->lane, "Ejecting");
        job->ejected = eject_target(&job->renewal.target) == 0;
    }
    if (code == 0) {
        lane_progress(&job->lane, "done");
    } else {
        snprintf(said, sizeof said, "failed: %.*s",
                 (int)strcspn(job->lane.said, "\n"), job->lane.said);
        lane_progress(&job->lane, said);
    }
    end(job, code);
    return NULL;
}

void job_start(struct job *job)
{
    job->began = now_ms();
    lane_progress(&job->lane, "Begins");
    if (pthread_create(&job->thread, NULL, run, job) == 0)
        job->started = true;
    else
        end(job, fail(SLATE_ERR_INTERNAL, "%s: no thread can be started",
                      job->name));
}

bool job_is_over(struct job *job)
{
    bool over;

    pthread_mutex_lock(&job->lane.lock);
    over = job->over || !job->started;
    pthread_mutex_unlock(&job->lane.lock);
    return over;
}

void job_join(struct job *job)
{
    const char *line = job->lane.said;

    if (job->started)
        pthread_join(job->thread, NULL);
    job->started = false;
    fflush(stdout);
    while (*line != '\0') {
        size_t length = strcspn(line, "\n");

        fprintf(stderr, "%s%.*s\n",
                *line == ' ' ? "" : "trueslate: ", (int)length, line);
        line += length + (line[length] == '\n' ? 1 : 0);
    }
}

/* In the order of what they mean for the one who has to act. */
int code_worse(int a, int b)
{
    static const int order[] = {SLATE_CLASS_OK,       SLATE_CLASS_GOAL,
                                SLATE_CLASS_USAGE,    SLATE_CLASS_REFUSED,
                                SLATE_CLASS_STOPPED,  SLATE_CLASS_DEVICE,
                                SLATE_CLASS_UNPROVED, SLATE_CLASS_INTERNAL};
    size_t rank_a = 0, rank_b = 0;

    for (size_t i = 0; i < sizeof order / sizeof order[0]; i++) {
        rank_a = order[i] == a ? i : rank_a;
        rank_b = order[i] == b ? i : rank_b;
    }
    return rank_a > rank_b ? a : b;
}

static void tell_job(const struct job *job, bool first)
{
    char words[600];
    size_t used;

    if (!job->renewal.enacted) {
        used = strcspn(job->lane.said, "\n");
        if (used == 0)
            snprintf(words, sizeof words, "%s, %.200s: not renewed", job->name,
                     job->device);
        else
            snprintf(words, sizeof words, "%s, %.200s: %.*s", job->name,
                     job->device, used < 300 ? (int)used : 300, job->lane.said);
        print_wrapped(first ? "Failed" : "", PAINT_BAD, words);
        return;
    }
    renewal_words(&job->renewal, words, sizeof words);
    used = strlen(words);
    snprintf(words + used, sizeof words - used, ", in %llu s%s",
             (unsigned long long)(job->ended - job->began + 500) / 1000,
             job->ejected  ? "; it can be unplugged"
             : job->ejects ? "; it could not be ejected"
                           : "");
    print_wrapped(first ? "Done" : "", PAINT_GOOD, words);
}

static uint32_t tell_those(struct job *const *jobs, uint32_t count, bool done)
{
    uint32_t told = 0;

    for (uint32_t i = 0; i < count; i++) {
        if (jobs[i]->renewal.enacted == done)
            tell_job(jobs[i], told++ == 0);
    }
    return told;
}

static json_t *report_job(struct job *job)
{
    json_t *report = report_made(
        json_pack("{s:s, s:s, s:i, s:b, s:b}", "device", job->device, "tag",
                  job->name, "code", job->code, "renewed", job->renewal.enacted,
                  "ejected", job->ejected));

    if (job->renewal.enacted)
        json_object_set_new(report, "renewal", renewal_report(&job->renewal));
    return report;
}

int jobs_tell(struct job *const *jobs, uint32_t count, bool json,
              const char *shape)
{
    json_t *devices = json ? report_made(json_array()) : NULL;
    uint32_t done = 0, failed;
    int code = 0;
    char words[100];

    for (uint32_t i = 0; i < count; i++)
        code = code_worse(code, jobs[i]->code);
    if (!json) {
        putchar('\n');
        done = tell_those(jobs, count, true);
        failed = tell_those(jobs, count, false);
        snprintf(words, sizeof words, "%u renewed and proved, %u not", done,
                 failed);
        print_wrapped("In all", failed == 0 ? PAINT_GOOD : PAINT_BAD, words);
        return code;
    }
    for (uint32_t i = 0; i < count; i++) {
        done += jobs[i]->renewal.enacted ? 1 : 0;
        json_array_append_new(devices, report_job(jobs[i]));
    }
    (void)report_print(report_made(
        json_pack("{s:s, s:i, s:i, s:o}", "shape", shape, "renewed", (int)done,
                  "failed", (int)(count - done), "devices", devices)));
    return code;
}
