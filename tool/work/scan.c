/* SPDX-License-Identifier: MIT */
/* A surface scan ahead of a new volume. */
#include "work/work.h"

#include "draft/draft.h"
#include "look/look.h"
#include "term/term.h"

#define NAMED 12u /* ranges that are told one by one */

/* What has been read tells of its blocks; what was only written does not yet.
 */
static int fail_stopped(const struct slate_scan *scan)
{
    bool goes_on = scan->phase == SLATE_SCAN_READ && scan->bad.count <= NAMED;
    char bad[400] = "", how[600] = "to know more, begin anew";

    if (scan->bad.count > 0 && goes_on)
        bad_words(&scan->bad, ",", NAMED, bad, sizeof bad);
    if (goes_on)
        snprintf(
            how, sizeof how, "to go on from there, add --scan-from %llu%s%s",
            (unsigned long long)scan->at, bad[0] == '\0' ? "" : " --bad ", bad);
    return fail(
        SLATE_ERR_STOPPED,
        "the scan was stopped ahead of block %llu, with %llu bad blocks so "
        "far; %s; %s",
        (unsigned long long)scan->at, (unsigned long long)slate_scan_bad(scan),
        scan->writes ? "what it wrote to is lost" : "nothing was written", how);
}

enum slate_status scan_steps(struct slate_scan *scan)
{
    uint32_t block = scan->media->geometry.block_bytes;
    enum slate_status status = SLATE_OK;
    struct progress progress;
    bool go_on = true;

    progress_catch_interrupts();
    progress_begin(&progress, "Scanning");
    while (status == SLATE_OK && go_on && scan->phase != SLATE_SCAN_DONE) {
        status = slate_scan_step(scan);
        go_on =
            progress_bytes(&progress, scan->done * block, scan->total * block);
    }
    progress_end(&progress);
    return status;
}

int scan_fail_full(const struct slate_scan *scan, const struct target *target)
{
    return fail(
        SLATE_ERR_BAD_LIST,
        "%s: more than %u ranges of bad blocks ahead of block %llu: it is at "
        "its end; copy off what is on it, and do not trust it again",
        target->address, DRAFTED_BAD, (unsigned long long)scan->at);
}

/* One range; progress goes over it alone. */
static int run(struct slate_scan *scan, struct target *target, bool writing)
{
    const struct slate_agreement agreed = door_agreement(target);
    enum slate_status status =
        writing ? slate_scan_write(scan, &agreed) : SLATE_OK;
    enum slate_status end;

    if (status == SLATE_OK)
        status = scan_steps(scan);
    end = slate_scan_end(scan);
    if (status == SLATE_ERR_BAD_LIST)
        return scan_fail_full(scan, target);
    if (status == SLATE_OK && scan->phase != SLATE_SCAN_DONE)
        return fail_stopped(scan);
    status = status == SLATE_OK ? end : status;
    return status == SLATE_OK
               ? 0
               : fail_with_fault(status, &target->media, target->address);
}

static void add_up(struct scanned *scanned, const struct slate_scan *scan,
                   enum slate_device_kind kind)
{
    struct slate_scan all = *scan;

    scanned->done = true;
    scanned->writes = scan->writes;
    scanned->blocks += scan->range.count;
    all.unwritable = scanned->unwritable += scan->unwritable;
    all.unreadable = scanned->unreadable += scan->unreadable;
    all.altered = scanned->altered += scan->altered;
    all.weak = scanned->weak += scan->weak;
    scanned->words = slate_scan_words(&all, kind);
}

static int scan_range(struct target *target, struct slate_draft *draft,
                      const struct slate_range *range, bool writing,
                      struct scanned *scanned)
{
    struct slate_range *room = calloc(DRAFTED_BAD, sizeof *room);
    struct slate_ranges bad = {room, DRAFTED_BAD, 0};
    struct slate_scan scan = {0};
    enum slate_status status =
        room == NULL ? SLATE_ERR_BUFFER
                     : slate_scan_start(&scan, &target->media, range, &bad,
                                        target->work, WORK_BYTES);
    int code = status == SLATE_OK ? run(&scan, target, writing)
                                  : fail_plainly(status, target->address);

    for (uint32_t i = 0; code == 0 && i < scan.bad.count; i++) {
        status = slate_draft_bad(draft, room[i].first, room[i].count);
        if (status != SLATE_OK)
            code = fail_plainly(SLATE_ERR_BAD_LIST, target->address);
    }
    if (code == 0)
        add_up(scanned, &scan, draft->basis.device);
    free(room);
    return code == 0 && writing ? target_look(target) : code;
}

