/* SPDX-License-Identifier: MIT */
/* probe: does the device keep what it is given? What was there is kept in a
 * file meanwhile, and put back. */

#include "device/device.h"
#include "view/view.h"
#include "term/term.h"
#include "work/work.h"
#include "ticket/ticket.h"
#include "verbs/verbs.h"
#include "look/look.h"

static uint32_t count(const struct tried *tried, bool held)
{
    uint32_t found = 0;

    for (uint32_t i = 0; i < tried->places; i++) {
        if (tried->place[i] != SLATE_PLACE_UNTRIED)
            found += (tried->place[i] == SLATE_PLACE_HELD) == held ? 1u : 0u;
    }
    return found;
}

/* Each place in its column; one that lost its content hides those that held.
 */
static void mark_places(const struct probing *probing,
                        char bar[BAR_COLUMNS_MOST])
{
    const struct tried *tried = &probing->tried;
    uint64_t blocks = probing->target->media.geometry.block_count;

    memset(bar, '.', BAR_COLUMNS_MOST);
    for (uint32_t i = 0; i < tried->places; i++) {
        char *at = &bar[map_column(tried->lba[i], blocks, bar_columns())];

        if (tried->place[i] == SLATE_PLACE_UNTRIED)
            continue;
        if (tried->place[i] != SLATE_PLACE_HELD)
            *at = 'x';
        else if (*at == '.')
            *at = '+';
    }
}

static void tell_places(const struct probing *probing)
{
    char bar[BAR_COLUMNS_MOST];

    mark_places(probing, bar);
    printf("\n  Tried      %s", paint_frame());
    for (int i = 0; i < bar_columns(); i++)
        painted(bar[i] == 'x'   ? PAINT_BAD
                : bar[i] == '+' ? PAINT_GOOD
                                : PAINT_FAINT,
                "%c", bar[i]);
    printf("%s\n             + held what was written: %u; x did not: %u\n\n",
           paint_frame(), count(&probing->tried, true),
           count(&probing->tried, false));
}

static void tell_capacity(const struct probing *probing)
{
    uint64_t most, least = slate_probe_true_blocks(&probing->probe, &most);
    uint32_t bytes = probing->target->media.geometry.block_bytes;
    char has[SLATE_SIZE_TEXT], lost[SLATE_SIZE_TEXT];

    slate_size_both(least * bytes, has);
    slate_size_both(most * bytes, lost);
    if (least == most)
        print_line("It has", PAINT_BAD, "%s: %llu blocks; beyond that, %s", has,
                   (unsigned long long)least,
                   probing->probe.alias != 0
                       ? "writing starts over at the beginning"
                       : "what is written is lost");
    else
        print_line("It has", PAINT_BAD, "at least %s, and less than %s", has,
                   lost);
}

/* What was found is kept in mind, and told by whoever looks at it next. */
static void keep_in_mind(const struct probing *probing)
{
    uint64_t most, least = slate_probe_true_blocks(&probing->probe, &most);

    if (slate_probe_verdict(&probing->probe) == SLATE_VERDICT_FALSE_CAPACITY)
        (void)capacity_keep(probing->target, least);
    else if (slate_probe_verdict(&probing->probe) == SLATE_VERDICT_HOLDS)
        capacity_drop(probing->target);
}

static void tell_what_helps(const struct probing *probing)
{
    if (capacity_of(probing->target) == 0)
        return;
    printf("\nTo use what is there, at your own risk:\n"
           "  trueslate renew %s --within proved%s\n",
           probing->target->name, probing->target->also);
}

static void tell(const struct probing *probing)
{
    const struct slate_probe *probe = &probing->probe;
    enum slate_verdict verdict = slate_probe_verdict(probe);
    bool bad = slate_verdict_is_bad(verdict);
    char words[400];

    view_device(probing->target);
    if (probing->put_back)
        print_line("Put back", PAINT_GOOD,
                   "what an earlier probe had left unrestored");
    if (probing->alone > 0)
        print_line("Left alone", PAINT_PLAIN,
                   "what a probe kept that was cut on another medium in this "
                   "reader, or before it wrote anything");
    tell_places(probing);
    print_line("Found", bad ? PAINT_BAD : PAINT_GOOD, "%s",
               slate_verdict_words(verdict));
    if (verdict == SLATE_VERDICT_FALSE_CAPACITY)
        tell_capacity(probing);
    if (probe->lost > 0) {
        probing_name_lost(probe, words);
        print_line("NOT BACK", PAINT_BAD, "%s", words);
        print_line("Kept in", PAINT_BAD, "%s", probing->file);
        return;
    }
    print_line("Restored", PAINT_GOOD, "%s",
               probe->leftovers == 0
                   ? "every block that was tried is as it was"
                   : "every block that was tried is as it was; zeros stand "
                     "where an earlier probe had left its own");
    if (verdict == SLATE_VERDICT_FALSE_CAPACITY)
        tell_what_helps(probing);
}

