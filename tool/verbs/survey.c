/* SPDX-License-Identifier: MIT */
/* survey and await: what is attached, and what comes next. */

#include "look/look.h"
#include "verbs/verbs.h"
#include "view/view.h"

#define POLL_MS 250u

static json_t *report_entry(const struct target *target, uint32_t twins)
{
    enum slate_severity severity = SLATE_SEVERITY_TROUBLE;
    char words[512] = "";
    struct slate_text text;
    uint64_t read =
        target->media.traffic.blocks_read * target->media.geometry.block_bytes;
    json_t *device = report_device(target);

    if (target->status == SLATE_OK) {
        slate_text_start(&text, words, sizeof words);
        content_words(target, &text);
    }
    if (target->known) {
        severity = target->finding[0].severity;
        json_object_set_new(device, "finding",
                            report_made(json_string(
                                slate_finding_name(target->finding[0].id))));
    }
    json_object_set_new(device, "content", report_made(json_string(words)));
    json_object_set_new(
        device, "severity",
        report_made(json_string(slate_severity_name(severity))));
    json_object_set_new(device, "unit",
                        report_made(json_integer(target->media.unit + 1)));
    json_object_set_new(device, "units",
                        report_made(json_integer(target->media.units)));
    json_object_set_new(device, "body", report_shown(target->body));
    json_object_set_new(device, "users", report_users(target));
    json_object_set_new(device, "system", json_boolean(target->system));
    json_object_set_new(device, "twins", report_made(json_integer(twins)));
    json_object_set_new(
        device, "erase_bytes",
        report_made(json_integer(target->media.geometry.erase_bytes)));
    json_object_set_new(
        device, "commands",
        report_made(json_integer((json_int_t)target->media.traffic.commands)));
    json_object_set_new(device, "bytes_read",
                        report_made(json_integer((json_int_t)read)));
    if (target->status != SLATE_OK)
        json_object_set_new(device, "error", report_shown(target->why));
    return device;
}

/* Units of one body follow each other, behind a line of their own. */
static uint32_t tell_people(const struct attached *attached, const bool *shown)
{
    bool told[ATTACHED_MOST] = {false};
    uint32_t count = 0;

    for (uint32_t i = 0; i < attached->count; i++) {
        const struct target *first = attached->target[i];

        if (!shown[i] || told[i])
            continue;
        if (first->media.units > 1)
            view_body(first);
        for (uint32_t j = i; j < attached->count; j++) {
            const struct target *other = attached->target[j];

            if (!shown[j] || told[j] ||
                (j != i && strcmp(other->body, first->body) != 0))
                continue;
            view_survey_entry(other, attached_twins(attached, j));
            told[j] = true;
            count++;
        }
    }
    return count;
}

static int tell_programs(const struct attached *attached, const bool *shown)
{
    json_t *devices = report_made(json_array());

    for (uint32_t i = 0; i < attached->count; i++) {
        if (shown[i])
            json_array_append_new(
                devices,
                report_entry(attached->target[i], attached_twins(attached, i)));
    }
    return report_print(report_pack("{s:s, s:o}", "shape", "trueslate.survey/2",
                                    "devices", devices));
}

/* shown[i] tells which of the list are meant. */
static int tell(const struct attached *attached, const bool *shown, bool json)
{
    if (json)
        return tell_programs(attached, shown);
    if (tell_people(attached, shown) == 0)
        view_nothing_there("No device is there.");
    return 0;
}

static int no_bench(const char *bench)
{
    return fail(SLATE_ERR_NO_DEVICE,
                bench == NULL
                    ? "the host does not tell which devices it has%s"
                    : "no device: there is no bench in %s; lay one out with "
                      "'trueslate bench DIR', or name it with --bench",
                bench == NULL ? "" : bench);
}

static void mark_fresh(const struct attached *attached, json_t *known,
                       bool *shown)
{
    for (uint32_t i = 0; i < attached->count; i++)
        shown[i] = !state_forget_one(known, attached->target[i]);
}

int verb_survey(const struct options *options)
{
    static struct attached attached;
    bool shown[ATTACHED_MOST];
    json_t *known = options->fresh ? state_remembered() : NULL;
    int code = 0;

    if (options->fresh && known == NULL)
        return fail(SLATE_ERR_ARGUMENT, "nothing is remembered yet; say "
                                        "'trueslate survey --remember' first");
    if (!attached_open(&attached, options->bench, SLATE_DEPTH_GLANCE, NULL))
        code = no_bench(options->bench);
    memset(shown, 1, sizeof shown);
    if (options->fresh)
        mark_fresh(&attached, known, shown);
    THEN(code, tell(&attached, shown, options->json));
    if (code == 0 && options->remember)
        code = state_remember(&attached);
    json_decref(known);
    attached_close(&attached);
    return code;
}

/* The digests of what is attached now, as a list to compare with. */
static json_t *digests(const struct attached *attached)
{
    json_t *list = report_made(json_array());

    for (uint32_t i = 0; i < attached->count; i++)
        json_array_append_new(
            list,
            report_hex(attached->target[i]->media.digest, SLATE_DIGEST_BYTES));
    return list;
}

/* Looks again; true when something is there that was not. What has gone is
 * forgotten, so that it counts when it comes back. */
static bool look_again(struct attached *attached, const char *bench,
                       json_t **known, bool *shown)
{
    bool any = false;

    if (!attached_open(attached, bench, SLATE_DEPTH_GLANCE, NULL))
        return false;
    mark_fresh(attached, *known, shown);
    for (uint32_t i = 0; i < attached->count; i++)
        any = any || shown[i];
    json_decref(*known);
    *known = digests(attached);
    if (!any)
        attached_close(attached);
    return any;
}

int verb_await(const struct options *options)
{
    static struct attached attached;
    struct slate_linux_watch *watch =
        options->bench == NULL ? slate_linux_watch_open() : NULL;
    bool shown[ATTACHED_MOST], any = false;
    uint64_t started = clock_ms() / 1000;
    json_t *known;
    int code = 0;

    if (!attached_open(&attached, options->bench, SLATE_DEPTH_GLANCE, NULL))
        return no_bench(options->bench);
    known = digests(&attached);
    attached_close(&attached);
    fprintf(stderr, "Plug the device in now.\n");
    while (!any && (options->seconds == 0 ||
                    clock_ms() / 1000 - started < options->seconds)) {
        if (slate_linux_watch_wait(watch, POLL_MS) || watch == NULL)
            any = look_again(&attached, options->bench, &known, shown);
    }
    if (any)
        code = tell(&attached, shown, options->json);
    else
        code = fail(SLATE_ERR_NO_DEVICE, "no device came within %u seconds",
                    options->seconds);
    if (!any && !options->json)
        view_nothing_there("The device that you expect did not come.");
    attached_close(&attached);
    json_decref(known);
    slate_linux_watch_close(watch);
    return code;
}