/* From where the options have it on. */
static int scan_rest(const struct options *options, struct target *target,
                     struct slate_draft *draft, struct slate_range range,
                     bool writing, struct scanned *scanned)
{
    uint64_t end = range.first + range.count;

    if (options->scan_from >= end)
        return 0;
    if (options->scan_from > range.first)
        range.first = options->scan_from;
    range.count = end - range.first;
    return scan_range(target, draft, &range, writing, scanned);
}

int scan_take(const struct options *options, struct target *target,
              struct slate_draft *draft, bool writing, struct scanned *scanned)
{
    const struct slate_range all = {0, target->media.geometry.block_count};
    const struct slate_range first = {0, 1};
    int code = 0;

    memset(scanned, 0, sizeof *scanned);
    if (options->scan_from >= all.count)
        return fail(
            SLATE_ERR_ARGUMENT,
            "--scan-from %llu: expected a block of the device, which has %llu",
            (unsigned long long)options->scan_from,
            (unsigned long long)all.count);
    /* an old table goes first, wherever it begins */
    if (writing && options->scan_from > 0)
        code = scan_range(target, draft, &first, true, scanned);
    if (!draft->switched && code == 0)
        code = scan_rest(options, target, draft, all, writing, scanned);
    for (uint32_t i = 0; draft->switched && code == 0 && i < draft->parts;
         i++) {
        if (draft->part[i].ask.keep == 0)
            code = scan_rest(options, target, draft, draft->part[i].range,
                             writing, scanned);
    }
    return code == 0 ? remake_draft(target, draft) : code;
}

int scan_check(const struct options *options)
{
    return options->scan_from == 0 || options->scan || options->scan_writes
               ? 0
               : fail(
                     SLATE_ERR_ARGUMENT,
                     "--scan-from: expected --scan or --scan-writes beside it");
}

/* What its draft does not show: as large as the device, twice. */
int scan_announce(const struct slate_draft *draft, bool quiet)
{
    char words[300];

    if (draft->switched)
        return fail(SLATE_ERR_ARGUMENT,
                    "--scan-writes goes over the whole device; where "
                    "partitions are kept, expected --scan, which only reads");
    snprintf(words, sizeof words,
             "a pattern is written to every block, %s in all, and read back: "
             "that may take hours, and comes on top of the time above",
             in_decimal(slate_geometry_bytes(&draft->basis.geometry)).words);
    if (!quiet)
        print_line("First", PAINT_BAD, "%s", words);
    return 0;
}

static uint64_t count_bad(const struct scanned *scanned)
{
    return scanned->unwritable + scanned->unreadable + scanned->altered;
}

/* "3 of 30547968 blocks are bad: 812, 900-901. ..." */
void scan_tell(const struct scanned *scanned, const struct slate_draft *draft)
{
    uint64_t bad = count_bad(scanned);
    char ranges[500] = "", how[160] = ", as they could not be read";

    if (!scanned->done)
        return;
    if (scanned->writes)
        snprintf(how, sizeof how,
                 " (%llu not written, %llu not read, %llu with other content)",
                 (unsigned long long)scanned->unwritable,
                 (unsigned long long)scanned->unreadable,
                 (unsigned long long)scanned->altered);
    if (bad > 0)
        bad_words(&draft->bad, ", ", NAMED, ranges, sizeof ranges);
    if (bad == 0)
        print_line(
            "Scanned", bad == 0 ? PAINT_GOOD : PAINT_BAD,
            "%llu blocks were %s. %s", (unsigned long long)scanned->blocks,
            scanned->writes ? "written and read back" : "read", scanned->words);
    else
        print_line("Scanned", bad == 0 ? PAINT_GOOD : PAINT_BAD,
                   "%llu of %llu blocks %s bad%s: %s. %s",
                   (unsigned long long)bad, (unsigned long long)scanned->blocks,
                   bad == 1 ? "is" : "are", how, ranges, scanned->words);
}

json_t *scan_report(const struct scanned *scanned,
                    const struct slate_draft *draft)
{
    return report_pack(
        "{s:b, s:I, s:I, s:I, s:I, s:I, s:I, s:o, s:s}", "written",
        scanned->writes, "blocks", (json_int_t)scanned->blocks, "bad_blocks",
        (json_int_t)count_bad(scanned), "unreadable",
        (json_int_t)scanned->unreadable, "unwritable",
        (json_int_t)scanned->unwritable, "altered",
        (json_int_t)scanned->altered, "weak", (json_int_t)scanned->weak, "bad",
        report_ranges(&draft->bad), "words", scanned->words);
}
