/* SPDX-License-Identifier: MIT */
/* advise: who will read it, and what it is best set up with then. */
#include <stdio.h>

#include "drafted.h"
#include "paint.h"
#include "report.h"
#include "say.h"
#include "verbs.h"
#include "view.h"

/* "MBR, FAT32, clusters of 8192 bytes", or why not. */
static void sum_up(const struct slate_draft *draft, enum slate_status status,
                   char *words, size_t room)
{
    static const char *const tables[] = {"no table", "MBR", "GPT"};
    const struct slate_part *part = &draft->part[0];
    struct slate_figures figures;
    struct slate_text text;

    slate_text_start(&text, words, room);
    if (status != SLATE_OK) {
        slate_text_add(&text, "cannot be made here: ");
        slate_draft_refusal_words(draft, status, &text);
        return;
    }
    part->format->figures(&part->volume, &figures);
    slate_text_add(&text, tables[draft->table.kind]);
    slate_text_add(&text, ", ");
    slate_text_add(&text, slate_volume_words(part->format->kind));
    slate_text_add(&text, ", clusters of ");
    slate_text_number(&text, figures.cluster_bytes);
    slate_text_add(&text, " bytes");
}

static void view_use(const struct slate_facts *facts, enum slate_use use)
{
    struct slate_draft *draft = drafted_new();
    enum slate_status status = slate_advise_use(draft, facts, use);
    struct slate_text text;
    char words[512];

    sum_up(draft, status, words, sizeof words);
    putchar('\n');
    print_wrapped(slate_use_name(use),
                  status == SLATE_OK ? PAINT_STRONG : PAINT_BAD, words);
    slate_text_start(&text, words, sizeof words);
    for (uint32_t i = 0;
         status == SLATE_OK && slate_draft_remark(draft, i, &text); i++) {
        print_wrapped("", PAINT_PLAIN, words);
        slate_text_start(&text, words, sizeof words);
    }
    drafted_free(draft);
}

static void view(const struct target *target)
{
    view_device(target);
    puts("\nWho will read it?");
    for (uint32_t use = 0; use < SLATE_USE_COUNT; use++)
        view_use(&target->facts, (enum slate_use)use);
    printf("\nTo see what setting it up for one of them would do:\n"
           "  trueslate draft %s --for USE%s\n",
           target->name, target->also);
}

static json_t *report_use(const struct slate_facts *facts, enum slate_use use)
{
    struct slate_draft *draft = drafted_new();
    enum slate_status status = slate_advise_use(draft, facts, use);
    const struct slate_part *part = &draft->part[0];
    struct slate_figures figures = {.cluster_bytes = 0};
    char words[512];
    json_t *one;

    sum_up(draft, status, words, sizeof words);
    if (status == SLATE_OK)
        part->format->figures(&part->volume, &figures);
    one = report_made(json_pack(
        "{s:s, s:s, s:b, s:s, s:s?, s:s?, s:i, s:o}", "use",
        slate_use_name(use), "readers", slate_use_words(use), "feasible",
        status == SLATE_OK, "text", words, "table",
        status == SLATE_OK ? report_table(draft->table.kind) : NULL, "volume",
        status == SLATE_OK ? part->format->composer.name : NULL,
        "cluster_bytes", (int)figures.cluster_bytes, "remarks",
        status == SLATE_OK ? report_remarks(draft)
                           : report_made(json_array())));
    drafted_free(draft);
    return one;
}

static int report(const struct target *target)
{
    json_t *list = report_made(json_array());

    for (uint32_t use = 0; use < SLATE_USE_COUNT; use++)
        json_array_append_new(list,
                              report_use(&target->facts, (enum slate_use)use));
    return report_print(report_made(json_pack(
        "{s:s, s:s, s:o, s:o}", "shape", "trueslate.advise/1", "tag",
        target->facts.tag, "device", report_device(target), "uses", list)));
}

int verb_advise(const struct options *options)
{
    struct target target;
    int code = target_open(&target, options->operand, options->bench,
                           options->block_bytes);

    if (code == 0)
        code = target_look(&target);
    if (code == 0 && options->json)
        code = report(&target);
    else if (code == 0)
        view(&target);
    target_close(&target);
    return code;
}
