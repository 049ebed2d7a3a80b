/* SPDX-License-Identifier: MIT */
/* probe --full: every block is written and read back. Nothing is restored. */

#include "draft/draft.h"
#include "work/work.h"
#include "device/device.h"
#include "ticket/ticket.h"
#include "term/term.h"
#include "view/view.h"
#include "verbs/verbs.h"

#define NAMED 12u

struct full {
    struct target *target;
    struct slate_scan scan;
    uint64_t blocks; /* that are there */
    bool wraps;
};

static bool is_false(const struct full *full)
{
    return full->blocks < full->target->media.geometry.block_count;
}

static bool is_sound(const struct full *full)
{
    return full->scan.phase == SLATE_SCAN_DONE && !is_false(full) &&
           slate_scan_bad(&full->scan) == 0;
}

/* What the device is, in one sentence. */
static void say_result(const struct full *full, char *words, size_t room)
{
    const struct slate_scan *scan = &full->scan;
    uint32_t block_bytes = full->target->media.geometry.block_bytes;
    char has[SLATE_SIZE_TEXT], ranges[500] = "";

    slate_size_both(full->blocks * block_bytes, has);
    if (full->scan.phase != SLATE_SCAN_DONE) {
        snprintf(words, room, "%s", say_last());
    } else if (is_false(full)) {
        snprintf(words, room,
                 "The device claims more than it has: it has %s, %llu blocks; "
                 "beyond that, %s.",
                 has, (unsigned long long)full->blocks,
                 full->wraps ? "writing starts over at the beginning"
                             : "what is written is lost");
    } else if (is_sound(full)) {
        snprintf(words, room,
                 "All %llu blocks returned what was written: the device has "
                 "what it claims, %s.",
                 (unsigned long long)full->blocks, has);
    } else {
        bad_words(&scan->bad, ", ", NAMED, ranges, sizeof ranges);
        snprintf(words, room,
                 "%llu block%s not keep what is written, or cannot be written "
                 "or read: %s. Do not trust the device.",
                 (unsigned long long)slate_scan_bad(scan),
                 slate_scan_bad(scan) == 1 ? " does" : "s do", ranges);
    }
}

static void tell(const struct full *full)
{
    char words[1200];

    view_device(full->target);
    putchar('\n');
    say_result(full, words, sizeof words);
    print_line("Found", is_sound(full) ? PAINT_GOOD : PAINT_BAD, "%s", words);
    print_line("Lost", PAINT_PLAIN,
               "everything that was on it; it holds random data now");
    if (is_false(full) && capacity_of(full->target) != 0)
        printf("\nTo use what is there, at your own risk:\n"
               "  trueslate renew %s --within proved%s\n",
               full->target->name, full->target->also);
}

static json_t *report(const struct full *full)
{
    char words[1200];

    say_result(full, words, sizeof words);
    return report_pack(
        "{s:s, s:o, s:b, s:b, s:I, s:b, s:I, s:I, s:I, s:o, s:s}", "shape",
        "trueslate.probe-full/1", "device", report_device(full->target),
        "trusted", is_sound(full), "false_capacity", is_false(full), "blocks",
        (json_int_t)full->blocks, "wraps", full->wraps, "unwritable",
        (json_int_t)full->scan.unwritable, "unreadable",
        (json_int_t)full->scan.unreadable, "altered",
        (json_int_t)full->scan.altered, "bad", report_ranges(&full->scan.bad),
        "text", words);
}

static int finish(const struct full *full, const struct options *options)
{
    int code = 0;

    if (is_false(full))
        (void)capacity_keep(full->target, full->blocks);
    else if (is_sound(full))
        capacity_drop(full->target);
    if (options->json)
        code = report_print(report(full));
    else
        tell(full);
    return code != 0 || is_sound(full)
               ? code
               : fail(SLATE_ERR_UNPROVED, "%s is not to be trusted: %s",
                      full->target->media.tag,
                      is_false(full) ? "false-capacity" : "bad-blocks");
}

static int write_ticket(const struct full *full, const struct options *options,
                        time_t began, int code)
{
    char words[1200];
    struct ticket_job job = {
        options->verb->name, full->target, began, code, words, "", NULL, NULL};

    if (options->evidence == NULL)
        return code;
    say_result(full, words, sizeof words);
    job.report = report(full);
    return ticket_write_one(options, &job);
}

static int run(struct full *full)
{
    const struct slate_agreement agreed = door_agreement(full->target);
    struct slate_scan *scan = &full->scan;
    enum slate_status status = slate_scan_write(scan, &agreed), end;

    if (status == SLATE_OK)
        status = scan_steps(scan);
    if (status == SLATE_OK && scan->phase == SLATE_SCAN_DONE)
        status = slate_scan_capacity(scan, &full->blocks, &full->wraps);
    end = slate_scan_end(scan);
    if (status == SLATE_ERR_BAD_LIST)
        return scan_fail_full(scan, full->target);
    if (status == SLATE_OK && scan->phase != SLATE_SCAN_DONE)
        return fail(SLATE_ERR_STOPPED,
                    "%s: the probe was interrupted; what was on it is lost",
                    full->target->address);
    status = status == SLATE_OK ? end : status;
    return status == SLATE_OK
               ? 0
               : fail_with_fault(status, scan->media, full->target->address);
}

/* From here on what was on the device is lost, whatever comes of it. */
static int prove(struct full *full, const struct options *options)
{
    time_t began = ticket_now();
    int code = run(full);

    THEN(code, finish(full, options));
    code = write_ticket(full, options, began, code);
    return then_do(full->target, options, code);
}

int probe_full(struct target *target, const struct options *options)
{
    struct slate_range *room;
    struct slate_ranges bad = {NULL, DRAFTED_BAD, 0};
    const struct slate_range all = {0, UINT64_MAX};
    struct full full = {.target = target,
                        .blocks = target->media.geometry.block_count};
    enum slate_status status = SLATE_ERR_INTERNAL;
    int code = door_through(target, options,
                            "A full probe writes to every block, and "
                            "everything on this device will be lost.",
                            false);

    TRY(code);
    bad.range = room = calloc(DRAFTED_BAD, sizeof *room);
    if (room != NULL)
        status = slate_scan_start(&full.scan, &target->media, &all, &bad,
                                  target->work, WORK_BYTES);
    code = status == SLATE_OK ? prove(&full, options)
                              : fail_plainly(status, target->address);
    free(room);
    return code;
}
