/* SPDX-License-Identifier: MIT */
/* scan: every block is read; how fast, and which fail. */

#include "draft/draft.h"
#include "device/device.h"
#include "work/work.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"
#include "view/view.h"
#include "look/look.h"

#define NAMED 12u

static enum slate_device_kind kind_of(const struct target *target)
{
    return slate_device_kind_of(&target->facts);
}

static void say_result(const struct slate_scan *scan,
                       const struct target *target, char *words, size_t room)
{
    uint64_t bad = slate_scan_bad(scan);
    char ranges[500] = "";

    if (bad > 0)
        bad_words(&scan->bad, ", ", NAMED, ranges, sizeof ranges);
    if (bad == 0)
        snprintf(words, room, "%llu blocks were %s. %s",
                 (unsigned long long)scan->done,
                 scan->writes ? "written, read back and restored" : "read",
                 slate_scan_words(scan, kind_of(target)));
    else
        snprintf(words, room, "%llu of %llu blocks %s: %s. %s",
                 (unsigned long long)bad, (unsigned long long)scan->done,
                 scan->writes ? "cannot be read, or do not keep what is written"
                              : "cannot be read",
                 ranges, slate_scan_words(scan, kind_of(target)));
}

static void tell(const struct slate_scan *scan, const struct target *target)
{
    char words[1200];

    view_device(target);
    putchar('\n');
    say_result(scan, target, words, sizeof words);
    print_line("Scanned", slate_scan_bad(scan) > 0 ? PAINT_BAD : PAINT_GOOD,
               "%s", words);
    regions_tell(target, TARGET_READ);
    if (scan->writes)
        print_line(
            "Not known", PAINT_PLAIN,
            "whether blocks are aliases of others, since one run was written "
            "after the other: 'probe' tells whether the size is true");
    if (slate_scan_bad(scan) > 0)
        print_line("What helps", PAINT_PLAIN,
                   "'renew --bad-list FILE' keeps a volume off these blocks; "
                   "--failed FILE writes that list");
}

static json_t *report_of(const struct slate_scan *scan,
                         const struct target *target)
{
    return report_pack(
        "{s:s, s:s, s:o, s:b, s:b, s:I, s:I, s:I, s:I, s:I, s:o, s:s, s:o*}",
        "shape", "trueslate.scan/1", "tag", target->facts.tag, "device",
        report_device(target), "finished", scan->phase == SLATE_SCAN_DONE,
        "writes", scan->writes, "unwritable", (json_int_t)scan->unwritable,
        "altered", (json_int_t)scan->altered, "next", (json_int_t)scan->at,
        "unreadable", (json_int_t)scan->unreadable, "weak",
        (json_int_t)scan->weak, "bad", report_ranges(&scan->bad), "words",
        slate_scan_words(scan, kind_of(target)), "pace",
        regions_report(target, TARGET_READ));
}

static int draw(const char *path, const struct slate_scan *scan,
                const struct target *target)
{
    char words[1200];
    const struct profile profile = {target, &target->regions[TARGET_READ],
                                    words, "Read", slate_scan_bad(scan)};

    say_result(scan, target, words, sizeof words);
    return picture_profile(path, &profile);
}

/* All that is to be written is told ahead of hours of reading. */
static int check_files(const struct options *options,
                       const struct target *target)
{
    int code = 0;

    if (options->picture != NULL)
        code = durable_may_write(options->picture, target, false, "picture",
                                 options->replace);
    THEN(code, ticket_may_write(options, target));
    return code == 0 ? bad_may_write(options, target) : code;
}

static int finish(const struct options *options, const struct slate_scan *scan,
                  const struct target *target)
{
    int code = 0;

    if (options->json)
        code = report_print(report_of(scan, target));
    else
        tell(scan, target);
    if (code == 0 && options->picture != NULL)
        code = draw(options->picture, scan, target);
    if (code == 0 && options->failed_list != NULL)
        code = bad_write(options->failed_list, target, &scan->bad);
    if (code == 0 && scan->phase != SLATE_SCAN_DONE)
        return fail(
            SLATE_ERR_STOPPED,
            "the scan was stopped; to go on from there, add --from %llu",
            (unsigned long long)scan->at);
    if (code == 0 && slate_scan_bad(scan) > 0)
        return fail(SLATE_ERR_READ, "%s: %llu block%s cannot be read%s",
                    target->address, (unsigned long long)slate_scan_bad(scan),
                    slate_scan_bad(scan) == 1 ? "" : "s",
                    scan->writes ? ", or do not keep what is written" : "");
    return code;
}

static int write_ticket(const struct options *options,
                        const struct slate_scan *scan,
                        const struct target *target, time_t began, int code)
{
    char words[1200];
    const struct profile profile = {target, &target->regions[TARGET_READ],
                                    words, "Read", slate_scan_bad(scan)};
    struct ticket_job job = {
        options->verb->name, target, began, code, words, "", NULL, NULL};
    char *picture;

    if (options->evidence == NULL)
        return code;
    if (scan->phase == SLATE_SCAN_DONE)
        say_result(scan, target, words, sizeof words);
    else
        snprintf(words, sizeof words, "%s", say_last());
    job.picture = picture = picture_text_of_profile(&profile);
    job.report = report_of(scan, target);
    code = ticket_write_one(options, &job);
    free(picture);
    return code;
}

/* From here on something was done, whatever comes of it. */
static int go_over(const struct options *options, struct target *target,
                   struct slate_scan *scan)
{
    enum slate_status status = SLATE_OK, end;
    int code = 0;

    scan->surface = regions_begin(target, TARGET_READ);
    if (options->writes)
        code = sweep_all(options, target, scan);
    else
        status = scan_steps(scan);
    end = slate_scan_end(scan);
    status = status == SLATE_OK ? end : status;
    regions_fail(scan->surface, &scan->bad);
    TRY(code);
    if (status == SLATE_ERR_BAD_LIST)
        return scan_fail_full(scan, target);
    return status == SLATE_OK
               ? finish(options, scan, target)
               : fail_with_fault(status, &target->media, target->address);
}

static int scan_all(const struct options *options, struct target *target)
{
    struct slate_range *room = calloc(DRAFTED_BAD, sizeof *room);
    struct slate_ranges bad = {room, DRAFTED_BAD, 0};
    const struct slate_range rest = {options->from_block, UINT64_MAX};
    struct slate_scan scan = {0};
    time_t began = ticket_now();
    enum slate_status status =
        room == NULL ? SLATE_ERR_INTERNAL
                     : slate_scan_start(&scan, &target->media, &rest, &bad,
                                        target->work, WORK_BYTES);
    int code;

    if (status == SLATE_OK) {
        code = go_over(options, target, &scan);
        code = write_ticket(options, &scan, target, began, code);
        code = then_do(target, options, code);
    } else if (status == SLATE_ERR_ARGUMENT) {
        code =
            fail(status,
                 "--from %llu: expected a block of the device, which has %llu",
                 (unsigned long long)options->from_block,
                 (unsigned long long)target->media.geometry.block_count);
    } else {
        code = fail_plainly(status, target->address);
    }
    free(room);
    return code;
}

int verb_scan(const struct options *options)
{
    struct target target = {0};
    int code = target_named(&target, options);

    THEN(code, target_look(&target));
    THEN(code, check_files(options, &target));
    if (code == 0 && options->writes)
        code = sweep_agree(options, &target);
    THEN(code, scan_all(options, &target));
    target_close(&target);
    return code;
}
