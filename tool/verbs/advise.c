/* SPDX-License-Identifier: MIT */
/* advise: who will read it, and what it is best set up with then. */

#include "draft/draft.h"
#include "term/term.h"
#include "report/report.h"
#include "verbs/verbs.h"
#include "view/view.h"
#include "look/look.h"

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

/* All that is said of a use. */
struct said {
    bool feasible;
    char choice[512], reasons[1024];
};

static void say_use(const struct slate_facts *facts, enum slate_use use,
                    struct said *said)
{
    struct slate_draft *draft = drafted_new();
    enum slate_status status = slate_advise_use(draft, facts, use);
    struct slate_text text;

    memset(said, 0, sizeof *said);
    said->feasible = status == SLATE_OK;
    sum_up(draft, status, said->choice, sizeof said->choice);
    slate_text_start(&text, said->reasons, sizeof said->reasons);
    for (uint32_t i = 0; said->feasible && slate_draft_remark(draft, i, &text);
         i++)
        slate_text_add(&text, " ");
    drafted_free(draft);
}

/* Uses of which the same is said stand together: the others, in words. */
static void join_others(const struct said *said, bool *told, uint32_t first,
                        char *words, size_t room)
{
    struct slate_text text;

    slate_text_start(&text, words, room);
    for (uint32_t use = first + 1; use < SLATE_USE_COUNT; use++) {
        if (told[use] || memcmp(&said[use], &said[first], sizeof *said) != 0)
            continue;
        told[use] = true;
        slate_text_add(&text, words[0] == '\0' ? "also " : ", ");
        slate_text_add(&text, slate_use_name((enum slate_use)use));
    }
}

static void view_uses(const struct said *said, bool *told, uint32_t first)
{
    const char *label = slate_use_name((enum slate_use)first);
    char words[200];

    join_others(said, told, first, words, sizeof words);
    putchar('\n');
    if (words[0] != '\0') {
        print_line(label, PAINT_STRONG, "%s", words);
        label = "";
    }
    print_line(label, said[first].feasible ? PAINT_GOOD : PAINT_BAD, "%s",
               said[first].choice);
    if (said[first].feasible)
        print_line("", PAINT_PLAIN, "%s", said[first].reasons);
}

static void view(const struct target *target)
{
    static struct said said[SLATE_USE_COUNT];
    bool told[SLATE_USE_COUNT] = {false};

    view_device(target);
    puts("\nWho will read it?");
    for (uint32_t use = 0; use < SLATE_USE_COUNT; use++)
        say_use(&target->facts, (enum slate_use)use, &said[use]);
    for (uint32_t use = 0; use < SLATE_USE_COUNT; use++) {
        if (!told[use])
            view_uses(said, told, use);
    }
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
    one = report_pack(
        "{s:s, s:s, s:b, s:s, s:s?, s:s?, s:i, s:o}", "use",
        slate_use_name(use), "readers", slate_use_words(use), "feasible",
        status == SLATE_OK, "text", words, "table",
        status == SLATE_OK ? slate_table_name(draft->table.kind) : NULL,
        "volume", status == SLATE_OK ? part->format->composer.name : NULL,
        "cluster_bytes", (int)figures.cluster_bytes, "remarks",
        status == SLATE_OK ? report_remarks(draft) : report_made(json_array()));
    drafted_free(draft);
    return one;
}

static int report(const struct target *target)
{
    json_t *list = report_made(json_array());

    for (uint32_t use = 0; use < SLATE_USE_COUNT; use++)
        json_array_append_new(list,
                              report_use(&target->facts, (enum slate_use)use));
    return report_print(report_pack(
        "{s:s, s:s, s:o, s:o}", "shape", "trueslate.advise/1", "tag",
        target->facts.tag, "device", report_device(target), "uses", list));
}

int verb_advise(const struct options *options)
{
    struct target target;
    int code = target_named(&target, options);

    THEN(code, target_look(&target));
    if (code == 0 && options->json)
        code = report(&target);
    else if (code == 0)
        view(&target);
    target_close(&target);
    return code;
}