static json_t *report(const struct probing *probing)
{
    const struct slate_probe *probe = &probing->probe;
    enum slate_verdict verdict = slate_probe_verdict(probe);
    uint64_t most, least = slate_probe_true_blocks(probe, &most);
    json_t *places = report_made(json_array());

    for (uint32_t i = 0; i < probing->tried.places; i++)
        json_array_append_new(
            places, report_pack("{s:I, s:s}", "block",
                                (json_int_t)probing->tried.lba[i], "state",
                                slate_place_name(probing->tried.place[i])));
    return report_pack(
        "{s:s, s:o, s:s, s:b, s:s, s:I, s:I, s:i, s:o, s:b, s:i, s:o}", "shape",
        "trueslate.probe/2", "device", report_device(probing->target),
        "verdict", slate_verdict_name(verdict), "trusted",
        verdict != SLATE_VERDICT_UNKNOWN && !slate_verdict_is_bad(verdict),
        "text", slate_verdict_words(verdict), "blocks_held", (json_int_t)least,
        "first_block_lost", (json_int_t)most, "blocks_not_restored",
        (int)probe->lost, "kept_in",
        report_shown(probe->lost > 0 ? probing->file : ""),
        "earlier_probe_put_back", probing->put_back, "kept_for_other_media",
        (int)probing->alone, "places", places);
}

static int conclude(const struct probing *probing)
{
    enum slate_verdict verdict = slate_probe_verdict(&probing->probe);

    if (probing->probe.lost > 0)
        return probing_fail_lost(probing);
    if (verdict == SLATE_VERDICT_UNKNOWN)
        return fail(SLATE_ERR_STOPPED,
                    "%s: the probe was interrupted; every block is as it was",
                    probing->target->address);
    if (slate_verdict_is_bad(verdict))
        return fail(SLATE_ERR_UNPROVED, "%s is not to be trusted: %s",
                    probing->target->media.tag, slate_verdict_name(verdict));
    return 0;
}

/* What was found; where nothing was, why. */
static int write_ticket(const struct probing *probing, time_t began, int code)
{
    enum slate_verdict verdict = slate_probe_verdict(&probing->probe);
    struct ticket_job job = {.verb = probing->options->verb->name,
                             .target = probing->target,
                             .began = began,
                             .code = code,
                             .outcome = verdict == SLATE_VERDICT_UNKNOWN
                                            ? say_last()
                                            : slate_verdict_words(verdict)};

    if (probing->options->evidence == NULL)
        return code;
    job.report = report(probing);
    return ticket_write_one(probing->options, &job);
}

/* Once there is consent. */
static int prove(struct probing *probing)
{
    time_t began = ticket_now();
    int code;

    probing->gives_up = probing->options->give_up;
    code = probing_do(probing);
    if (code == 0) {
        keep_in_mind(probing);
        if (probing->options->json)
            code = report_print(report(probing));
        else
            tell(probing);
    }
    THEN(code, conclude(probing));
    if (probing->probe.places > 0) /* it was started */
        code = write_ticket(probing, began, code);
    free(probing->work);
    return then_do(probing->target, probing->options, code);
}

int verb_probe(const struct options *options)
{
    static struct target target;
    static struct probing probing;
    int code;

    probing.options = options;
    probing.target = &target;
    code = target_named(&target, options);
    THEN(code, target_look(&target));
    THEN(code, ticket_may_write(options, &target));
    if (code == 0 && !options->full)
        code = door_through(&target, options,
                            "A probe writes to some blocks and restores them.",
                            false);
    THEN(code, options->full ? probe_full(&target, options) : prove(&probing));
    target_close(&target);
    return code;
}
