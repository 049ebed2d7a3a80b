/* SPDX-License-Identifier: MIT */
/* Renewals that go on side by side: their threads, and what became of each. */

#include "draft/draft.h"
#include "work/work.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"
#include "term/term.h"

struct job *job_new(const struct options *options, const char *device)
{
    struct job *job = calloc(1, sizeof *job);

    if (job == NULL)
        return NULL;
    snprintf(job->device, sizeof job->device, "%s", device);
    lane_open(&job->lane);
    renewal_begin(&job->renewal, options, job->device);
    job->renewal.brief = job->renewal.work.passage.brief = true;
    snprintf(job->name, sizeof job->name, "?");
    return job;
}

/* What is told of it later is noted, so that it can be unplugged. */
void job_let_go(struct job *job)
{
    struct renewal *renewal = &job->renewal;

    if (job->let_go)
        return;
    job->let_go = true;
    job->renewed = renewal->enacted;
    if (job->renewed)
        renewal_words(renewal, job->result, sizeof job->result);
    if (job->renewed && renewal->options->json)
        job->report = renewal_report(renewal);
    if (renewal->begun && renewal->options->evidence != NULL)
        job->ticket = renewal_ticket(renewal, job->code, job->lane.said);
    renewal_end(renewal);
}

void job_free(struct job *job)
{
    job_let_go(job);
    json_decref(job->report);
    json_decref(job->ticket);
    lane_close(&job->lane);
    free(job);
}

/* What its lane has said since then, on stderr, with its name. */
static void tell_said(struct job *job)
{
    const char *line = job->lane.said + job->told;

    fflush(stdout);
    line += *line == '\n' ? 1 : 0;
    while (*line != '\0') {
        size_t length = strcspn(line, "\n");

        if (*line == ' ') /* a command */
            fprintf(stderr, "%.*s\n", (int)length, line);
        else
            fprintf(stderr, "trueslate: %s: %.*s\n", job->name, (int)length,
                    line);
        line += length + (line[length] == '\n' ? 1 : 0);
    }
    job->told = strlen(job->lane.said);
}

void job_prepare(struct job *job)
{
    const struct renewal *renewal = &job->renewal;

    lane_enter(&job->lane);
    job->code = renewal_prepare(&job->renewal);
    lane_enter(NULL);
    if (renewal->opened && renewal->target.media.tag[0] != '\0')
        snprintf(job->name, sizeof job->name, "%s", renewal->target.media.tag);
    tell_said(job);
}

void job_ask(struct job *job)
{
    lane_enter(&job->lane);
    job->code = renewal_ask(&job->renewal);
    lane_enter(NULL);
    tell_said(job);
}

void job_fail(struct job *job, enum slate_status status, const char *why)
{
    lane_say(&job->lane, why);
    job->code = exit_code(status);
    tell_said(job);
}

static void end(struct job *job, int code)
{
    pthread_mutex_lock(&job->lane.lock);
    job->code = code;
    job->over = true;
    job->ended = clock_ms();
    pthread_mutex_unlock(&job->lane.lock);
}

