/* SPDX-License-Identifier: MIT */
/* Evidence put together and written. */
#include "ticket/ticket.h"

#include <errno.h>

#include "device/device.h"

#define NAME_ROOM 4200u

static char last_sum[80]; /* of the ticket that was written last */

time_t ticket_now(void)
{
    const char *epoch = getenv("SOURCE_DATE_EPOCH");
    char *end = NULL;
    long long seconds =
        epoch == NULL || epoch[0] == '\0' ? -1 : strtoll(epoch, &end, 10);

    return seconds >= 0 && *end == '\0' ? (time_t)seconds : time(NULL);
}

static void moment_words(time_t moment, char words[32])
{
    struct tm parts;

    words[0] = '\0';
    if (gmtime_r(&moment, &parts) != NULL)
        strftime(words, 32, "%Y-%m-%dT%H:%M:%SZ", &parts);
}

static bool path_of(const struct options *options, const char *tag,
                    const char *ending, char path[NAME_ROOM])
{
    int length = snprintf(path, NAME_ROOM, "%s%s%s%s", options->evidence,
                          tag[0] == '\0' ? "" : "-", tag, ending);

    return length > 0 && (size_t)length < NAME_ROOM;
}

int ticket_may_write(const struct options *options, const struct target *target)
{
    static const char *const endings[] = {".html", ".json", ".svg"};
    char path[NAME_ROOM];
    int code = 0;

    for (int i = 0; options->evidence != NULL && i < 3 && code == 0; i++) {
        if (!path_of(options, "", endings[i], path))
            return fail(SLATE_ERR_ARGUMENT, "--evidence: the name is too long");
        code = durable_may_write(path, target, false, "evidence",
                                 options->replace);
    }
    return code;
}

json_t *ticket_job(const struct ticket_job *job)
{
    time_t ended = ticket_now();
    char began_words[32], ended_words[32];
    json_t *one;

    moment_words(job->began, began_words);
    moment_words(ended, ended_words);
    one = report_pack(
        "{s:s, s:s, s:o, s:s, s:s, s:I, s:i, s:s, s:s, s:o}", "verb", job->verb,
        "tag", job->target->media.tag, "device", report_device(job->target),
        "began", began_words, "ended", ended_words, "seconds",
        (json_int_t)(ended > job->began ? ended - job->began : 0), "exit_code",
        job->code, "outcome", job->outcome, "draft",
        job->seal == NULL ? "" : job->seal, "report", job->report);
    if (job->picture != NULL)
        json_object_set_new(one, "picture",
                            report_made(json_string(job->picture)));
    return one;
}

static int fail_write(const char *path)
{
    return fail(SLATE_ERR_ACCESS, "%s could not be written: %s", path,
                strerror(errno));
}

static int save(const char *path, const char *text)
{
    if (text == NULL)
        return fail(SLATE_ERR_INTERNAL, "out of memory");
    return durable_write(path, text, strlen(text)) ? 0 : fail_write(path);
}

/* NAME.svg of one job; of several NAME-TAG.svg. */
static int save_pictures(const struct options *options, const json_t *jobs)
{
    bool many = json_array_size(jobs) > 1;
    const json_t *job;
    size_t i;
    int code = 0;

    json_array_foreach (jobs, i, job) {
        const char *svg = json_string_value(json_object_get(job, "picture"));
        const char *tag = json_string_value(json_object_get(job, "tag"));
        char path[NAME_ROOM];

        if (svg == NULL || code != 0 ||
            !path_of(options, many ? tag : "", ".svg", path))
            continue;
        code = save(path, svg);
    }
    return code;
}

static json_t *ticket_of(json_t *jobs)
{
    char made[32];

    moment_words(ticket_now(), made);
    return ticket_seal_json(
        report_pack("{s:s, s:s, s:s, s:o}", "shape", TICKET_SHAPE, "made", made,
                    "by", "True Slate " SLATE_VERSION, "jobs", jobs));
}

static int save_json(const struct options *options, const json_t *ticket)
{
    char path[NAME_ROOM], *text = json_dumps(ticket, JSON_INDENT(2));
    int code = path_of(options, "", ".json", path) ? save(path, text) : 0;

    free(text);
    return code;
}

static int save_page(const struct options *options, const json_t *ticket)
{
    char path[NAME_ROOM], *page = ticket_page(ticket);
    char *sealed = page == NULL ? NULL : ticket_seal_page(page);
    int code = path_of(options, "", ".html", path) ? save(path, sealed) : 0;

    free(page);
    free(sealed);
    return code;
}

void ticket_tell(const struct options *options)
{
    if (options->evidence != NULL && !options->json && last_sum[0] != '\0')
        printf("\nEvidence for the ticket, %s.html and .json, has the SHA-256\n"
               "  %s\n",
               options->evidence, last_sum);
}

int ticket_write(const struct options *options, json_t *jobs, int code)
{
    json_t *ticket;
    int written = 0;

    if (options->evidence == NULL) {
        json_decref(jobs);
        return code;
    }
    ticket = ticket_of(jobs);
    written = save_json(options, ticket);
    if (written == 0)
        written = save_page(options, ticket);
    if (written == 0)
        written = save_pictures(options, json_object_get(ticket, "jobs"));
    snprintf(last_sum, sizeof last_sum, "%s",
             json_string_value(json_object_get(ticket, "sha256")));
    json_decref(ticket);
    return code != 0 ? code : written;
}

int ticket_write_one(const struct options *options,
                     const struct ticket_job *job)
{
    json_t *jobs;
    int code;

    if (options->evidence == NULL) {
        json_decref(job->report);
        return job->code;
    }
    jobs = report_made(json_array());
    json_array_append_new(jobs, ticket_job(job));
    code = ticket_write(options, jobs, job->code);
    ticket_tell(options);
    return code;
}
