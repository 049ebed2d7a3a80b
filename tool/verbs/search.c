/* SPDX-License-Identifier: MIT */
/* search: volumes that no partition holds. */
#include <inttypes.h>

#include "verbs/verbs.h"
#include "view/view.h"
#include "term/term.h"
#include "look/look.h"

#define FOUND_MOST 64u

/* One that can be put back without a choice between two. */
static bool is_plain(const struct slate_lost *lost)
{
    return (lost->evidence &
            (SLATE_LOST_OVERLAP | SLATE_LOST_TAKEN | SLATE_LOST_HOLLOW)) == 0;
}

static uint32_t count_plain(const struct slate_search *search)
{
    uint32_t plain = 0;

    for (uint32_t i = 0; i < search->count; i++)
        plain += is_plain(&search->lost[i]) ? 1 : 0;
    return plain;
}

/* False when it was stopped. */
static bool run(struct slate_search *search)
{
    struct progress progress;
    bool go_on = true;

    progress_catch_interrupts();
    progress_begin(&progress, "Searching");
    while (go_on && !search->finished && slate_search_step(search) == SLATE_OK)
        go_on = progress_count(&progress, search->places,
                               search->places > search->total ? search->places
                                                              : search->total,
                               "places");
    progress_end(&progress);
    return search->finished || search->status != SLATE_OK;
}

static void tell_lost(const struct slate_lost *lost, uint32_t block)
{
    char words[400];
    struct slate_text text;

    print_line("At", is_plain(lost) ? PAINT_GOOD : PAINT_BAD,
               "block %" PRIu64 ": %s%s%s%s, %s", lost->first,
               slate_volume_words(lost->volume.kind),
               lost->volume.label[0] == '\0' ? "" : " \"", lost->volume.label,
               lost->volume.label[0] == '\0' ? "" : "\"",
               in_both(lost->count * block).words);
    slate_text_start(&text, words, sizeof words);
    slate_lost_words(lost, &text);
    print_line("", PAINT_PLAIN, "%s", words);
}

/* The command that puts them back. */
static void tell_command(const struct slate_search *search,
                         const struct target *target)
{
    const char *comma = "";

    if (count_plain(search) == 0)
        return;
    printf("\nTo see the table with these back in it, and with --consent to do "
           "it; nothing of\nthe volumes is written:\n  trueslate mend %s "
           "--put-back ",
           target->name);
    for (uint32_t i = 0; i < search->count; i++) {
        if (!is_plain(&search->lost[i]))
            continue;
        printf("%s%" PRIu64, comma, search->lost[i].first);
        comma = ",";
    }
    printf("%s\n", target->also);
}

/* How far the search went. */
static void tell_searched(const struct slate_search *search,
                          const struct target *target)
{
    uint32_t block = target->media.geometry.block_bytes;

    if (search->places == 0) {
        print_line("Searched", PAINT_PLAIN, "%s",
                   target->facts.marked
                       ? "nothing: a renewal is unfinished on it"
                       : "nothing: there is no place outside of partitions and "
                         "volumes");
        return;
    }
    print_line("Searched", PAINT_PLAIN,
               "%" PRIu64
               " places where no partition is: the first MiB block by block, "
               "then each multiple of %s, and where old systems put "
               "partitions; what begins elsewhere was not looked for",
               search->places, in_binary(search->every * block).words);
    if (search->unread > 0)
        print_line("", PAINT_BAD,
                   "%" PRIu64 " of these places could not be read",
                   search->unread);
}

static void tell_found(const struct slate_search *search,
                       const struct target *target)
{
    struct map map;

    map_of_facts(&target->facts, &map);
    print_bar("Now", &map);
    print_stretches(&map);
    map_forget(&map);
    if (search->count > 0) {
        map_of_lost(search, &map);
        print_bar("Found", &map);
        map_forget(&map);
    }
    putchar('\n');
    tell_searched(search, target);
    print_line("Found", search->found > 0 ? PAINT_GOOD : PAINT_PLAIN,
               "%u volume%s that no partition holds", search->found,
               search->found == 1 ? "" : "s");
    for (uint32_t i = 0; i < search->count; i++)
        tell_lost(&search->lost[i], target->media.geometry.block_bytes);
    if (search->found > search->count)
        print_line("", PAINT_BAD, "the others are not listed");
    if (count_plain(search) < search->count)
        print_line("Choose", PAINT_PLAIN,
                   "of those that share blocks name the one that you know to "
                   "be the younger one");
    tell_command(search, target);
}

static json_t *report_lost(const struct slate_lost *lost, uint32_t block)
{
    json_t *evidence = report_made(json_array());

    for (uint32_t bit = 1; slate_lost_name(bit)[0] != '\0'; bit <<= 1) {
        if ((lost->evidence & bit) != 0)
            json_array_append_new(
                evidence, report_made(json_string(slate_lost_name(bit))));
    }
    return report_pack("{s:I, s:I, s:I, s:s, s:s, s:o}", "first",
                       (json_int_t)lost->first, "blocks",
                       (json_int_t)lost->count, "bytes",
                       (json_int_t)lost->count * (json_int_t)block, "volume",
                       slate_volume_words(lost->volume.kind), "label",
                       lost->volume.label, "evidence", evidence);
}

static int report(const struct slate_search *search,
                  const struct target *target)
{
    json_t *volumes = report_made(json_array());

    for (uint32_t i = 0; i < search->count; i++)
        json_array_append_new(
            volumes,
            report_lost(&search->lost[i], target->media.geometry.block_bytes));
    return report_print(
        report_pack("{s:s, s:s, s:o, s:I, s:I, s:b, s:I, s:I, s:o}", "shape",
                    "trueslate.search/1", "tag", target->facts.tag, "device",
                    report_device(target), "places", (json_int_t)search->places,
                    "unread", (json_int_t)search->unread, "finished",
                    search->finished, "next", (json_int_t)search->at, "found",
                    (json_int_t)search->found, "volumes", volumes));
}

static int search(const struct options *options, struct target *target)
{
    static struct slate_lost lost[FOUND_MOST];
    struct slate_search search;
    enum slate_status status = slate_search_start(
        &search, &target->media, &target->facts, options->every,
        options->from_block, lost, FOUND_MOST, target->work);
    bool whole;
    int code = 0;

    if (status == SLATE_ERR_ARGUMENT)
        return fail(status,
                    "%s: expected --every of at least a block, and a table of "
                    "at most %u partitions",
                    target->address, target->facts.layout.room);
    if (status != SLATE_OK)
        return fail_plainly(status, target->address);
    whole = run(&search);
    if (search.status != SLATE_OK)
        return fail_with_fault(search.status, &target->media, target->address);
    if (options->json) {
        code = report(&search, target);
    } else {
        view_device(target);
        putchar('\n');
        tell_found(&search, target);
    }
    return whole ? code
                 : fail(SLATE_ERR_STOPPED,
                        "the search was stopped; to go on from there, add "
                        "--from %" PRIu64,
                        search.at);
}

int verb_search(const struct options *options)
{
    struct target target = {0};
    int code = target_named(&target, options);

    THEN(code, target_look(&target));
    THEN(code, search(options, &target));
    target_close(&target);
    return code;
}