static void *run(void *context)
{
    struct job *job = context;
    char said[LANE_ROOM];
    int code;

    lane_enter(&job->lane);
    code = renewal_run(&job->renewal);
    THEN(code, overwriting_end(job->renewal.options, &job->renewal.target,
                               job->renewal.work.draft));
    code = then_do(&job->renewal.target, job->renewal.options, code);
    if (code == 0 && job->ejects && job->renewal.options->then == NULL) {
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
    job->began = clock_ms();
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
    if (job->started)
        pthread_join(job->thread, NULL);
    job->started = false;
    tell_said(job);
    job_let_go(job);
}

void job_leave(struct job *job, const char *why)
{
    lane_say(&job->lane, why);
    job->left = true;
    job_let_go(job);
}

/* In the order of what they mean for the one who has to act. */
static int code_worse(int a, int b)
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

/* "TARUK-47, sim:tide-gauge-7: why", of the first line of what was said. */
static void tell_why(const struct job *job, const char *label)
{
    const char *said = job->lane.said;
    size_t length = strcspn(said, "\n");
    bool names = strncmp(said, job->device, strlen(job->device)) == 0;

    print_line(label, job->left ? PAINT_PLAIN : PAINT_BAD, "%s, %.200s%s%.*s",
               job->name, names ? "" : job->device,
               names         ? ""
               : length == 0 ? ": not renewed"
                             : ": ",
               length < 300 ? (int)length : 300, said);
}

void job_tell(const struct job *job, const char *label)
{
    if (!job->renewed) {
        tell_why(job, label);
        return;
    }
    print_line(label, PAINT_GOOD, "%s, in %llu s%s", job->result,
               (unsigned long long)(job->ended - job->began + 500) / 1000,
               job->ejected  ? "; it can be unplugged"
               : job->ejects ? "; it could not be ejected"
                             : "");
}

static uint32_t tell_those(struct job *const *jobs, uint32_t count,
                           const char *label, bool renewed, bool left)
{
    uint32_t told = 0;

    for (uint32_t i = 0; i < count; i++) {
        if (jobs[i]->renewed == renewed && jobs[i]->left == left)
            job_tell(jobs[i], told++ == 0 ? label : "");
    }
    return told;
}

static json_t *report_job(const struct job *job)
{
    json_t *report = report_pack(
        "{s:s, s:s, s:i, s:b, s:b, s:b, s:s}", "device", job->device, "tag",
        job->name, "code", job->code, "renewed", job->renewed, "left_alone",
        job->left, "ejected", job->ejected, "said", job->lane.said);

    if (job->report != NULL)
        json_object_set(report, "renewal", job->report);
    return report;
}

static uint32_t count_those(struct job *const *jobs, uint32_t count,
                            bool renewed, bool left)
{
    uint32_t those = 0;

    for (uint32_t i = 0; i < count; i++)
        those += jobs[i]->renewed == renewed && jobs[i]->left == left ? 1 : 0;
    return those;
}

static void report_jobs(struct job *const *jobs, uint32_t count,
                        const char *shape)
{
    json_t *devices = report_made(json_array());

    for (uint32_t i = 0; i < count; i++)
        json_array_append_new(devices, report_job(jobs[i]));
    (void)report_print(report_pack(
        "{s:s, s:i, s:i, s:i, s:o}", "shape", shape, "renewed",
        (int)count_those(jobs, count, true, false), "failed",
        (int)count_those(jobs, count, false, false), "left_alone",
        (int)count_those(jobs, count, false, true), "devices", devices));
}

static void tell_jobs(struct job *const *jobs, uint32_t count)
{
    uint32_t done, failed, left;
    char words[100];

    putchar('\n');
    done = tell_those(jobs, count, "Done", true, false);
    failed = tell_those(jobs, count, "Failed", false, false);
    left = tell_those(jobs, count, "Left alone", false, true);
    snprintf(words, sizeof words, "%u renewed and proved, %u not", done,
             failed);
    if (left > 0)
        snprintf(words + strlen(words), sizeof words - strlen(words),
                 ", %u left alone", left);
    print_line("In all", failed == 0 ? PAINT_GOOD : PAINT_BAD, "%s", words);
}

int jobs_tell(struct job *const *jobs, uint32_t count, bool json,
              const char *shape)
{
    int code = 0;

    for (uint32_t i = 0; i < count; i++)
        code = code_worse(code, jobs[i]->code);
    if (json)
        report_jobs(jobs, count, shape);
    else
        tell_jobs(jobs, count);
    return code;
}

int jobs_ticket(struct job *const *jobs, uint32_t count,
                const struct options *options, int code)
{
    json_t *all = report_made(json_array());

    for (uint32_t i = 0; i < count; i++) {
        if (jobs[i]->ticket != NULL)
            json_array_append(all, jobs[i]->ticket);
    }
    if (json_array_size(all) > 0)
        return ticket_write(options, all, code);
    json_decref(all);
    return code;
}
